package plan

import (
	"fmt"
	"math"
	"math/rand/v2"
	"runtime"
	"slices"
	"strings"
	"sync"
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

// learner is a made-up student: skill grows with practice of the drill, a half with that
// of its other side and a third with that of the drills that build it, and fades by days.
type learner struct {
	start, ceiling, rate, fade float64
	bias                       map[field.Side]float64
	x                          map[string]float64 // drill and side
	last                       map[string]time.Time
	r                          *rand.Rand
}

func newLearner(seed uint64) *learner {
	r := rand.New(rand.NewPCG(seed, 77))
	weak := 0.8 * r.Float64()
	side := map[field.Side]float64{field.LeftSide: 0, field.RightSide: -weak}
	if r.IntN(2) == 0 {
		side = map[field.Side]float64{field.LeftSide: -weak, field.RightSide: 0}
	}
	return &learner{0.05 + 0.25*r.Float64(), 0.82 + 0.15*r.Float64(), 0.10 * math.Exp(0.4*r.NormFloat64()), 60 + 120*r.Float64(), side, map[string]float64{}, map[string]time.Time{}, r}
}

func (l *learner) skill(d string, side field.Side, at time.Time) float64 {
	k := d + string(side)
	days := at.Sub(l.last[k]).Hours() / 24
	return l.x[k] * math.Exp(-math.Max(0, days)/l.fade)
}

func (l *learner) fly(c drill.Cell, at time.Time) score.Verdict {
	d := catalogue.Drills[c.Drill]
	x := l.skill(c.Drill, c.Side, at)
	switch c.Side {
	case field.LeftSide:
		x += 0.5 * l.skill(c.Drill, field.RightSide, at)
	case field.RightSide:
		x += 0.5 * l.skill(c.Drill, field.LeftSide, at)
	}
	for _, b := range d.Builds {
		side := c.Side
		if !catalogue.Drills[b].Sided {
			side = field.NoSide
		}
		x += 0.3 * l.skill(b, side, at) / float64(len(d.Builds))
	}
	p := l.ceiling - (l.ceiling-l.start)*math.Exp(-l.rate*x)
	logit := math.Log(p/(1-p)) + l.bias[c.Side]
	if c.Aids == craft.PositionHold {
		logit += 1.2
	}
	k := c.Drill + string(c.Side)
	l.x[k] = l.skill(c.Drill, c.Side, at) + 1
	l.last[k] = at
	if l.r.Float64() < 1/(1+math.Exp(-logit)) {
		return score.Pass
	}
	return score.Fail
}

// noClauses are the catalogue gates without what no simulation of skill can give.
var noClauses = sync.OnceValue(func() *drill.Catalogue {
	c, err := catalogue.With(nil)
	if err != nil {
		panic(err)
	}
	for k, g := range c.Gates {
		g.Clauses, g.Witnessed = drill.Clauses{}, nil
		c.Gates[k] = g
	}
	return c
})

// course is a student's training: lessons of three packs, four days apart, until both
// gates stand at once. choose gives the cells that are flown in a lesson, an attempt each.
type course struct {
	cat   *drill.Catalogue
	list  []record.Attempt
	signs []record.SignOff
}

func (k *course) evidence(at time.Time) *readiness.Evidence {
	return readiness.Sort(k.list, nil, at, rome)
}

func (k *course) met(key string, at time.Time) bool {
	g := readiness.JudgeGate(k.cat.Gates[key], readiness.On{Class: craft.Light, Type: "poiana", Has: poiana.Aids}, k.evidence(at), nil, nil)
	return g.Met()
}

const (
	lessonPacks, packAttempts = 5, 5
	packMinutes               = packAttempts * attemptTakes
	mostLessons               = 120
)

// train flies lessons until both gates were reached, and returns the packs that each took.
func train(seed uint64, lesson func(k *course, at time.Time, fly func(drill.Cell) score.Verdict)) (packsOn, packsBoth float64) {
	who, k := newLearner(seed), &course{cat: noClauses()}
	attempts := 0
	packs := func() float64 { return float64(attempts) * attemptTakes / packMinutes }
	signed, done := false, false
	for n := range mostLessons {
		at := monday.AddDate(0, 0, 4*n)
		flown := at
		lesson(k, at, func(c drill.Cell) score.Verdict {
			flown = flown.Add(2 * time.Minute)
			v := who.fly(c, flown)
			k.list = append(k.list, record.Attempt{ID: fmt.Sprintf("%05d", len(k.list)), At: flown, Drill: c.Drill, Side: c.Side, Aids: c.Aids, Level: 1, CraftClass: craft.Light, Source: score.Observed, Verdict: v, Counts: true})
			attempts++
			switch {
			case attempts%packAttempts != 0 || done:
			case !signed && k.met("unassisted-aids-on", flown):
				signed, packsOn = true, packs()
				k.signs = append(k.signs, record.SignOff{Gate: "unassisted-aids-on", CraftClass: craft.Light, At: flown, Until: flown.AddDate(5, 0, 0)})
			case signed && k.met("unassisted-aids-off", flown):
				done, packsBoth = true, packs()
			}
			return v
		})
		if done {
			return packsOn, packsBoth
		}
	}
	return packsOn, math.Inf(1)
}

// planned flies what the planner says.
func planned(k *course, at time.Time, fly func(drill.Cell) score.Verdict) {
	aids := craft.HeightHold
	// It is fitted again whenever a block is through, as an instructor would: with enough
	// passes for today a block ends.
	begun := len(k.list)
	for len(k.list)-begun < lessonPacks*packAttempts {
		flown := len(k.list) - begun
		now := at.Add(time.Duration(flown) * 2 * time.Minute)
		l, err := PlanLesson(LessonAsk{Class: craft.Light, Type: &poiana, Aids: aids, Packs: 1, PackMinutes: float64(packAttempts-flown%packAttempts) * attemptTakes, WindMps: -1, Gap: 4},
			Known{Catalogue: k.cat, Programme: k.cat.Programmes["position-hold-first"], Evidence: k.evidence(now), At: now, SignOffs: k.signs})
		if err != nil {
			panic(err)
		}
		b, passes := l.Blocks[0], 0
		for range max(1, int(b.Minutes/attemptTakes)) {
			if fly(b.Cell) == score.Pass {
				passes++
			}
			if b.Passes > 0 && passes == b.Passes {
				break
			}
		}
	}
}

// plain goes up the ladder, and then through the gates' cells in their order: the lowest
// cell that was never held, the next once it has all passes that today can give; and when
// all were held at some time, the lowest that has lapsed.
func plain(k *course, at time.Time, fly func(drill.Cell) score.Verdict) {
	cells := k.cat.Programmes["position-hold-first"].Cells()
	for _, key := range []string{"unassisted-aids-on", "unassisted-aids-off"} {
		if key == "unassisted-aids-on" && len(k.signs) > 0 {
			continue
		}
		cells = append(cells, k.cat.Gates[key].Cells...)
	}
	for range lessonPacks * packAttempts {
		e := k.evidence(at.Add(time.Hour))
		pick := func(lapsed bool) int {
			return slices.IndexFunc(cells, func(c drill.Cell) bool {
				s := e.Cell(readiness.Key{Cell: c, Class: craft.Light})
				waits := s.Needs <= s.OtherDates && s.Newest.After(at) // for another date
				return s.Standing != readiness.Held && (s.Standing == readiness.Lapsed) == lapsed && !waits
			})
		}
		i := pick(false)
		if i < 0 {
			i = max(0, pick(true))
		}
		fly(cells[i])
	}
}

// A cohort of 200 learners reaches the gates in fewer packs by the planner than by going
// up the ladder in plain order.
func TestTheCohortReachesTheGatesSooner(t *testing.T) {
	learners := 200
	if testing.Short() {
		learners = 10
	}
	type result struct{ plannedOn, planned, plainOn, plain float64 }
	out := make([]result, learners)
	var wg sync.WaitGroup
	next := make(chan int, learners)
	for i := range learners {
		next <- i
	}
	close(next)
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for i := range next {
				var r result
				r.plannedOn, r.planned = train(uint64(i), planned)
				r.plainOn, r.plain = train(uint64(i), plain)
				out[i] = r
			}
		})
	}
	wg.Wait()
	median := func(of func(result) float64) float64 {
		var list []float64
		for _, r := range out {
			list = append(list, of(r))
		}
		slices.Sort(list)
		return list[len(list)/2]
	}
	never := func(of func(result) float64) (n int) {
		for _, r := range out {
			if math.IsInf(of(r), 0) {
				n++
			}
		}
		return n
	}
	a, b := median(func(r result) float64 { return r.planned }), median(func(r result) float64 { return r.plain })
	t.Logf("both gates in %.0f packs (median of %d) by the planner, %.0f in plain order; the first in %.0f and %.0f; not within %d lessons: %d and %d", a, learners, b,
		median(func(r result) float64 { return r.plannedOn }), median(func(r result) float64 { return r.plainOn }), mostLessons,
		never(func(r result) float64 { return r.planned }), never(func(r result) float64 { return r.plain }))
	if !(a < 0.95*b) {
		t.Errorf("%.1f packs by the planner, %.1f in plain order", a, b)
	}
}

