package plan

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
)

var (
	catalogue = drill.Shipped()
	rome, _   = time.LoadLocation("Europe/Rome")
	monday    = time.Date(2026, 3, 2, 9, 0, 0, 0, rome)
	poiana    = catalogue.Craft["poiana"]
)

func ask(aids craft.Aids) LessonAsk {
	return LessonAsk{Class: craft.Light, Type: &poiana, Aids: aids, Packs: 3, PackMinutes: 9, WindMps: -1}
}

func knownBy(list []record.Attempt, at time.Time) *readiness.Known {
	return readiness.Know(catalogue, "position-hold-first", poiana.Key, readiness.Sort(list, catalogue.Drills, at, rome),
		nil,
		nil)
}

// Many lessons in all states of learning: no block is a drill whose builds are not held or
// practised, the minutes fit the packs, the wind is one that the drill wants, every block
// has a reason, and one with something that builds it a fallback.
func TestLessonsBreakNoRule(t *testing.T) {
	seeds := uint64(60)
	if testing.Short() {
		seeds = 15
	}
	var sides [2]int
	defer func() {
		if float64(sides[0]) < 0.85*float64(sides[1]) || sides[1] < 50 {
			t.Errorf("%d of %d neighbouring blocks of one drill change the side", sides[0], sides[1])
		}
	}()
	for seed := range seeds {
		r := rand.New(rand.NewPCG(seed, 5))
		who := newPupil(judgingLaws[0], seed%2 == 0, seed)
		var list []record.Attempt
		for n := range 1 + r.IntN(30) {
			at := monday.AddDate(0, 0, 3*n)
			a := LessonAsk{Class: craft.Light, Type: &poiana, Aids: []craft.Aids{craft.PositionHold,
				craft.HeightHold}[r.IntN(2)], Packs: 1 + r.IntN(4), PackMinutes: float64(5 +
				r.IntN(12)), WindMps: 7*r.Float64() - 1, Tense: r.IntN(4) == 0}
			if r.IntN(2) == 0 {
				from := 360 * r.Float64()
				a.WindFrom = &from
			}
			k := knownBy(list, at)
			l, err := PlanLesson(a, k, nil)
			if err != nil {
				t.Fatal(err)
			}
			checkLesson(t, &sides, l, a, k, list)
			for _, b := range l.Blocks {
				at = at.Add(5 * time.Minute)
				list = append(list, record.Attempt{ID: fmt.Sprint(len(list)), At: at, Drill: b.Cell.Drill, Side: b.Cell.Side,
					Aids: b.Cell.Aids, Level: 1, CraftClass: craft.Light, Source: score.Observed, Verdict: who.fly(b.Cell,
						at), Counts: true})
			}
		}
	}
}

