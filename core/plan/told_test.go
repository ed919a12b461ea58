package plan

import (
	"math"
	"slices"
	"testing"
	"time"

	"maestrale/core/craft"
)

// A lesson holds no drill that goes farther than the student tells the nose, and names
// what was left out for it; by better eyes it is the same lesson as without the limit.
func TestALessonStaysWithinTheEyes(t *testing.T) {
	ask := LessonAsk{Class: craft.Light, Type: &poiana, Aids: craft.PositionHold, Packs: 3, PackMinutes: 9, WindMps: -1}
	known := knownBy(nil, monday)
	free, err := PlanLesson(ask, known, nil)
	if err != nil || len(free.Blocks) == 0 || len(free.TooFar) != 0 {
		t.Fatalf("%+v, %v", free, err)
	}
	reach := func(b Block) float64 {
		task, err := catalogue.Drills[b.Cell.Drill].Lay(b.Cell.Side, 1, craft.Light, nil)
		if err != nil {
			t.Fatal(err)
		}
		return task.ReachM()
	}
	far := 0.0
	for _, b := range free.Blocks {
		far = math.Max(far, reach(b))
	}
	ask.TellM = far + 0.01
	if same, err := PlanLesson(ask, known, nil); err != nil || !slices.EqualFunc(same.Blocks, free.Blocks,
		func(a, b Block) bool { return a.Cell == b.Cell }) {
		t.Errorf("%+v, %v", same, err)
	}
	ask.TellM = far - 0.01
	short, err := PlanLesson(ask, known, nil)
	if err != nil || len(short.TooFar) == 0 {
		t.Fatalf("%+v, %v", short, err)
	}
	for _, b := range short.Blocks {
		if r := reach(b); r > ask.TellM {
			t.Errorf("%s goes %.1f m", b.Cell.Drill, r)
		}
		if b.Fallback != "" {
			d := catalogue.Drills[b.Fallback]
			task, err := d.Lay(d.Sides()[0], 1, craft.Light, nil)
			if err != nil || task.ReachM() > ask.TellM {
				t.Errorf("back to %s, which goes too far, %v", b.Fallback, err)
			}
		}
	}
	if d := short.Document(); !slices.Equal(d.TooFar, short.TooFar) {
		t.Error("the document does not say what was left out")
	}
	ask.TellM = -1
	if _, err := PlanLesson(ask, known, nil); err == nil {
		t.Error("eyes that tell to −1 m were taken")
	}
}

// The same drill twice in a row on one pack is one block.
func TestNoBlockTwiceInARow(t *testing.T) {
	for packs := 1; packs <= 5; packs++ {
		for _, minutes := range []float64{6, 9, 14} {
			l, err := PlanLesson(LessonAsk{Class: craft.Light, Type: &poiana, Aids: craft.PositionHold, Packs: packs,
				PackMinutes: minutes, WindMps: -1, Never: keysBut("hover-tail-in",
					"pad-series")}, knownBy(nil, monday), nil)
			if err != nil {
				t.Fatal(err)
			}
			flown := map[int]float64{}
			for i, b := range l.Blocks {
				flown[b.Pack] += b.Minutes
				if i > 0 && l.Blocks[i-1].Pack == b.Pack && l.Blocks[i-1].Cell == b.Cell {
					t.Errorf("%d packs of %v minutes: %s twice in a row", packs, minutes, b.Cell.Drill)
				}
			}
			for pack, m := range flown {
				if m > minutes+1e-9 {
					t.Errorf("pack %d flies %.1f of %v minutes", pack, m, minutes)
				}
			}
		}
	}
}

// keysBut are the catalogue's drills but for some.
func keysBut(but ...string) (out []string) {
	for k := range catalogue.Drills {
		if !slices.Contains(but, k) {
			out = append(out, k)
		}
	}
	return out
}

// What the meter reads takes the place of what was expected for now; what somebody said holds until it is changed.
func TestWithMeter(t *testing.T) {
	now := time.Date(2026, 5, 1, 10, 0, 0, 0, time.UTC)
	at := func(minutes int, mps float64) Wind {
		return Wind{From: now.Add(time.Duration(minutes) * time.Minute), Mps: mps}
	}
	said := func(w Wind) Wind { w.Said = true; return w }
	for what, k := range map[string]struct {
		list  []Wind
		meter float64
		want  map[int]float64 // the wind so many minutes on
	}{
		"nothing expected":        {nil, 6, map[int]float64{0: 6, 300: 6}},
		"weaker than expected":    {[]Wind{at(-60, 8)}, 3, map[int]float64{0: 3, 200: 3}},
		"a rise later":            {[]Wind{at(-60, 3), at(90, 9)}, 4, map[int]float64{0: 4, 80: 4, 91: 9}},
		"a fall within the hour":  {[]Wind{at(-60, 3), at(20, 2)}, 7, map[int]float64{21: 7, 59: 7, 61: 2}},
		"a fall, then a rise":     {[]Wind{at(20, 2), at(40, 9)}, 7, map[int]float64{21: 7, 41: 9, 90: 9}},
		"two falls":               {[]Wind{at(20, 2), at(40, 3)}, 7, map[int]float64{21: 7, 50: 7, 61: 3}},
		"said, and stronger":      {[]Wind{said(at(-30, 9))}, 4, map[int]float64{0: 9, 300: 9}},
		"said, the meter over it": {[]Wind{said(at(-30, 5))}, 8, map[int]float64{0: 8, 300: 8}},
	} {
		got := WithMeter(k.list, now, k.meter)
		for min, mps := range k.want {
			if is, ok := WindAt(got, now.Add(time.Duration(min)*time.Minute)); !ok || is != mps {
				t.Errorf("%s: after %d min %v, want %v: %+v", what, min, is, mps, got)
			}
		}
	}
}