func ask(aids craft.Aids) LessonAsk {
	return LessonAsk{Class: craft.Light, Type: &poiana, Aids: aids, Packs: 3, PackMinutes: 9, WindMps: -1}
}

func knownBy(list []record.Attempt, at time.Time) Known {
	return Known{Catalogue: catalogue, Programme: catalogue.Programmes["position-hold-first"], Evidence: readiness.Sort(list, catalogue.Drills, at, rome), At: at}
}

// Many lessons in all states of learning: no block is a drill whose builds are not held or
// practised, the minutes fit the packs, the wind is one that the drill wants, every block
// has a reason, and one with something that builds it a fallback.
func TestLessonsBreakNoRule(t *testing.T) {
	seeds := uint64(60)
	if testing.Short() {
		seeds = 15
	}
	for seed := range seeds {
		r := rand.New(rand.NewPCG(seed, 5))
		who := newLearner(seed)
		var list []record.Attempt
		for n := range 1 + r.IntN(30) {
			at := monday.AddDate(0, 0, 3*n)
			a := LessonAsk{Class: craft.Light, Type: &poiana, Aids: []craft.Aids{craft.PositionHold, craft.HeightHold}[r.IntN(2)], Packs: 1 + r.IntN(4), PackMinutes: float64(5 + r.IntN(12)), WindMps: 7*r.Float64() - 1, Tense: r.IntN(4) == 0}
			if r.IntN(2) == 0 {
				from := 360 * r.Float64()
				a.WindFrom = &from
			}
			k := knownBy(list, at)
			l, err := PlanLesson(a, k)
			if err != nil {
				t.Fatal(err)
			}
			checkLesson(t, l, a, k, list)
			for _, b := range l.Blocks {
				at = at.Add(5 * time.Minute)
				list = append(list, record.Attempt{ID: fmt.Sprint(len(list)), At: at, Drill: b.Cell.Drill, Side: b.Cell.Side, Aids: b.Cell.Aids, Level: 1, CraftClass: craft.Light, Source: score.Observed, Verdict: who.fly(b.Cell, at), Counts: true})
			}
		}
	}
}

