package orient

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"maestrale/core/field"
)

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
		eye := e
		var hist [36]float64
		kept := 0.0
		tries := 3_000_000
		if testing.Short() {
			tries = 400_000
		}
		for range tries {
			aspect, push, ok := 2*math.Pi*r.Float64(), 0.0, true
			eye.Lapse = lapses[r.IntN(len(lapses))]
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
				if look(r, eye, aspect, push) != row.Saw {
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
			if sd := math.Sqrt(math.Max(want, got[i])/kept) + 1e-6; math.Abs(got[i]-want) > 5*sd+0.002 {
				t.Errorf("%s: %.4f at %d°, the simulation has %.4f ± %.4f", name, got[i], 10*i, want, sd)
			}
		}
		if math.Abs(sum-1) > 1e-9 || len(tr.Against) != 0 {
			t.Errorf("%s: sums to %v; against %v", name, sum, tr.Against)
		}
	}
}

// Nothing is left out: a first look that was a lapse is overruled by those after it.
func TestTheFirstLookDoesNotWin(t *testing.T) {
	e := Usual()
	tr := Follow(e, []Row{{Forward, 2, FullLeft}, {Forward, 2, FullRight}, {Forward, 2, FullRight},
		{Forward, 2, FullRight}})
	if a, share := tr.After[3].Likeliest(); math.Abs(a.Deg()-90) > 15 || share < 0.5 || tr.Contradictory {
		t.Errorf("after one to the left and three to the right: %.0f° with %.2f, contradictory %v", a.Deg(), share,
			tr.Contradictory)
	}
	tr = Follow(e, []Row{{Forward, 2, FullRight}, {Forward, 2, FullRight}, {Forward, 2, FullLeft},
		{Forward, 2, FullRight}})
	if a, _ := tr.After[3].Likeliest(); math.Abs(a.Deg()-90) > 15 || tr.Contradictory || len(tr.Against) != 0 {
		t.Errorf("one lapse among four: %.0f°, against %v", a.Deg(), tr.Against)
	}
	// Of many craft whose first look is anything at all, few are taken for the other way round.
	r := rand.New(rand.NewPCG(4, 15))
	wrong := 0
	craft := 2000
	if testing.Short() {
		craft = 700
	}
	for range craft {
		aspect := 2 * math.Pi * r.Float64()
		rows := []Row{{Forward, 1, Sights[r.IntN(5)]}}
		now := aspect
		for k := range 6 {
			if in := []Input{Forward, YawRight}[k%2]; in == Forward {
				rows = append(rows, Row{in, 1, look(r, e, now, 1)})
			} else {
				now = turned(r, now, float64(e.YawRate))
				rows = append(rows, Row{in, 1, look(r, e, now, 1)})
			}
		}
		a, _ := Follow(e, rows).After[6].Likeliest()
		if math.Abs((float64((a - field.Angle(now)).Wrap()))) > math.Pi/2 {
			wrong++
		}
	}
	if share := float64(wrong) / float64(craft); share > 0.012 {
		t.Errorf("%.1f %% of the estimates are more than 90° off", 100*share)
	}
}

// What contradicts is said only of all sights together, and all of them count.
func TestWhatContradicts(t *testing.T) {
	e := Usual()
	var rows []Row
	for range 4 {
		rows = append(rows, Row{Forward, 2, FullRight}, Row{Forward, 2, FullLeft})
	}
	if tr := Follow(e, rows); !tr.Contradictory || len(tr.Against) < 2 {
		t.Errorf("four times right and left: %+v", tr.Against)
	}
	// Sights that an eye with lapses up to one in ten really has are hardly ever called so.
	r := rand.New(rand.NewPCG(5, 15))
	called, craft := 0, 2000
	if testing.Short() {
		craft = 500
	}
	for range craft {
		if rows, _ := seenRows(r, e, 8); Follow(e, rows).Contradictory {
			called++
		}
	}
	if 100*called > craft {
		t.Errorf("%d of %d honest lists contradict", called, craft)
	}
}

// seenRows is what an eye sees of a craft at any aspect, with a lapse rate up to one in ten, and the
// aspect at the end.
func seenRows(r *rand.Rand, e Eye, n int) (rows []Row, aspect float64) {
	e.Lapse = 0.1 * r.Float64()
	aspect = 2 * math.Pi * r.Float64()
	push := 0.0
	for range n {
		row := Row{Input: Inputs[r.IntN(4)], Seconds: 0.3 + 1.5*r.Float64()}
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
		row.Saw = look(r, e, aspect, push)
		rows = append(rows, row)
	}
	return rows, aspect
}

