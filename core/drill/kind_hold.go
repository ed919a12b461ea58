package drill

// holdKind is a place that is held for a time without a break.
type holdKind struct{}

// read wants a place, a time, and at least one of the three limits: without
// any, nothing would be judged. A limit of the height needs a height.
func (holdKind) read(s *Step, r *stepReader) {
	m, w := r.keys, r.limits
	s.At = readPlace(m.Need("at"))
	s.HeightM = readLimit(m.Get("height_m"), 0, 120)
	s.Heading = readHeading(m.Get("heading"))
	s.Seconds = m.Need("seconds").Number(0.1, 3600)
	s.Within.RadiusM = readLimit(w.Get("radius_m"), 0.01, 1000)
	s.Within.HeightM = readLimit(w.Get("height_m"), 0.01, 100)
	s.Within.NoseDeg = readLimit(w.Get("nose_deg"), 0.1, 180)
	if s.Within.HeightM.Set && !s.HeightM.Set && (s.At == nil || !s.At.HasZ) {
		m.Node().Fail(msgNoHeightToHold, msgWantHeight)
	}
	r.needLimit(msgHoldWithoutLimit, msgWantHoldLimit,
		s.Within.RadiusM, s.Within.HeightM, s.Within.NoseDeg)
}

// say names the time and the place first, as an instructor does, then the
// limits.
func (holdKind) say(t *Target, w *saying) {
	if where := t.place(""); where != "" {
		w.add(msgHoldOver, num(t.Seconds), where)
	} else {
		w.add("Hold for %s s", num(t.Seconds))
	}
	w.some(t.Limits.Radius, "stay within %s m")
	if t.Limits.Height > 0 {
		w.add("height %s ± %s m", num(t.HeightM), num(t.Limits.Height))
	}
	w.nose(t)
}
