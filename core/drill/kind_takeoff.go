package drill

// takeOffKind is a take-off to a height.
type takeOffKind struct{}

func (takeOffKind) read(s *Step, r *stepReader) {
	m := r.keys
	s.ToHeightM = readLimit(m.Need("to_height_m"), 0.1, 120)
	if a := m.Get("automatic"); a.Present() {
		s.Automatic = a.Word("allowed") == "allowed"
	}
}

func (takeOffKind) say(t *Target, w *saying) {
	w.add(msgTakeOff, num(t.ToHeightM))
}
