package drill

// regainKind is a lost orientation: the nose is found again and the craft
// brought home. It begins in the air, so it is the first step of its drill.
type regainKind struct{}

// read wants the distance at which it begins, and at least one limit. The
// simulator turns the nose unseen, for as long as spoil says, in the wind that
// the step names.
func (regainKind) read(s *Step, r *stepReader) {
	m, w := r.keys, r.limits
	s.FromM = readLimit(m.Need("from_m"), 3, 500)
	s.HeightM = readLimit(m.Get("height_m"), 1, 120)
	s.WindMps = m.Get("wind_mps").Number(0, 15)
	sm := m.Get("spoil")
	spoil := sm.Map()
	if y := spoil.Get("yaw_s"); y.Present() {
		s.SpoilS = readBand(y, 0, 60)
	}
	spoil.Done()
	s.Method = "any"
	if v := m.Get("method"); v.Present() {
		s.Method = v.Word("read", "turn", "any")
	}
	if v := m.Get("spotter"); v.Present() {
		s.Spotter = v.Word("required") == "required"
	}
	s.Within.Seconds = readLimit(w.Get("seconds"), 0.5, 600)
	s.Within.LostM = readLimit(w.Get("lost_m"), 0.1, 1000)
	s.Within.WrongInputs = readLimit(w.Get("wrong_inputs"), 0, 100)
	r.needLimit(msgRegainWithoutLimit, msgWantRegainLimit,
		s.Within.Seconds, s.Within.LostM, s.Within.WrongInputs)
}

// say names the distance, then the limits. No wrong inputs at all is a limit as
// well.
func (regainKind) say(t *Target, w *saying) {
	w.add(msgFindNose, num(t.FromM))
	w.some(t.Limits.Seconds, "within %s s")
	w.some(t.Limits.Lost, msgNoFarther)
	if t.Limits.WrongInputs >= 0 {
		w.add(msgFewWrongInputs, t.Limits.WrongInputs)
	}
}
