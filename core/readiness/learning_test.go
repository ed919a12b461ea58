package readiness

import (
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
)

// A learner that was made up: a curve of the prior's kind, who flies so many attempts on
// days of his own.
func madeUp(r *rand.Rand) (c curve, tries []Try, left float64) {
	c = priorCurve([5]float64{r.Float64(), r.Float64(), r.Float64(), r.Float64(), r.Float64()})
	at, n := day0, 3+r.IntN(40)
	for k := range n {
		if k > 0 {
			if r.IntN(3) == 0 {
				gap := time.Duration(1+r.IntN(12)) * 24 * time.Hour
				at = at.Add(gap)
				left *= math.Exp(-gap.Hours() / 24 / c.fade)
			} else {
				at = at.Add(6 * time.Minute)
			}
		}
		wind := 6 * r.Float64()
		tries = append(tries, Try{at, wind, r.Float64() < c.chance(left, wind)})
		left++
	}
	return c, tries, left
}

// On learners whose true chance is known the 80 % interval holds it 80 % of the time,
// within 5 points; after few attempts and after many.
func TestIntervalsHoldWhatTheySay(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	const learners = 1500
	in, inFew, few, sum := 0, 0, 0, 0.0
	for range learners {
		c, tries, left := madeUp(r)
		p := Learn(tries, nil)
		gap := 1 + 10*r.Float64()
		wind := 6 * r.Float64()
		truth := c.chance(left*math.Exp(-gap/c.fade), wind)
		e := p.Next(p.newest.Add(time.Duration(gap*24*float64(time.Hour))), wind)
		if !(e.Low <= e.Mean && e.Mean <= e.High) {
			t.Fatalf("%+v", e)
		}
		ok := truth >= e.Low && truth <= e.High
		if ok {
			in++
		}
		if len(tries) < 12 {
			if few++; ok {
				inFew++
			}
		}
		sum += e.Mean - truth
	}
	share, shareFew := float64(in)/learners, float64(inFew)/float64(few)
	t.Logf("held %.1f %% of %d; %.1f %% of those with under 12 attempts; off by %.3f in the mean", 100*share, learners, 100*shareFew, sum/learners)
	if math.Abs(share-0.8) > 0.05 || math.Abs(shareFew-0.8) > 0.07 {
		t.Errorf("the interval holds the truth in %.1f %% (%.1f %% after few attempts)", 100*share, 100*shareFew)
	}
	if math.Abs(sum/learners) > 0.02 {
		t.Errorf("off by %.3f in the mean", sum/learners)
	}
}

// A plain count of all attempts lags behind a learner; the curve is nearer to the truth.
func TestTheCurveIsNearerThanACount(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 8))
	curveOff, countOff := 0.0, 0.0
	for range 400 {
		c, tries, left := madeUp(r)
		p := Learn(tries, nil)
		truth := c.chance(left, -1)
		passes := 0
		for _, x := range tries {
			if x.Pass {
				passes++
			}
		}
		count := (float64(passes) + 1) / (float64(len(tries)) + 2)
		curveOff += math.Pow(p.Next(p.newest, -1).Mean-truth, 2)
		countOff += math.Pow(count-truth, 2)
	}
	t.Logf("squared error %.3f against %.3f of a count", curveOff/400, countOff/400)
	if curveOff > 0.7*countOff {
		t.Errorf("squared error %.3f, a plain count %.3f", curveOff/400, countOff/400)
	}
}

// How many more attempts are needed is foretold as the intervals say, by flying on.
func TestToGo(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	in, n := 0, 0
	for n < 300 {
		c, tries, left := madeUp(r)
		e := NewEvidence(nil, tries[len(tries)-1].At.Add(time.Minute), rome)
		for i, x := range tries {
			a := flights("F")[0]
			if x.Pass {
				a = flights("P")[0]
			}
			a.ID, a.At, a.WindMps = string(rune('a'+i)), x.At, &tries[i].Wind
			e.Add(&a)
		}
		k := Key{cell, craft.Light}
		now := e.Cell(k)
		p := e.Posterior(k)
		pace := Pace{4, 3}
		span, ok := p.ToGo(now, 1, pace)
		if ok != (len(tries) >= fewTries && now.Standing != Held) {
			t.Fatalf("%d attempts, %v: a forecast: %v", len(tries), now.Standing, ok)
		}
		if !ok {
			continue
		}
		n++
		if span.Low > span.Median || span.Median > span.High || span.Low < now.Needs {
			t.Fatalf("%+v; %d are needed", span, now.Needs)
		}
		// He flies on until it is held.
		last, dates, today, took := now.lastBits, now.Dates, false, Most
		for k := 1; k <= Most; k++ {
			if (k-1)%pace.PerDay == 0 {
				if today = false; k > 1 {
					left *= math.Exp(-pace.Gap / c.fade)
				}
			}
			pass := r.Float64() < c.chance(left, 1)
			left++
			last = last << 1 & 15
			if pass {
				last |= 1
				if !today {
					today = true
					dates++
				}
				if bits(last) >= wanted && dates >= wantedDates {
					took = k
					break
				}
			}
		}
		if took >= span.Low && took <= span.High {
			in++
		}
	}
	share := float64(in) / float64(n)
	t.Logf("%.1f %% within the interval", 100*share)
	if share < 0.78 { // whole attempts: the interval is never narrower than 80 %, and often wider
		t.Errorf("%.1f %% of forecasts held", 100*share)
	}
}

