package marking

import (
	"bytes"
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/golden"
)

// The sheet of every shipped drill: what is asked and which faults can be added by hand.
func TestEverySheetAsItIs(t *testing.T) {
	var out bytes.Buffer
	for _, d := range drill.Shipped().InOrder() {
		for _, side := range d.Sides() {
			for _, class := range []craft.Class{craft.Light, craft.Heavy} {
				task, err := d.Lay(side, 1, class, nil)
				if err != nil {
					fmt.Fprintf(&out, "%s %s %s: %v\n", d.Key, side, class, err)
					continue
				}
				s := SheetOf(task)
				fmt.Fprintf(&out, "%s %s %s: %s; %.3f m\n", d.Key, side, class, s.Asked, s.Offset)
				for _, x := range s.Steps {
					x.Words = ""
					data, err := json.Marshal(x)
					if err != nil {
						t.Fatal(err)
					}
					fmt.Fprintf(&out, "  %s\n", data)
				}
				for _, f := range s.Faults {
					fmt.Fprintf(&out, "  %s %s\n", f.Code, f.Words)
				}
			}
		}
	}
	golden.Check(t, "sheets.golden", out.Bytes())
}

// A day on a device from nothing to some evidence: the list, the pages that are asked for, and what is refused.
func TestADeskAsItIs(t *testing.T) {
	var out bytes.Buffer
	say := func(what string, v any, err error) {
		data, jerr := json.MarshalIndent(v, "", " ")
		if jerr != nil {
			t.Fatal(jerr)
		}
		if err != nil {
			data = []byte("refused: " + err.Error())
		}
		fmt.Fprintf(&out, "%s: %s\n", what, data)
	}
	for _, day := range []struct {
		name   string
		change func(*Bundle)
	}{
		{"nothing", nil},
		{"flown", func(b *Bundle) {
			wind := 3.0
			b.WindMps, b.HandOn = &wind, true
			for i := range 6 {
				a := record.Attempt{ID: fmt.Sprint("e", i), At: at.AddDate(0, 0, -i), Drill: "ground-effect-hover",
					Side: field.NoSide, Aids: craft.PositionHold, Level: 1, CraftClass: craft.Light,
					Source: score.Observed, Verdict: score.Pass, Counts: i != 2}
				b.Students[0].Evidence = append(b.Students[0].Evidence, EvidenceOf(&a))
			}
		}},
	} {
		name := day.name
		d, err := Open(bundle(t, day.change))
		if err != nil {
			t.Fatal(err)
		}
		say(name+": rows", d.Rows(at), nil)
		for i, w := range []Wanted{
			{Student: "s1"}, {Student: "nobody"}, {Student: "s1", Drill: "none"},
			{Student: "s1", Drill: "yaw-quarter"}, {Student: "s1", Drill: "yaw-quarter", Side: field.RightSide, Level: 2},
			{Student: "s1", Drill: "hover-tail-in", Side: field.LeftSide, Level: 9, Aids: craft.Tumble},
			{Student: "s1", Drill: "hover-tail-in", Level: 3, Aids: craft.HeightHold},
			{Student: "s1", Drill: "hand-catch"}, {Student: "s1", Drill: "goggles-hover"},
		} {
			p, err := d.Page(w, at)
			p.Drills, p.Sheet.Steps, p.Sheet.Faults = nil, nil, nil
			say(fmt.Sprintf("%s: page %d", name, i), p, err)
		}
		o, marks := hover("a1", at)
		for n := range len(marks) + 1 {
			s, e, err := d.Judge(o, marks[:n], marks[max(0, n-1)].TS+0.5, at.Add(time.Minute))
			say(fmt.Sprintf("%s: after %d marks", name, n), []any{s, e}, err)
		}
		say(name+": rows afterwards", d.Rows(at.Add(time.Hour)), nil)
	}
	golden.Check(t, "desk.golden", out.Bytes())
}

// A device's clock: how far off it may be, and in which order attempts stay.
func TestBeganAtItsEdges(t *testing.T) {
	now := time.Date(2026, 5, 2, 10, 0, 0, 0, time.UTC)
	ago := func(s float64) time.Time { return now.Add(-time.Duration(s * float64(time.Second))) }
	at := func(s float64) *time.Time { x := ago(s); return &x }
	for _, c := range []struct {
		name          string
		device        time.Time
		off           time.Duration
		before, after *time.Time
		want          time.Time
	}{
		{"right", ago(60), 0, nil, nil, ago(60)},
		{"off by half a minute is left", ago(60), 30 * time.Second, nil, nil, ago(60)},
		{"off by a little more is set right", ago(60), 30*time.Second + time.Millisecond, nil, nil,
			ago(30).Add(time.Millisecond)},
		{"slow", ago(60), -30*time.Second - time.Millisecond, nil, nil, ago(90).Add(-time.Millisecond)},
		{"never later than now", ago(-5), 0, nil, nil, now},
		{"now itself", now, 0, nil, nil, now},
		{"after the one before", ago(60), 0, at(50), nil, ago(50).Add(time.Millisecond)},
		{"at the one before", ago(60), 0, at(60), nil, ago(60).Add(time.Millisecond)},
		{"later than the one before", ago(60), 0, at(61), nil, ago(60)},
		{"before the one after", ago(60), 0, nil, at(70), ago(70).Add(-time.Millisecond)},
		{"at the one after", ago(60), 0, nil, at(60), ago(60).Add(-time.Millisecond)},
		{"earlier than the one after", ago(60), 0, nil, at(59), ago(60)},
	} {
		if got := Began(c.device, c.off, now, c.before, c.after); !got.Equal(c.want) {
			t.Errorf("%s: %v, want %v", c.name, got, c.want)
		}
	}
}
