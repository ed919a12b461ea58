package drill

// returnKind is a flight home by itself, which is watched to the ground or taken over.
type returnKind struct{}

func (returnKind) read(s *Step, r *stepReader) {
	m, w := r.keys, r.limits
	s.Trigger = m.Need("trigger").Word("asked", "link", "pack")
	s.TakeOverS = m.Get("take_over_after_s").Number(0, 120)
	s.Within.HomeOffsetM = readLimit(w.Get("home_offset_m"), 0.05, 100)
	if s.TakeOverS > 0 && s.Within.HomeOffsetM.Set {
		m.Node().Fail(msgReturnTakenOver,
			msgHomeOffsetOr)
	}
	if s.TakeOverS == 0 && !s.Within.HomeOffsetM.Set {
		r.fail(msgNothingAskedReturn, msgHomeOffsetWithin)
	}
}

func (returnKind) say(t *Target, w *saying) {
	w.parts = append(w.parts, map[string]string{"asked": msgStartReturnHome,
		"link": msgRadioLinkLost, "pack": msgPackRunsLow,
	}[t.Trigger])
	if t.TakeOverS > 0 {
		w.add(msgWatchThenTake, num(t.TakeOverS))
	} else {
		w.add(msgWatchLandWithin, num(t.Limits.HomeOffset))
	}
}