// Of everything that is given 80 %, 77 to 83 % is true, over craft whose eyes lapse in none to one
// of ten looks.
func TestWhatIsGivenEightyPercent(t *testing.T) {
	if testing.Short() {
		t.Skip("a cohort; make test flies it")
	}
	for name, wind := range map[string]float64{"still air": 0, "2 m/s across": 2} {
		e := Usual()
		e.WindMps, e.WindFrom = wind, field.Degrees(90)
		r := rand.New(rand.NewPCG(6, 15))
		craft := 2000
		if testing.Short() {
			craft = 1000
		}
		inside, shares := 0, 0.0
		given, right, claimed := 0, 0, 0.0
		for range craft {
			rows, truth := seenRows(r, e, 2+r.IntN(8))
			p := Follow(e, rows).After[len(rows)-1]
			// The smallest set of aspects that holds 80 %.
			order := make([]int, Grain)
			for i := range order {
				order[i] = i
			}
			slices.SortFunc(order, func(a, b int) int { return cmp.Compare(p[b], p[a]) })
			at, sum := int(math.Round(truth*180/math.Pi))%Grain, 0.0
			at = (at + Grain) % Grain
			for _, i := range order {
				if sum += p[i]; i == at {
					inside++
				}
				if sum >= 0.8 {
					break
				}
			}
			shares += sum
			// And what is said: the chance to be within 20° of the likeliest.
			if a, share := p.Likeliest(); share > 0.7 && share < 0.9 {
				given, claimed = given+1, claimed+share
				if math.Abs(float64((a - field.Angle(truth)).Wrap().Deg())) <= 20.5 {
					right++
				}
			}
		}
		if got := float64(inside) / float64(craft); got < 0.77 || got > 0.83 {
			t.Errorf("%s: %.3f of the truth is in what was given 80 %%", name, got)
		}
		if got, want := float64(right)/float64(given), claimed/float64(given); given < 200 ||
			math.Abs(got-want) > 0.03+1.6*math.Sqrt(want*(1-want)/float64(given)) {
			t.Errorf("%s: of %d given %.3f in the mean, %.3f are true", name, given, want, got)
		}
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

// Over all aspects, in still air and in wind, what is expected to be best is at least as
// fast as any school, and all come home.
func TestTheExpectedWayIsNoSlowerThanTheSchools(t *testing.T) {
	rounds := 4
	if testing.Short() {
		rounds = 2
	}
	for name, wind := range map[string]float64{"still air": 0, "1.5 m/s across": 1.5} {
		e := Usual()
		e.WindMps, e.WindFrom = wind, field.Degrees(90)
		got := Compare(e, rounds, 9)
		t.Logf("%s: %+v", name, got)
		best := got[0]
		if best.School != Expected || len(got) != len(Schools) {
			t.Fatalf("%s: %+v", name, got)
		}
		for _, c := range got[1:] {
			if best.MeanS > 1.02*c.MeanS || best.Never > c.Never || best.LostM > c.LostM {
				t.Errorf("%s: %+v against %+v", name, best, c)
			}
		}
		if best.Never > 0 || best.MeanS > 12 || best.MostS < best.MeanS {
			t.Errorf("%s: %+v", name, best)
		}
	}
}

func BenchmarkNext(b *testing.B) {
	p := Follow(Usual(), []Row{{Forward, 2, SlowRight}}).After[0]
	for b.Loop() {
		p.Next(Usual(), 1)
	}
}

// What is taught is said of the figures: who is first where, by how much.
func TestTeach(t *testing.T) {
	at := func(expected, read, turn, square float64) []Compared {
		return []Compared{{School: Expected, MeanS: expected}, {School: ReadTheLine, MeanS: read}, {School: HangStill,
			MeanS: turn}, {School: FinishSquare, MeanS: square}}
	}
	got := Teach([]string{"still air", "wind", "a gale"}, [][]Compared{at(7, 11, 8, 30), at(8, 14, 9.2, 50),
		at(9, 10, 15, 60)})
	for _, want := range []string{
		"In still air, wind teach “Turn until it hangs still” first: it is home 3 to 5 s before “Read the line of sight”.",
		"In a gale teach “Read the line of sight” first: it is home 5 s before “Turn until it hangs still”.",
		"“Finish the square” takes 30 to 60 s", "would save 1 s more",
	} {
		if !strings.Contains(got, want) {
			t.Errorf("%q lacks %q", got, want)
		}
	}
	if Teach([]string{"one"}, nil) != "" || Teach(nil, nil) != "" {
		t.Error("something is taught of nothing")
	}
	for _, s := range Schools {
		if s.Words() == "" || s.How() == "" {
			t.Errorf("%s has no words", s)
		}
	}
}