// A student who is truly weaker on one side is found to be; one who is not is not said to.
func TestSideBias(t *testing.T) {
	r := rand.New(rand.NewPCG(10, 10))
	fly := func(left, right float64, n int) Bias {
		e := NewEvidence(nil, day0.AddDate(0, 0, 30), rome)
		l, rt := drill.Cell{Drill: "yaw-quarter", Side: "left", Aids: craft.SelfLevel, Level: 1}, drill.Cell{Drill: "yaw-quarter", Side: "right", Aids: craft.SelfLevel, Level: 1}
		for i := range 2 * n {
			a := flights("F")[0]
			p := left
			a.Drill, a.Side, a.Aids = "yaw-quarter", l.Side, craft.SelfLevel
			if i%2 == 1 {
				a.Side, p = rt.Side, right
			}
			if r.Float64() < p {
				a.Verdict = "pass"
			}
			a.ID, a.At = string(rune('a'+i)), day0.Add(time.Duration(i)*5*time.Hour)
			e.Add(&a)
		}
		b, ok := e.SideBias(Key{l, craft.Light}, l, rt)
		if !ok {
			t.Fatal("no comparison")
		}
		return b
	}
	if b := fly(0.25, 0.9, 20); b.LeftWeaker < 0.95 || b.High > 0 {
		t.Errorf("a weak left: %+v", b)
	}
	if b := fly(0.7, 0.7, 20); b.Low > 0.1 || b.High < -0.1 {
		t.Errorf("alike: %+v", b)
	}
	e := NewEvidence(nil, day0, rome)
	if _, ok := e.SideBias(Key{cell, craft.Light}, cell, cell); ok {
		t.Error("compared without an attempt")
	}
}

// Pass counts foretold from the attempts before, against those that came: where the
// learners are of the model's kind the transform is even; where every chance is moved it
// is not.
func TestCalibration(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 11))
	var list, moved []Foretold
	for range 400 {
		_, tries, _ := madeUp(r)
		first := true
		Learn(tries, func(p float64, pass bool) {
			if !first {
				list = append(list, Foretold{p, pass})
				moved = append(moved, Foretold{0.75 * p, pass})
			}
			first = false
		})
	}
	c := Calibrate(list, 10, 1)
	t.Logf("%d attempts, %.0f passes foretold, %d came; off by %.3f of %.3f", c.Attempts, c.Predicted, c.Seen, c.Off, c.OffLimit)
	if c.Off > c.OffLimit || math.Abs(c.Predicted-float64(c.Seen)) > 0.03*float64(c.Seen) {
		t.Errorf("off by %.3f; %.0f foretold, %d came", c.Off, c.Predicted, c.Seen)
	}
	if m := Calibrate(moved, 10, 1); m.Off < m.OffLimit {
		t.Errorf("chances that are a quarter too low are not seen: %.3f of %.3f", m.Off, m.OffLimit)
	}
}

// Learners of another kind than the model's: a jump, from hardly ever to nearly always.
func TestALearnerOfAnotherKind(t *testing.T) {
	r := rand.New(rand.NewPCG(12, 12))
	off := 0.0
	for range 200 {
		var tries []Try
		for k := range 40 {
			p := 0.15
			if k >= 20 {
				p = 0.9
			}
			tries = append(tries, Try{day0.Add(time.Duration(k) * 6 * time.Hour), -1, r.Float64() < p})
		}
		p := Learn(tries, nil)
		off += math.Abs(p.Next(p.newest, -1).Mean - 0.9)
	}
	if off/200 > 0.12 {
		t.Errorf("twenty attempts after a jump it is off by %.2f", off/200)
	}
}

func BenchmarkLearn40(b *testing.B) {
	_, tries, _ := madeUp(rand.New(rand.NewPCG(1, 2)))
	for len(tries) < 40 {
		tries = append(tries, tries[len(tries)-1])
	}
	for b.Loop() {
		Learn(tries[:40], nil)
	}
}
