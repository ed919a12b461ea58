package weeks

import (
	"math"
	"math/rand/v2"
	"sort"

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
	measured, _ := score.Track(task, t, score.FromLog) // what an eye sees of a way, it sees as it was
	for n, s := range task.Steps {
		switch s.Kind {
		case drill.GoTo, drill.Path, drill.Stop, drill.Return, drill.Regain, drill.Motors:
			w.in = false
			if measured == nil || !w.step(s, n, measured) {
				w.put(t.T[t.Len()-1], score.Mark{Mark: "done"})
				return w.marks
			}
			i = max(0, t.At(*measured.Steps[n].EndS))
		case drill.TakeOff:
			for i < t.Len()-1 && t.Z[i] < s.ToHeightM-0.3 {
				i++
			}
			if n+1 < len(task.Steps) && task.Steps[n+1].Kind != drill.Hold && i < t.Len()-1 { // up, and in position
				w.in = true
				w.put(t.T[i], score.Mark{Mark: "in"})
			}
		case drill.Hold:
			w.in = w.in && (n == 0 || !score.Moves(task.Steps[n-1], s))
			i = w.hold(s, i)
		case drill.Turn:
			turned := field.Angle(0)
			for ; i < t.Len()-1 && turned.Abs() < 0.09 && t.Z[i] > 0.05; i++ {
				turned += (t.Heading[i+1] - t.Heading[i]).Wrap()
			}
			w.put(t.T[i], score.Mark{Mark: "moving"})
			for ; i < t.Len()-1 && (turned-s.By).Abs() > 0.2 && t.Z[i] > 0.05; i++ {
				turned += (t.Heading[i+1] - t.Heading[i]).Wrap()
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

// sight is a mark and what it is about.
type sight struct {
	t float64
	m score.Mark
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

// seen is how far over its limit an error is before an eye calls it.
const seen = 1.06

// step watches a way, a stop or a flight home; it is false where it came to no end.
func (w *watcher) step(s drill.Target, n int, measured *score.Result) bool {
	res := measured.Steps[n]
	var all []sight
	add := func(t float64, m score.Mark) { all = append(all, sight{t, m}) }
	for _, f := range measured.Faults {
		if f.Step != n || f.Value == nil || f.Limit == nil {
			continue
		}
		over := *f.Value / *f.Limit
		if f.Code == score.Speed && s.Kind == drill.Stop { // it came in too slowly
			over = 1 / math.Max(over, 0.01)
		}
		if over < seen {
			continue
		}
		switch f.Code {
		case "cross-track":
			add(f.TS, score.Mark{Mark: "out", Toward: f.Toward})
		case score.Height:
			add(f.TS, score.Mark{Mark: "out", Toward: f.Toward})
		case "rest", "late", score.Offset, score.TimeOut: // are timed by the marks themselves
		default:
			add(f.TS, score.Mark{Mark: "fault", Code: f.Code})
		}
	}
	if !res.Done {
		w.all(all)
		return false
	}
	begin, end := *res.StartS, *res.EndS
	switch s.Kind {
	case drill.GoTo:
		add(end-s.RestS, score.Mark{Mark: "rest"})
		w.in = true
	case drill.Path:
		add(begin, score.Mark{Mark: "moving"})
		add(end, score.Mark{Mark: "in"})
	case drill.Stop:
		add(begin, score.Mark{Mark: "call"})
		add(begin+res.Metrics["stop_s"], score.Mark{Mark: "rest"})
	case drill.Motors:
		add(begin, score.Mark{Mark: "moving"})
		add(end, score.Mark{Mark: "rest"})
	case drill.Return:
		add(begin, score.Mark{Mark: "call"})
		add(end, score.Mark{Mark: "rest"})
	case drill.Regain:
		add(begin, score.Mark{Mark: "call"})
		add(end, score.Mark{Mark: "in"})
	}
	w.all(all)
	return true
}

// all puts moments in their order.
func (w *watcher) all(list []sight) {
	sort.SliceStable(list, func(i, j int) bool { return list[i].t < list[j].t })
	for _, x := range list {
		w.put(x.t, x.m)
	}
}

// hold watches until the asked time has passed inside, or the craft is down.
func (w *watcher) hold(s drill.Target, i int) int {
	t, since := w.t, math.Inf(1)
	owed := s.During
	if w.in {
		since = t.T[i]
	}
	for ; i < t.Len()-1; i++ {
		off := field.Point{X: t.X[i], Y: t.Y[i]}.Sub(s.At)
		high := t.Z[i] - s.HeightM
		if len(owed) > 0 {
			if c := w.called(i); !math.IsNaN(c) {
				w.put(c, score.Mark{Mark: "call"})
				i = w.answered(i, owed[0])
				w.put(t.T[i], score.Mark{Mark: "rest"})
				if w.in = false; owed[0].End {
					return i
				}
				owed = owed[1:]
				continue
			}
		}
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
		if w.in && len(owed) == 0 && t.T[i] > math.Max(since, w.last)+s.Seconds+1.6 {
			return i
		}
		if t.Z[i] < 0.05 && t.T[i] > 5 {
			return i
		}
	}
	return i
}

// called is when something was called or befell the craft between a sample and the
// one before it; NaN where nothing was.
func (w *watcher) called(i int) float64 {
	for _, c := range w.t.Calls {
		if i > 0 && c.T > w.t.T[i-1] && c.T <= w.t.T[i] {
			return c.T
		}
	}
	return math.NaN()
}

// answered is the sample at which an answer is seen: the craft has gone the way that
// was called, or stands.
func (w *watcher) answered(from int, d drill.Due) int {
	t := w.t
	way, flat := field.Way(d.FirstWay)
	for i := from + 1; i < t.Len()-1; i++ {
		gone := t.Z[i] - t.Z[from]
		if flat {
			gone = (t.X[i]-t.X[from])*way.X + (t.Y[i]-t.Y[from])*way.Y
		}
		if d.FirstWay != "" && gone > d.Distance {
			return i
		}
		j := max(0, t.At(t.T[i]-0.8))
		if d.FirstWay == "" && t.T[i]-t.T[from] > 1.5 && math.Hypot(t.X[i]-t.X[j], t.Y[i]-t.Y[j]) < 0.25 {
			return i
		}
	}
	return t.Len() - 1
}
