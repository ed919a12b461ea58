package drill

// takeOffKind is a take-off to a height, by hand unless the drill allows an
// automatic one.
type takeOffKind struct{}

// read wants the height.
func (takeOffKind) read(s *Step, r *stepReader) {
	m := r.keys
	s.ToHeightM = readLimit(m.Need("to_height_m"), 0.1, 120)
	if a := m.Get("automatic"); a.Present() {
		s.Automatic = a.Word("allowed") == "allowed"
	}
}

// say names the height.
func (takeOffKind) say(t *Target, w *saying) {
	w.add(msgTakeOff, num(t.ToHeightM))
}
