package drill

// landKind is a landing in a place, by hand where the drill says so.
type landKind struct{}

// read wants a place; each limit of the touch may be left out.
func (landKind) read(s *Step, r *stepReader) {
	m, w := r.keys, r.limits
	s.At = readPlace(m.Need("at"))
	s.Heading = readHeading(m.Get("heading"))
	s.Manual = m.Get("manual").Bool()
	s.Within.OffsetM = readLimit(w.Get("offset_m"), 0.01, 1000)
	s.Within.SinkMps = readLimit(w.Get("sink_mps"), 0.05, 20)
	s.Within.TiltDeg = readLimit(w.Get("tilt_deg"), 0.5, 90)
	s.Within.NoseDeg = readLimit(w.Get("nose_deg"), 0.1, 180)
	s.Within.Bounces = readLimit(w.Get("bounces"), 0, 100)
}

// say names the place, then the limits of the touch.
func (landKind) say(t *Target, w *saying) {
	w.add("Land on %s", t.place("the pad"))
	w.some(t.Limits.Offset, msgWithinOfMiddle)
	w.some(t.Limits.Sink, msgSinkingLess)
	w.someAngle(t.Limits.Tilt, "level within %s")
}