// checkLesson counts in sides how many neighbouring blocks of one drill are on two sides, and how many there are.
func checkLesson(t *testing.T, sides *[2]int, l LessonPlan, a LessonAsk, k *readiness.Known, list []record.Attempt) {
	t.Helper()
	flown := map[string]bool{}
	for _, x := range list {
		flown[x.Drill] = flown[x.Drill] || x.Verdict == score.Pass
	}
	minutes := map[int]float64{}
	for i, b := range l.Blocks {
		d, ok := k.Catalogue.Drills[b.Cell.Drill]
		if !ok || d.Sided != (b.Cell.Side != field.NoSide) {
			t.Fatalf("block %+v", b)
		}
		for _, need := range d.Builds {
			if !flown[need] && !b.Kept {
				t.Fatalf("%s is planned, and %s was never passed", d.Key, need)
			}
		}
		if d.Closed != drill.Open {
			t.Fatalf("%s is closed", d.Key)
		}
		minutes[b.Pack] += b.Minutes
		if b.Why == "" || b.Minutes <= 0 || b.Pack < 1 || b.Pack > a.Packs {
			t.Fatalf("%+v", b)
		}
		if len(d.Builds) > 0 && b.Fallback == "" && !b.Kept {
			t.Fatalf("%+v has nothing to go back to", b)
		}
		if w := a.WindMps; w >= 0 && !b.Kept {
			if d.Wind.MaxMps > 0 && w > d.Wind.MaxMps {
				t.Fatalf("%s in %.1f m/s", d.Key, w)
			}
			if a.WindFrom != nil && w > 1 && d.Wind.From == "behind" && math.Abs(math.Remainder(*a.WindFrom-180, 360)) > 45 {
				t.Fatalf("%s with the wind from %.0f°", d.Key, *a.WindFrom)
			}
		}
		if a.Type != nil && !a.Type.Has(b.Cell.Aids) || b.Cell.Aids.Rank() > a.Aids.Rank() {
			t.Fatalf("%s in a lesson with %s", b.Cell.Aids, a.Aids)
		}
		if i > 0 && !b.Kept && b.Cell.Drill == l.Blocks[i-1].Cell.Drill && b.Cell.Side != field.NoSide {
			if sides[1]++; b.Cell.Side != l.Blocks[i-1].Cell.Side {
				sides[0]++
			}
		}
	}
	taken := map[string]float64{}
	for _, b := range l.Blocks {
		if taken[b.Cell.Drill] += b.Minutes; !b.Kept && taken[b.Cell.Drill] > float64(a.Packs)*a.PackMinutes/2+enjoyMinutes {
			t.Fatalf("%.0f of %.0f minutes for %s", taken[b.Cell.Drill], float64(a.Packs)*a.PackMinutes, b.Cell.Drill)
		}
	}
	for p, m := range minutes {
		if m > a.PackMinutes+1e-9 {
			t.Fatalf("%.1f min on pack %d of %.1f", m, p, a.PackMinutes)
		}
	}
	if len(l.Blocks) == 0 && l.Says == "" {
		t.Fatal("an empty lesson that does not say why")
	}
}

func TestTheFirstLesson(t *testing.T) {
	l, err := PlanLesson(ask(craft.PositionHold), knownBy(nil, monday), nil)
	if err != nil {
		t.Fatal(err)
	}
	if l.Toward != "unassisted-aids-on" || len(l.Blocks) < 2 || l.Blocks[0].Cell.Drill != "arm-disarm" ||
		l.Blocks[1].Cell.Drill != "ground-effect-hover" || !strings.Contains(l.Blocks[1].Why, "has not been flown yet") ||
		l.Blocks[0].Fallback != "" {
		t.Errorf("%+v", l)
	}
}

// held makes the passes that hold cells.
func held(at time.Time, cells ...drill.Cell) (list []record.Attempt) {
	for i, c := range cells {
		for d := range 3 {
			list = append(list, record.Attempt{ID: fmt.Sprintf("h%d-%d", i, d), At: at.AddDate(0, 0, d/2), Drill: c.Drill,
				Side: c.Side, Aids: c.Aids, Level: 1, CraftClass: craft.Light, Source: score.Observed, Verdict: score.Pass,
				Counts: true})
		}
	}
	return list
}

func TestWhatALessonLooksAt(t *testing.T) {
	// With everything of the ladder but the clause held, the lesson in the right wind is for
	// the clause; the instructor's block stands; a drill that is not wanted is not flown.
	var cells []drill.Cell
	for _, g := range []string{"unassisted-aids-on"} {
		cells = append(cells, catalogue.Gates[g].Cells...)
	}
	for key := range catalogue.Drills { // everything was practised once
		cells = append(cells, drill.Cell{Drill: key, Side: field.LeftSide, Aids: craft.PositionHold})
	}
	list := held(monday, cells...)
	a := ask(craft.PositionHold)
	a.WindMps = 3.5
	k := knownBy(list, monday.AddDate(0, 0, 2))
	for _, w := range catalogue.Gates["unassisted-aids-on"].Witnessed {
		k.Seen = append(k.Seen, record.Witnessed{Act: w.Key, At: monday, By: "I"})
	}
	l, err := PlanLesson(a, k, nil)
	if err != nil || len(l.Blocks) == 0 || l.Blocks[0].Cell.Drill != "hover-tail-in" || !strings.Contains(l.Blocks[0].Why,
		"meets what the gate asks about wind") || !l.Blocks[0].Answer {
		t.Fatalf("%+v %v", l.Blocks, err)
	}
	a.Keep = []Block{{Pack: 2, Cell: drill.Cell{Drill: "walk-along", Side: field.LeftSide, Aids: craft.PositionHold,
		Level: 1}, Minutes: 4}}
	a.Never = []string{"hover-tail-in"}
	l, err = PlanLesson(a, k, nil)
	if err != nil {
		t.Fatal(err)
	}
	if i := slices.IndexFunc(l.Blocks, func(b Block) bool { return b.Kept }); i < 0 ||
		l.Blocks[i].Cell.Drill != "walk-along" || l.Blocks[i].Pack != 2 {
		t.Errorf("the instructor's block is gone: %+v", l.Blocks)
	}
	for _, b := range l.Blocks {
		if b.Cell.Drill == "hover-tail-in" {
			t.Errorf("not wanted, and planned: %+v", b)
		}
	}
}

