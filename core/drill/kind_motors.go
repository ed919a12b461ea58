package drill

// motorsKind starts the motors on the ground, lets them idle for a time, and stops them. It is done when they have
// stopped, and the craft never leaves the ground.
type motorsKind struct{}

func (motorsKind) read(s *Step, r *stepReader) {
	s.At = readPlace(r.keys.Need("at"))
	s.Seconds = r.keys.Need("seconds").Number(0.5, 60)
	s.Within.HeightM = readLimit(r.limits.Need("height_m"), 0.05, 5)
	r.keys.Need("within")
}

func (motorsKind) say(t *Target, w *saying) {
	w.add(msgStartMotorsLet, num(t.Seconds))
	w.some(t.Limits.Height, msgStayWithinGround)
}
