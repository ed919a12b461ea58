package drill

// stopKind is a stop on a call or after a time.
type stopKind struct{}

// read wants when the stop begins, a call or seconds, and a limit of its time
// or its distance.
func (stopKind) read(s *Step, r *stepReader) {
	m, w := r.keys, r.limits
	after := m.Need("after")
	if after.IsNumber() {
		s.AfterS = after.Number(0.1, 600)
	} else {
		after.Word("call")
	}
	s.FromMps = m.Get("from_mps").Number(0, 30)
	s.Over = m.Get("over").Bool()
	s.Within.Seconds = readLimit(w.Get("seconds"), 0.1, 600)
	s.Within.DistanceM = readLimit(w.Get("distance_m"), 0.01, 1000)
	r.needLimit(msgStopWithoutLimit, msgWantStopLimit, s.Within.Seconds, s.Within.DistanceM)
}

// say names when to stop, and from which speed where that is asked; then the
// limits.
func (stopKind) say(t *Target, w *saying) {
	switch {
	case t.Over:
		w.add(msgFlipAndStop)
	case t.OnCall && t.FromMps > 0:
		w.add(msgStopCalledFrom, num(t.FromMps))
	case t.OnCall:
		w.add(msgStopCalled)
	case t.FromMps > 0:
		w.add(msgStopAfterFrom, num(t.AfterS), num(t.FromMps))
	default:
		w.add("After %s s, stop", num(t.AfterS))
	}
	w.some(t.Limits.Seconds, "within %s s")
	w.some(t.Limits.Distance, "within %s m")
}
