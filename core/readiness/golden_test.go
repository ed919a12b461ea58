package readiness

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/golden"
)

// history is a student's record by chance from a seed: weeks of attempts that go better with time, on several aids,
// sides, classes, places and winds, with some that do not count and some that are corrected.
func history(seed uint64, weeks int) *record.Record {
	rng := rand.New(rand.NewPCG(seed, 99))
	cat := shipped
	keys := cat.ProgrammeKeys()
	rec := &record.Record{Format: "maestrale-record/1", School: "Pan", TimeZone: "Europe/Rome",
		Student: record.Student{ID: "s1", Name: "Ada"}, Ladder: keys[int(seed)%len(keys)]}
	cells := cat.Programmes[rec.Ladder].Cells()
	begin := time.Date(2026, 3, 2, 9, 0, 0, 0, rome)
	for day := range weeks * 3 {
		at := begin.AddDate(0, 0, day*7/3)
		for n := range 4 + rng.IntN(5) {
			reach := min(len(cells), 4+day*2)
			c := cells[rng.IntN(reach)]
			if d := cat.Drills[c.Drill]; d.Sided {
				c.Side = []field.Side{field.LeftSide, field.RightSide}[rng.IntN(2)]
			}
			wind, margin := 6*rng.Float64(), rng.Float64()-0.3
			a := record.Attempt{ID: fmt.Sprintf("%03d-%02d", day, n), At: at.Add(time.Duration(n*9) * time.Minute),
				Drill: c.Drill, Side: c.Side, Aids: c.Aids, Level: 1 + rng.IntN(2), CraftClass: craft.Light,
				CraftType: "poiana", Source: score.Observed, Frame: "nose", Eyes: "craft", Light: "day", Counts: true,
				Site: []string{"meadow", "sluice"}[rng.IntN(2)], WindMps: &wind, Margin: &margin,
				Answering: rng.IntN(6) == 0, Verdict: score.Pass}
			switch chance := rng.Float64(); {
			case chance > 0.45+0.02*float64(day):
				a.Verdict = score.Fail
			case chance < 0.03:
				a.Verdict = score.Incomplete
			}
			switch rng.IntN(12) {
			case 0:
				a.Source = score.Sim
			case 1:
				a.Counts, a.WhyNot = false, "wind"
			case 2:
				a.CraftClass, a.CraftType = craft.Micro, "rondine"
			case 3:
				a.Light = "dusk"
			}
			rec.Attempts = append(rec.Attempts, a)
			if rng.IntN(25) == 0 {
				fix := a
				fix.ID, fix.Corrects, fix.Verdict, fix.Margin = a.ID+"-v", a.ID, score.Void, nil
				rec.Attempts = append(rec.Attempts, fix)
			}
		}
	}
	for _, g := range cat.Gates {
		for _, a := range g.Witnessed {
			rec.Witnessed = append(rec.Witnessed, record.Witnessed{Act: a.Key, At: begin.AddDate(0, 0, 6), By: "I"})
		}
	}
	return rec
}

// What the rules, the estimates, the overview and the advice say of made-up records. A change of a threshold shows here
// as a difference to read.
func TestReportsAsTheyAre(t *testing.T) {
	var out bytes.Buffer
	say := func(what string, v any) {
		data, err := json.Marshal(v)
		if err != nil {
			t.Fatal(err)
		}
		// One line for each thing in a list, so that a difference can be read.
		fmt.Fprintf(&out, "%s: %s\n", what, bytes.ReplaceAll(data, []byte("},{"), []byte("},\n{")))
	}
	for seed := range uint64(3) {
		rec := history(seed, 2+3*int(seed))
		o := Options{Estimates: seed > 0}
		if seed == 2 {
			kind := shipped.Craft["poiana"]
			o.Type = &kind
		}
		r, err := Ready(rec, shipped, o)
		if err != nil {
			t.Fatal(err)
		}
		say(fmt.Sprintf("record %d", seed), r)
		known := Know(shipped, rec.Ladder, "poiana", Sort(rec.Attempts, shipped.Drills, r.At, rome), rec.Witnessed, nil)
		var gates []drill.Gate
		for _, key := range shipped.GateKeys() {
			gates = append(gates, shipped.Gates[key])
		}
		say("overview", Oversee(known.Programme, gates, known.On, known.Evidence, rec.Witnessed, nil))
		say("ladder", known.Ladder())
		for _, after := range []time.Duration{0, time.Hour, 26 * time.Hour} {
			session := Session(rec.Attempts, r.At.Add(after), rome)
			for _, feels := range []Feeling{Calm, Tense, Shaken} {
				say(fmt.Sprintf("advice after %v, %v", after, feels), Advise(session, feels, shipped.Drills))
			}
		}
		for _, back := range []int{0, 13, 14, 15, 29, 60, 100} {
			later := Sort(rec.Attempts, shipped.Drills, r.At.AddDate(0, 0, back), rome)
			line := ""
			for _, k := range later.Keys() {
				c := later.Cell(k)
				line += fmt.Sprintf(" %s/%s/%d=%s,%d,%s", k.Drill, k.Aids, k.Level, c.Standing, c.Needs, c.NeedsWords())
			}
			fmt.Fprintf(&out, "%d days later:%s\n", back, line)
		}
	}
	golden.Check(t, "reports.golden", out.Bytes())
}
