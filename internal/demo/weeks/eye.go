package weeks

import (
	"math"
	"math/rand/v2"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/score"
	"maestrale/core/track"
)

// Watch marks a flight as an instructor's eye would: what happens is seen a
// moment late, and a craft is not called out for the width of a hand.
func Watch(task drill.Task, t *track.Track, crashed bool, seed uint64) []score.Mark {
	r := rand.New(rand.NewPCG(seed, 0x657965))
	w := &watcher{t: t, r: r}
	w.put(0, score.Mark{Mark: "start"})
	i := 0
	for _, s := range task.Steps {
		switch s.Kind {
		case drill.TakeOff:
			for i < t.Len()-1 && t.Z[i] < s.ToHeightM-0.3 {
				i++
			}
		case drill.Hold:
			i = w.hold(s, i)
		case drill.Turn:
			w.put(t.T[i], score.Mark{Mark: "moving"})
			first := t.Heading[i]
			for i < t.Len()-1 && math.Abs(float64(t.Heading[i]-first-s.By)) > 0.2 && t.Z[i] > 0.05 {
				i++
			}
			w.put(t.T[i]+0.3, score.Mark{Mark: "rest"})
			i = min(t.Len()-1, t.At(t.T[i]+1.4)+1)
		case drill.Land:
			for i < t.Len()-1 && t.Z[i] >= 0.05 {
				i++
			}
			away, right := math.Round((t.Y[i]-s.At.Y)*10)/10, math.Round((t.X[i]-s.At.X)*10)/10
			w.put(t.T[i], score.Mark{Mark: "touch", AwayM: &away, RightM: &right})
		}
	}
	if crashed {
		w.put(t.T[t.Len()-1], score.Mark{Mark: "fault", Code: score.Crash})
	}
	w.put(t.T[t.Len()-1], score.Mark{Mark: "done"})
	return w.marks
}

type watcher struct {
	t     *track.Track
	r     *rand.Rand
	in    bool
	last  float64
	marks []score.Mark
}

// put adds a mark a human moment after what it is about.
func (w *watcher) put(t float64, m score.Mark) {
	m.TS = math.Max(w.last, math.Round((t+0.1+0.25*w.r.Float64())*100)/100)
	if m.Mark == "start" {
		m.TS = 0
	}
	w.last = m.TS
	w.marks = append(w.marks, m)
}

// hold watches until the asked time has passed inside, or the craft is down.
func (w *watcher) hold(s drill.Target, i int) int {
	t, since := w.t, math.Inf(1)
	if w.in {
		since = t.T[i]
	}
	for ; i < t.Len()-1; i++ {
		off := field.Point{X: t.X[i], Y: t.Y[i]}.Sub(s.At)
		high := t.Z[i] - s.HeightM
		inside := math.Hypot(off.X, off.Y) < s.Limits.Radius*1.05 && math.Abs(high) < s.Limits.Height*1.1
		switch {
		case inside && !w.in && math.Abs(t.Z[i]-t.Z[max(0, t.At(t.T[i]-0.5))]) > 0.15:
			// It still climbs: an eye waits until it hangs.
		case inside && !w.in:
			w.in, since = true, t.T[i]
			w.put(t.T[i], score.Mark{Mark: "in"})
		case !inside && w.in && t.T[i]-since > 1.5:
			w.in = false
			m := score.Mark{Mark: "out", Toward: field.Direction(off)}
			if math.Abs(high) >= s.Limits.Height*1.1 {
				m.Toward = map[bool]string{true: "up", false: "down"}[high > 0]
			}
			w.put(t.T[i], m)
		}
		if w.in && t.T[i] > math.Max(since, w.last)+s.Seconds+1.6 {
			return i
		}
		if t.Z[i] < 0.05 && t.T[i] > 5 {
			return i
		}
	}
	return i
}
