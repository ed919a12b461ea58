package orient

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"maestrale/core/field"
)

// look is what an eye sees of a craft at an aspect, drawn as the model says.
func look(r *rand.Rand, e Eye, aspect, push float64) Seen {
	if r.Float64() < e.Lapse {
		return Sights[r.IntN(5)]
	}
	unit := e.AirspeedMps / e.DistanceM
	x := e.rate(aspect, push) + e.Error*unit*r.NormFloat64()
	edge := math.Max(e.ThresholdRps, full*unit)
	switch {
	case x < -edge:
		return FullLeft
	case x < -e.ThresholdRps:
		return SlowLeft
	case x < e.ThresholdRps:
		return None
	case x < edge:
		return SlowRight
	}
	return FullRight
}

// turned is an aspect after a yaw by hand.
func turned(r *rand.Rand, aspect, by float64) float64 {
	sd := math.Max(0.5*math.Pi/180, math.Abs(by)/10)
	return aspect + by + sd*r.NormFloat64()
}

// The posterior is what a brute-force simulation comes to: of very many craft at any
// aspect, flown by the same inputs, those that were seen to do the same.
func TestThePosteriorIsThatOfASimulation(t *testing.T) {
	e := Usual()
	e.WindMps, e.WindFrom = 1, field.Degrees(70)
	for name, rows := range map[string][]Row{
		"one push":         {{Forward, 2, SlowRight}},
		"seen full":        {{Forward, 2, FullLeft}},
		"nothing seen":     {{Forward, 2, None}},
		"a turn between":   {{Forward, 2, FullRight}, {YawRight, 1, SlowRight}},
		"back and a pulse": {{Back, 2, SlowLeft}, {YawLeft, 0.5, None}, {Forward, 2, SlowRight}},
	} {
		r := rand.New(rand.NewPCG(3, 3))
		var hist [36]float64
		kept := 0.0
		tries := 3_000_000
		if testing.Short() {
			tries = 400_000
		}
		for range tries {
			aspect, push, ok := 2*math.Pi*r.Float64(), 0.0, true
			for _, row := range rows {
				switch row.Input {
				case Forward:
					push = 1
				case Back:
					push = -1
				case YawLeft:
					aspect = turned(r, aspect, -float64(e.YawRate)*row.Seconds)
				case YawRight:
					aspect = turned(r, aspect, float64(e.YawRate)*row.Seconds)
				}
				if look(r, e, aspect, push) != row.Saw {
					ok = false
					break
				}
			}
			if ok {
				deg := math.Mod(math.Mod(aspect*180/math.Pi+5, 360)+360, 360)
				hist[int(deg/10)%36]++
				kept++
			}
		}
		tr := Follow(e, rows)
		got := tr.After[len(rows)-1].Bins36()
		sum := 0.0
		for i := range hist {
			want := hist[i] / kept
			sum += got[i]
			// Sampling error, and that of bins of a degree.
			if sd := math.Sqrt(want*(1-want)/kept) + 1e-6; math.Abs(got[i]-want) > 5*sd+0.002 {
				t.Errorf("%s: %.4f at %d°, the simulation has %.4f ± %.4f", name, got[i], 10*i, want, sd)
			}
		}
		if math.Abs(sum-1) > 1e-9 || len(tr.Against) != 0 {
			t.Errorf("%s: sums to %v; against %v", name, sum, tr.Against)
		}
	}
}

func TestContradictionsAreNamedAndLeftOut(t *testing.T) {
	e := Usual()
	e.Lapse = 0.01
	rows := []Row{{Forward, 2, FullRight}, {Forward, 2, FullRight}, {Forward, 2, FullLeft}, {Forward, 2, FullRight}}
	tr := Follow(e, rows)
	if len(tr.Against) != 1 || tr.Against[0] != 2 {
		t.Fatalf("against %v", tr.Against)
	}
	if tr.After[2] != tr.After[1] {
		t.Error("what contradicts was taken in")
	}
	if a, share := tr.After[3].Likeliest(); math.Abs(a.Deg()-90) > 15 || share < 0.5 {
		t.Errorf("%.0f° with %.2f", a.Deg(), share)
	}
}

// A push that was seen to go right, turned to the right until nothing is seen, has the
// nose toward the pilot; the way home is ahead.
func TestTheWayHome(t *testing.T) {
	e := Usual()
	tr := Follow(e, []Row{{Forward, 2, FullRight}, {YawRight, 1, None}, {Forward, 2, None}})
	p := tr.After[2]
	a, _ := p.Likeliest()
	h, _ := p.WayHome(e, 1, 20)
	if math.Abs(math.Abs(a.Deg())-180) > 15 || math.Abs(h.Turn.Deg()) > 15 || h.Closing < 0.8*e.AirspeedMps {
		t.Errorf("at %.0f°, turn %.0f°, closing %.1f m/s", a.Deg(), h.Turn.Deg(), h.Closing)
	}
	// Knowing nothing, no turn is better than none, and a look is.
	any := Anything()
	if h, _ := any.WayHome(e, 0, 20); math.Abs(h.Closing) > 1e-9 {
		t.Errorf("knowing nothing it closes by %v", h.Closing)
	}
	if n := any.Next(e, 0); n.Bits < 0.3 || n.Metres <= 0 || (n.Input != Forward && n.Input != Back) {
		t.Errorf("knowing nothing: %+v", n)
	}
}

