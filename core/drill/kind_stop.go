package drill

// stopKind is a stop on a call or after a time.
type stopKind struct{}

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
	r.needLimit("the stop has no limit", "seconds or distance_m", s.Within.Seconds, s.Within.DistanceM)
}

func (stopKind) say(t *Target, w *saying) {
	head := "stop on the call"
	if !t.OnCall {
		head = "stop after " + num(t.AfterS) + " s"
	}
	if t.Over {
		head = "turn over once on the call, and stand again"
	}
	if t.FromMps > 0 {
		head += ", from " + num(t.FromMps) + " m/s or more"
	}
	w.parts = append(w.parts, head)
	w.some(t.Limits.Seconds, "in %s s")
	w.some(t.Limits.Distance, "within %s m")
}