func TestLessonsThatCannotBe(t *testing.T) {
	for want, change := range map[string]func(*LessonAsk){
		"craft class": func(a *LessonAsk) { a.Class = "tiny" },
		"aids":        func(a *LessonAsk) { a.Aids = "magic" },
		"has no":      func(a *LessonAsk) { a.Aids = craft.Rate },
		"packs":       func(a *LessonAsk) { a.Packs = 0 },
		"minutes":     func(a *LessonAsk) { a.PackMinutes = math.NaN() },
		"0 to 40 m/s": func(a *LessonAsk) { a.WindMps = 99 },
	} {
		a := ask(craft.PositionHold)
		change(&a)
		if _, err := PlanLesson(a, knownBy(nil, monday), nil); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
	a := ask(craft.PositionHold)
	a.WindMps = 20
	if l, err := PlanLesson(a, knownBy(nil, monday), nil); err != nil || len(l.Blocks) != 0 || !strings.Contains(l.Says,
		"nothing that may be flown") {
		t.Errorf("in a storm: %+v %v", l, err)
	}
}

func BenchmarkLesson(b *testing.B) {
	who := newPupil(judgingLaws[1], true, 4)
	var list []record.Attempt
	for n := range 300 {
		c := catalogue.Gates["unassisted-aids-on"].Cells[n%16]
		at := monday.Add(time.Duration(n) * 7 * time.Hour)
		list = append(list, record.Attempt{ID: fmt.Sprint(n), At: at, Drill: c.Drill, Side: c.Side, Aids: c.Aids, Level: 1,
			CraftClass: craft.Light, Source: score.Observed, Verdict: who.fly(c, at), Counts: true})
	}
	for b.Loop() {
		if _, err := PlanLesson(ask(craft.PositionHold), knownBy(list, monday.AddDate(0, 3, 0)), nil); err != nil {
			b.Fatal(err)
		}
	}
}

func TestALessonIsComparedWithWhatWasFlown(t *testing.T) {
	l := LessonDocument{Blocks: []LessonBlock{{Pack: 1, Drill: "hover-tail-in", Side: "none", Aids: craft.PositionHold,
		Minutes: 4, Passes: 2}, {Pack: 2, Drill: "hover-tail-in", Side: "none", Aids: craft.PositionHold, Minutes: 3,
		Passes: 1},
		{Pack: 2, Drill: "square-kept", Side: "left", Aids: craft.PositionHold, Minutes: 5, Passes: 2}}}
	hover, square := drill.Cell{Drill: "hover-tail-in", Side: "none",
		Aids: craft.PositionHold}, drill.Cell{Drill: "square-kept", Side: "right", Aids: craft.PositionHold}
	flown := held(monday, hover, square)
	flown[1].Verdict, flown[2].Verdict = score.Fail, score.Void
	rows, others := Compare(l, flown)
	if len(rows) != 2 || rows[0].Minutes != 7 || rows[0].Wanted != 3 || rows[0].Attempts != 2 || rows[0].Passes != 1 ||
		rows[1].Attempts != 0 || len(others) != 3 || others[0].Side != "right" {
		t.Errorf("%+v %+v", rows, others)
	}
}