func checkLesson(t *testing.T, l LessonPlan, a LessonAsk, k Known, list []record.Attempt) {
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
		if i > 0 && !b.Kept && b.Cell == l.Blocks[i-1].Cell && b.Cell.Side != field.NoSide && i < len(l.Blocks)-1 {
			other := b.Cell
			if other.Side = field.LeftSide; b.Cell.Side == field.LeftSide {
				other.Side = field.RightSide
			}
			if c := k.Evidence.Cell(readiness.Key{Cell: other, Class: a.Class}); c.Standing != readiness.Held {
				t.Fatalf("%s twice on the %s, and the other side is not held", d.Key, b.Cell.Side)
			}
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
	l, err := PlanLesson(ask(craft.PositionHold), knownBy(nil, monday))
	if err != nil {
		t.Fatal(err)
	}
	if l.Toward != "unassisted-aids-on" || len(l.Blocks) == 0 || l.Blocks[0].Cell.Drill != "ground-effect-hover" || !strings.Contains(l.Blocks[0].Why, "was not practised yet") || l.Blocks[0].Fallback != "" {
		t.Errorf("%+v", l)
	}
}

// held makes the passes that hold cells.
func held(at time.Time, cells ...drill.Cell) (list []record.Attempt) {
	for i, c := range cells {
		for d := range 3 {
			list = append(list, record.Attempt{ID: fmt.Sprintf("h%d-%d", i, d), At: at.AddDate(0, 0, d/2), Drill: c.Drill, Side: c.Side, Aids: c.Aids, Level: 1, CraftClass: craft.Light, Source: score.Observed, Verdict: score.Pass, Counts: true})
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
		k.Witnessed = append(k.Witnessed, record.Witnessed{Act: w.Key, At: monday, By: "I"})
	}
	l, err := PlanLesson(a, k)
	if err != nil || len(l.Blocks) == 0 || l.Blocks[0].Cell.Drill != "hover-tail-in" || !strings.Contains(l.Blocks[0].Why, "meets the wind clause") || !l.Blocks[0].Answer {
		t.Fatalf("%+v %v", l.Blocks, err)
	}
	a.Keep = []Block{{Pack: 2, Cell: drill.Cell{Drill: "walk-along", Side: field.LeftSide, Aids: craft.PositionHold, Level: 1}, Minutes: 4}}
	a.Never = []string{"hover-tail-in"}
	l, err = PlanLesson(a, k)
	if err != nil {
		t.Fatal(err)
	}
	if i := slices.IndexFunc(l.Blocks, func(b Block) bool { return b.Kept }); i < 0 || l.Blocks[i].Cell.Drill != "walk-along" || l.Blocks[i].Pack != 2 {
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
		if _, err := PlanLesson(a, knownBy(nil, monday)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
	a := ask(craft.PositionHold)
	a.WindMps = 20
	if l, err := PlanLesson(a, knownBy(nil, monday)); err != nil || len(l.Blocks) != 0 || !strings.Contains(l.Says, "nothing that may be flown") {
		t.Errorf("in a storm: %+v %v", l, err)
	}
}

func BenchmarkLesson(b *testing.B) {
	who := newLearner(4)
	var list []record.Attempt
	for n := range 300 {
		c := catalogue.Gates["unassisted-aids-on"].Cells[n%16]
		at := monday.Add(time.Duration(n) * 7 * time.Hour)
		list = append(list, record.Attempt{ID: fmt.Sprint(n), At: at, Drill: c.Drill, Side: c.Side, Aids: c.Aids, Level: 1, CraftClass: craft.Light, Source: score.Observed, Verdict: who.fly(c, at), Counts: true})
	}
	for b.Loop() {
		if _, err := PlanLesson(ask(craft.PositionHold), knownBy(list, monday.AddDate(0, 3, 0))); err != nil {
			b.Fatal(err)
		}
	}
}

func TestALessonIsComparedWithWhatWasFlown(t *testing.T) {
	l := LessonDocument{Blocks: []LessonBlock{{Pack: 1, Drill: "hover-tail-in", Side: "none", Aids: craft.PositionHold, Minutes: 4, Passes: 2}, {Pack: 2, Drill: "hover-tail-in", Side: "none", Aids: craft.PositionHold, Minutes: 3, Passes: 1},
		{Pack: 2, Drill: "square-kept", Side: "left", Aids: craft.PositionHold, Minutes: 5, Passes: 2}}}
	hover, square := drill.Cell{Drill: "hover-tail-in", Side: "none", Aids: craft.PositionHold}, drill.Cell{Drill: "square-kept", Side: "right", Aids: craft.PositionHold}
	flown := held(monday, hover, square)
	flown[1].Verdict, flown[2].Verdict = score.Fail, score.Void
	rows, others := Compare(l, flown)
	if len(rows) != 2 || rows[0].Minutes != 7 || rows[0].Wanted != 3 || rows[0].Attempts != 2 || rows[0].Passes != 1 || rows[1].Attempts != 0 || len(others) != 3 || others[0].Side != "right" {
		t.Errorf("%+v %+v", rows, others)
	}
}
