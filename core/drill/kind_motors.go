package drill

// motorsKind starts the motors on the ground, lets them idle for a time, and
// stops them. It is done when they have stopped, and the craft never leaves the
// ground.
type motorsKind struct{}

// read wants the time, and a height that says what leaving the ground is.
func (motorsKind) read(s *Step, r *stepReader) {
	s.At = readPlace(r.keys.Need("at"))
	s.Seconds = r.keys.Need("seconds").Number(0.5, 60)
	s.Within.HeightM = readLimit(r.limits.Need("height_m"), 0.05, 5)
	r.keys.Need("within")
}

// say names the time and that the craft stays on the ground.
func (motorsKind) say(t *Target, w *saying) {
	w.add(msgIdleMotors, num(t.Seconds))
	w.some(t.Limits.Height, msgStayOnGround)
}
