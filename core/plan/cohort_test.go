package plan

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"runtime"
	"slices"
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
	return &learner{0.05 + 0.25*r.Float64(), 0.82 + 0.15*r.Float64(), 0.10 * math.Exp(0.4*r.NormFloat64()),
		60 + 120*r.Float64(), side, map[string]float64{}, map[string]time.Time{}, r}
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
	g := readiness.JudgeGate(k.cat.Gates[key], readiness.On{Class: craft.Light, Type: "poiana", Has: poiana.Aids},
		k.evidence(at), nil, nil)
	return g.Met()
}

const (
	lessonPacks, packAttempts = 5, 5
	packMinutes               = packAttempts * attemptTakes
	mostLessons               = 120
)

// train flies lessons until both gates were reached, and returns the packs that each took.
func train(seed uint64, lesson func(k *course, at time.Time, fly func(drill.Cell) score.Verdict)) (packsOn,
	packsBoth float64) {
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
			k.list = append(k.list, record.Attempt{ID: fmt.Sprintf("%05d", len(k.list)), At: flown, Drill: c.Drill, Side: c.Side,
				Aids: c.Aids, Level: 1, CraftClass: craft.Light, Source: score.Observed, Verdict: v, Counts: true})
			attempts++
			switch {
			case attempts%packAttempts != 0 || done:
			case !signed && k.met("unassisted-aids-on", flown):
				signed, packsOn = true, packs()
				k.signs = append(k.signs, record.SignOff{Gate: "unassisted-aids-on", CraftClass: craft.Light, At: flown,
					Until: flown.AddDate(5, 0, 0)})
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
		l, err := PlanLesson(LessonAsk{Class: craft.Light, Type: &poiana, Aids: aids, Packs: 1,
			PackMinutes: float64(packAttempts-flown%packAttempts) * attemptTakes, WindMps: -1, Gap: 4},
			readiness.Know(k.cat, "position-hold-first", poiana.Key, k.evidence(now), nil, k.signs), nil)
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

// A cohort of learners, 200 of them at night, reaches the gates in fewer packs by the planner than by going up the
// ladder in
// plain order.
func TestTheCohortReachesTheGatesSooner(t *testing.T) {
	learners := 60
	switch {
	case os.Getenv("MAESTRALE_NIGHTLY") != "":
		learners = 200
	case testing.Short():
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
	t.Logf("both gates in %.0f packs (median of %d) by the planner, %.0f in plain order; the first in %.0f and %.0f; "+
		"not within %d lessons: %d and %d", a, learners, b,
		median(func(r result) float64 { return r.plannedOn }), median(func(r result) float64 { return r.plainOn }),
		mostLessons,
		never(func(r result) float64 { return r.planned }), never(func(r result) float64 { return r.plain }))
	if !(a < 0.95*b) {
		t.Errorf("%.1f packs by the planner, %.1f in plain order", a, b)
	}
}