// A wind across moves the dot by itself: at rest it tells nothing of the nose.
func TestWindAloneTellsNothing(t *testing.T) {
	e := Usual()
	e.WindMps, e.WindFrom = 3, field.Degrees(270)
	p := Follow(e, []Row{{YawLeft, 1, SlowRight}}).After[0]
	for i := range p {
		if math.Abs(p[i]-1.0/Grain) > 1e-9 {
			t.Fatalf("%v at %d°", p[i], i)
		}
	}
}

// craftAway is a craft that is lost at an aspect, and its pilot's eye.
type craftAway struct {
	r              *rand.Rand
	e              Eye
	aspect, push   float64
	distance, lost float64
	t              float64
}

func (c *craftAway) do(in Input, seconds float64) Seen {
	switch in {
	case Forward:
		c.push = 1
	case Back:
		c.push = -1
	case YawLeft:
		c.aspect = turned(c.r, c.aspect, -float64(c.e.YawRate)*seconds)
	case YawRight:
		c.aspect = turned(c.r, c.aspect, float64(c.e.YawRate)*seconds)
	}
	c.distance += c.e.along(c.aspect, c.push) * seconds
	c.t += seconds
	c.lost = math.Max(c.lost, c.distance-60)
	e := c.e
	e.DistanceM = math.Max(5, c.distance)
	return look(c.r, e, c.aspect, c.push)
}

func (c *craftAway) over() bool { return c.distance < 20 || c.t > 120 }

// The way by what is expected: the posterior, and the input that is worth most.
func (c *craftAway) expected() {
	p := Anything()
	for !c.over() {
		e := c.e
		e.DistanceM = math.Max(5, c.distance)
		n := p.Next(e, c.push)
		if h, metres := p.WayHome(e, c.push, Horizon); metres >= n.Metres-0.5 {
			in := YawRight
			if h.Turn < 0 {
				in = YawLeft
			}
			if h.Seconds > 0.1 {
				c.see(&p, in, h.Seconds)
			}
			c.see(&p, Forward, 1)
			continue
		}
		c.see(&p, n.Input, n.Seconds)
	}
}

func (c *craftAway) see(p *Posterior, in Input, seconds float64) {
	e := c.e
	e.DistanceM = math.Max(5, c.distance)
	q, on := p.with(e, c.push, in, seconds)
	if next, chance := q.Sees(e, on, c.do(in, seconds)); chance >= unlikely/10 {
		q = next
	}
	*p = q
}

// The school that reads the line of sight: ahead, see, turn a quarter toward the side it
// goes to where it goes fast and an eighth where it goes slowly; where nothing is seen at
// first, a quarter and look again; else it comes home.
func (c *craftAway) reads() {
	moved := false
	for !c.over() {
		switch c.do(Forward, 2) {
		case FullRight:
			moved = true
			c.do(YawRight, 1)
		case FullLeft:
			moved = true
			c.do(YawLeft, 1)
		case SlowRight:
			moved = true
			c.do(YawRight, 0.5)
		case SlowLeft:
			moved = true
			c.do(YawLeft, 0.5)
		default:
			if !moved {
				c.do(YawRight, 1)
			}
		}
	}
}

// The school that turns until it hangs still: some forward, brief pulses of yaw toward the
// side it moves to; hanging still from the beginning, a pulse to see.
func (c *craftAway) pulses() {
	moved := false
	saw := c.do(Forward, 1.5)
	for !c.over() {
		switch {
		case strings.HasSuffix(string(saw), "right"):
			moved = true
			saw = c.do(YawRight, 0.4)
		case strings.HasSuffix(string(saw), "left"):
			moved = true
			saw = c.do(YawLeft, 0.4)
		case !moved:
			saw = c.do(YawRight, 0.8)
		default:
			saw = c.do(Forward, 1)
		}
	}
}

// Over all aspects, in still air and in wind, what is expected to be best is at least as
// fast as either school.
func TestTheExpectedWayIsNoSlowerThanTheSchools(t *testing.T) {
	for name, wind := range map[string]float64{"still air": 0, "1.5 m/s across": 1.5} {
		fly := func(how func(*craftAway)) (mean, lost float64, never int) {
			r := rand.New(rand.NewPCG(9, 9))
			n := 0.0
			rounds := 4
			if testing.Short() {
				rounds = 2
			}
			for k := range 36 * rounds {
				e := Usual()
				e.WindMps, e.WindFrom = wind, field.Degrees(90)
				c := &craftAway{r: r, e: e, aspect: float64(k%36) * 10 * math.Pi / 180, distance: 60}
				how(c)
				mean += c.t
				lost += c.lost
				if c.distance >= 20 {
					never++
				}
				n++
			}
			return mean / n, lost / n, never
		}
		a, la, na := fly((*craftAway).expected)
		b, lb, nb := fly((*craftAway).reads)
		p, lp, np := fly((*craftAway).pulses)
		t.Logf("%s: expected way %.1f s, %.1f m lost, %d never; reading the line of sight %.1f s, %.1f m, %d; turning until it hangs still %.1f s, %.1f m, %d", name, a, la, na, b, lb, nb, p, lp, np)
		if a > math.Min(b, p)*1.02 || na > min(nb, np) {
			t.Errorf("%s: %.1f s against %.1f and %.1f", name, a, b, p)
		}
	}
}

func BenchmarkNext(b *testing.B) {
	p := Follow(Usual(), []Row{{Forward, 2, SlowRight}}).After[0]
	for b.Loop() {
		p.Next(Usual(), 1)
	}
}
