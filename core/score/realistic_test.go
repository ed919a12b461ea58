package score_test

import (
	"math"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/rehearse"
	"maestrale/core/score"
	"maestrale/core/track"
)

// many is how much is tried: at night, in a whole run, and in a short one.
func many(t testing.TB, night, whole, short int) int {
	t.Helper()
	switch {
	case os.Getenv("MAESTRALE_NIGHTLY") != "":
		return night
	case testing.Short():
		return short
	}
	return whole
}

// trial is a drill laid for a class, to be flown by a script.
type trial struct {
	name string
	task drill.Task
}

// trials lists every shipped drill, each side and level, for some classes.
func trials(t testing.TB, classes ...craft.Class) []trial {
	t.Helper()
	var out []trial
	for _, d := range drill.Shipped().InOrder() {
		for _, class := range classes {
			for _, side := range d.Sides() {
				for level := range d.Levels {
					task, err := d.Lay(side, level+1, class, nil)
					if err != nil {
						continue // not flown by the class
					}
					out = append(out, trial{strings.Join([]string{d.Key, string(side), string(class)}, " "), task})
				}
			}
		}
	}
	if len(out) < 70 {
		t.Fatalf("%d trials", len(out))
	}
	return out
}

func result(t testing.TB, task drill.Task, tr *track.Track) *score.Result {
	t.Helper()
	r, err := score.Track(task, tr, score.FromLog)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// Flights as people fly them pass: with pauses, a turn of the nose at the start, a second try, a
// wide approach, a figure that is joined elsewhere or passed into without a stop, a hop before the
// drill, a hover before the landing.
func TestNaturalFlightsPass(t *testing.T) {
	styles := map[string]func(s *rehearse.Style){
		"calm": func(*rehearse.Style) {}, "sharp": func(s *rehearse.Style) { s.Sharp = true },
		"rolling":            func(s *rehearse.Style) { s.Rolling = true },
		"a hop before":       func(s *rehearse.Style) { s.TwiceUp = true },
		"a second try":       func(s *rehearse.Style) { s.Retry = true },
		"wide":               func(s *rehearse.Style) { s.Wide = 2 },
		"wide the other way": func(s *rehearse.Style) { s.Wide = -1.5 },
		"a hover at the end": func(s *rehearse.Style) { s.HoverEnd = 5 },
		"joined elsewhere":   func(s *rehearse.Style) { s.Joins = 0.3 },
		"rolling, elsewhere": func(s *rehearse.Style) {
			s.Joins, s.Rolling = 0.7,
				true
		}, "brief": func(s *rehearse.Style) { s.Extra, s.Lead = 0.3, 0.5 },
		"patient": func(s *rehearse.Style) { s.Extra, s.Lead = 3, 4 }, "quick": func(s *rehearse.Style) { s.Speed = 2 },
	}
	all := trials(t, craft.Light, craft.Heavy)
	one := many(t, 1, 3, 9)
	for name, change := range styles {
		style := rehearse.Usual()
		change(&style)
		for k, tr := range all {
			if (k+len(name))%one != 0 {
				continue
			}
			f := rehearse.Of(tr.task, style, rehearse.Error{})
			for _, hz := range []float64{50, 5} {
				r, _, _, err := score.Attempt(tr.task, f.Track(hz), score.FromLog)
				if err != nil {
					t.Fatal(err)
				}
				if r.Verdict != score.Pass || r.Margin == nil || *r.Margin < 0.1 {
					t.Errorf("%s, %s, %v Hz: %s %v: %s", tr.name, name, hz, r.Verdict, r.Margin, r.Summary())
				}
			}
		}
	}
}

// One drill in the middle of a log of twenty minutes that holds several is found.
func TestADrillInALongLogOfSeveral(t *testing.T) {
	lay := func(key string) drill.Task {
		d, err := drill.Shipped().Drill(key)
		if err != nil {
			t.Fatal(err)
		}
		task, err := d.Lay(d.Sides()[0], 1, craft.Light, nil)
		if err != nil {
			t.Fatal(err)
		}
		return task
	}
	wanted := []string{"circle-along", "eight-kept", "oval-along", "square-kept", "slant-climb", "step-over"}
	long := &track.Track{}
	for round := range 3 {
		for k := range wanted {
			style := rehearse.Usual()
			style.Lead += float64(round)
			f := rehearse.Of(lay(wanted[k]), style, rehearse.Error{}).Track(20)
			base := 0.0
			if long.Len() > 0 {
				base = long.T[long.Len()-1] + 3
			}
			for i := range f.T {
				long.T, long.X, long.Y, long.Z = append(long.T, base+f.T[i]), append(long.X, f.X[i]), append(long.Y,
					f.Y[i]), append(long.Z, f.Z[i])
				long.Heading = append(long.Heading, f.Heading[i])
			}
		}
	}
	if long.Duration() < 1000 {
		t.Fatalf("the log lasts %.0f s", long.Duration())
	}
	for _, key := range wanted {
		r, from, to, err := score.Attempt(lay(key), long, score.FromLog)
		if err != nil || r.Verdict != score.Pass {
			t.Errorf("%s from %.0f to %.0f s: %v %v %s", key, from, to, err, r.Verdict, r.Summary())
		}
	}
}

// A turn of the nose at the start of a figure, and a rest there, are no part of it.
func TestTurningAtTheStart(t *testing.T) {
	for _, key := range []string{"circle-along", "eight-along", "eight-tail-first", "oval-along", "orbit"} {
		d, err := drill.Shipped().Drill(key)
		if err != nil {
			t.Fatal(err)
		}
		for _, side := range d.Sides() {
			task, err := d.Lay(side, 1, craft.Light, nil)
			if err != nil {
				t.Fatal(err)
			}
			style := rehearse.Usual()
			style.Lead = 5
			r := result(t, task, rehearse.Of(task, style, rehearse.Error{}).Track(25))
			m := r.Steps[1].Metrics
			if r.Verdict != score.Pass || m["nose_max_deg"] > 3 || m["aim_deg"] > 3 || m["cross_max_m"] > 0.05 {
				t.Errorf("%s %s: %s %v", key, side, r.Verdict, m)
			}
		}
	}
}

// A perfect flight whose places are logged with white noise never fails, at any usual rate; what
// the noise hides is said.
func TestWhiteNoiseNeverFailsAPerfectFlight(t *testing.T) {
	n := many(t, 2000, 700, 200)
	all := trials(t, craft.Light, craft.Micro, craft.Medium)
	r := rand.New(rand.NewPCG(15, 1))
	for k := range n {
		tr := all[r.IntN(len(all))]
		style := rehearse.Usual()
		style.Sharp, style.Speed = r.IntN(2) == 0, 0.8+r.Float64()
		hz := []float64{5, 8, 10, 20, 25, 50}[r.IntN(6)]
		receiver := rehearse.Receiver{White: 0.05 * r.Float64(), Speeds: r.IntN(4) == 0}
		res := result(t, tr.task, receiver.Log(rehearse.Of(tr.task, style, rehearse.Error{}), hz, uint64(k)))
		if res.Verdict != score.Pass {
			t.Errorf("%s at %v Hz with %.3f m: %s: %s", tr.name, hz, receiver.White, res.Verdict, res.Summary())
		}
		for _, u := range res.Unjudged {
			if !strings.Contains(u, "too fine for this log") && !strings.Contains(u, "has no") {
				t.Errorf("%s: unjudged %q", tr.name, u)
			}
			if strings.Contains(u, "too fine") && !strings.Contains(u, "an accuracy of") {
				t.Errorf("%s: %q says no accuracy that would do", tr.name, u)
			}
		}
	}
}

// A wander that the log reports as its accuracy fails one perfect flight in a hundred at most, and
// says that it was close.
func TestAReportedWanderFailsFew(t *testing.T) {
	n := many(t, 2000, 600, 250)
	all := trials(t, craft.Light)
	r := rand.New(rand.NewPCG(15, 2))
	failed, notClose := 0, 0
	for k := range n {
		tr := all[r.IntN(len(all))]
		receiver := rehearse.Receiver{Wander: 0.4, Reports: true, White: 0.02 * r.Float64()}
		if k%4 == 0 {
			receiver.WanderZ = 0.4
		}
		hz := []float64{5, 10, 25, 50}[r.IntN(4)]
		res := result(t, tr.task, receiver.Log(rehearse.Of(tr.task, rehearse.Usual(), rehearse.Error{}), hz, uint64(k)))
		if res.Likelihood == nil {
			t.Fatalf("%s: a noisy log without a likelihood", tr.name)
		}
		if res.Verdict == score.Fail {
			failed++
			t.Logf("%s at %v Hz, height too %v, failed with a likelihood of %.2f: %s", tr.name, hz, receiver.WanderZ > 0,
				*res.Likelihood, res.Summary())
			if !res.Close() {
				notClose++
			}
		}
	}
	if 100*failed > n {
		t.Errorf("%d of %d perfect flights failed", failed, n)
	}
	if notClose > 0 {
		t.Errorf("%d of them are not marked close", notClose)
	}
}

// An error of one and a half times a limit never passes because of noise.
func TestOneAndAHalfTimesALimitNeverPasses(t *testing.T) {
	n := many(t, 2000, 700, 200)
	r := rand.New(rand.NewPCG(15, 3))
	kinds := known(t)
	for k := range n {
		c := kinds[r.IntN(len(kinds))]
		f := rehearse.Of(c.task, c.style, rehearse.Error{Step: c.step, Criterion: c.name, Size: 1.5 * c.limit})
		hz := []float64{5, 10, 20, 50}[r.IntN(4)]
		white := 0.05 * r.Float64()
		if res := result(t, c.task, rehearse.Receiver{White: white}.Log(f, hz, uint64(k))); res.Verdict == score.Pass {
			t.Errorf("%s, step %d, %s of 1.5 times its limit at %v Hz with %.3f m: pass, unjudged %v", c.trial, c.step, c.name,
				hz, white, res.Unjudged)
		}
	}
}

// fault is a criterion of a step in which a flight can have an error of known size.
type fault struct {
	trial string
	task  drill.Task
	style rehearse.Style
	step  int
	name  string
	limit float64
}

// known lists, for every drill, the criteria in which a script can fly an error that nothing else
// in the step covers up.
func known(t testing.TB) (out []fault) {
	t.Helper()
	style := rehearse.Usual()
	style.Speed, style.Sink, style.Extra = 1, 0.3, 2
	for _, tr := range trials(t, craft.Light) {
		from := rehearse.Start(tr.task)
		for i, s := range tr.task.Steps {
			l := s.Limits
			add := func(name string, limit float64) {
				if limit > 0 {
					out = append(out, fault{tr.name, tr.task, style, i, name, limit})
				}
			}
			switch far := s.At.Dist(from); s.Kind {
			case drill.Hold:
				if len(s.During) == 0 && s.Seconds >= 8 { // a shorter one is over before it can be left
					add("radius_max_m", l.Radius)
					add("height_max_m", l.Height)
					add("nose_max_deg", l.Nose.Deg())
				}
			case drill.Turn:
				if s.By.Abs().Deg() >= 80 { // slower than a swing of the error
					add("drift_max_m", l.Radius)
					add("height_max_m", l.Height)
					add("overshoot_deg", l.Overshoot.Deg())
				}
			case drill.GoTo:
				if far > 2.5 {
					add("cross_max_m", l.Cross)
					add("height_max_m", l.Height)
					add("nose_max_deg", l.Nose.Deg())
				}
			case drill.Path:
				// a swing at a corner or an end bends more than the way
				if s.Path.Shape != drill.Line && s.Path.Shape != drill.Oval && s.Path.Level {
					add("cross_max_m", l.Cross)
				}
				if s.Path.Level {
					add("height_max_m", l.Height)
				}
				add("nose_max_deg", l.Nose.Deg())
				add("aim_deg", l.Aim.Deg())
			case drill.Land:
				add("offset_m", l.Offset)
				if tr.task.Steps[0].ToHeightM >= 1 { // from lower it is down at once
					add("sink_mps", l.Sink)
				}
			case drill.Stop:
				if !s.Over {
					add("stop_s", l.Seconds)
					add("stop_m", l.Distance)
				}
			}
			if s.HasAt {
				from = s.At
			}
		}
	}
	if len(out) < 400 {
		t.Fatalf("%d criteria", len(out))
	}
	return out
}

// short tells whether a swing over a third of a figure takes under two seconds.
func short(s drill.Target) bool { return s.Path != nil && s.Path.Length < 6 }

// The margin of a flight with one error e against a limit L is 1 − e/L: for every drill and every
// criterion, at every rate, falling as e grows.
func TestMarginsAreOneMinusTheShare(t *testing.T) {
	kinds := known(t)
	r := rand.New(rand.NewPCG(15, 4))
	rates := []float64{50, 5, 10, 100}
	for k, c := range kinds {
		if k%many(t, 1, 4, 15) != 0 {
			continue
		}
		last := math.Inf(1)
		for _, share := range []float64{0.75 + 0.1*r.Float64(), 0.95, 1.15 + 0.1*r.Float64(), 1.5, 2} {
			f := rehearse.Of(c.task, c.style, rehearse.Error{Step: c.step, Criterion: c.name, Size: share * c.limit})
			first := math.NaN()
			for n, hz := range rates {
				if n > 0 && (k+n)%3 != 0 {
					continue
				}
				res := result(t, c.task, f.Track(hz))
				if res.Margin == nil {
					t.Fatalf("%s, step %d, %s at %.2f: no margin", c.trial, c.step, c.name, share)
				}
				m := *res.Margin
				// What turns and falls within a few samples cannot be read off a slow log.
				quick := (hz <= 10 || c.name == "overshoot_deg") && (c.name == "sink_mps" || c.name == "overshoot_deg" ||
					c.name == "nose_max_deg" || c.task.Steps[c.step].Kind == drill.Turn || short(c.task.Steps[c.step]))
				if tol := 0.03; !quick && math.Abs(m-(1-share)) > tol {
					t.Errorf("%s, step %d, %s at %.3f of its limit, %v Hz: margin %.3f", c.trial, c.step, c.name, share, hz, m)
				}
				if n == 0 {
					if first = m; m > last {
						t.Errorf("%s, step %d, %s: the margin rises to %.3f at %.2f", c.trial, c.step, c.name, m, share)
					}
					last = m
					if (res.Verdict == score.Fail) != (share > 1) {
						t.Errorf("%s, step %d, %s at %.2f: %s", c.trial, c.step, c.name, share, res.Verdict)
					}
				} else if !quick && math.Abs(m-first) > 0.02*math.Max(1, share) {
					t.Errorf("%s, step %d, %s at %.2f: margin %.3f at %v Hz, %.3f at 50", c.trial, c.step, c.name, share, m, hz, first)
				}
			}
		}
	}
}

// A gap in the log takes what comes after it out of the judgement; it is no error of the pilot.
func TestAGapMakesNoNegativeMargin(t *testing.T) {
	for _, tr := range trials(t, craft.Light) {
		f := rehearse.Of(tr.task, rehearse.Usual(), rehearse.Error{})
		full := f.Track(20)
		for _, share := range []float64{0.3, 0.5, 0.7} {
			from := share * f.Seconds()
			var times []float64
			for _, at := range full.T {
				if at < from || at > from+4 {
					times = append(times, at)
				}
			}
			r := result(t, tr.task, f.Sampled(times))
			if r.Verdict == score.Fail || (r.Margin != nil && *r.Margin < 0) {
				t.Errorf("%s with a gap at %.1f s: %s %v %s", tr.name, from, r.Verdict, *r.Margin, r.Summary())
			}
		}
	}
}

// A slant that is flown too steep is too high where it is off, not to a side.
func TestASteepSlantIsTooHigh(t *testing.T) {
	d, err := drill.Shipped().Drill("slant-climb")
	if err != nil {
		t.Fatal(err)
	}
	for _, side := range d.Sides() {
		task, err := d.Lay(side, 1, craft.Light, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, by := range []float64{20, -20} {
			r := result(t, task, rehearse.Of(task, rehearse.Usual(), rehearse.Error{Step: 1, Criterion: "angle_deg",
				Size: by}).Track(25))
			n := 0
			for _, f := range r.Faults {
				if f.Code != score.CrossTrack {
					continue
				}
				if n++; f.Toward != "up" && f.Toward != "down" {
					t.Errorf("%s, %v° off: %s", side, by, f.Text)
				}
			}
			if r.Verdict != score.Fail || (n == 0 && by > 0) {
				t.Errorf("%s, %v° off: %s %s", side, by, r.Verdict, r.Summary())
			}
		}
	}
}
