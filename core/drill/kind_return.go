package drill

// returnKind is a flight home by itself, which is watched to the ground or
// taken over.
type returnKind struct{}

// read wants what sets the flight off and what ends it: a limit of the distance
// from home, or the time after which the pilot takes over, and never both.
func (returnKind) read(s *Step, r *stepReader) {
	m, w := r.keys, r.limits
	s.Trigger = m.Need("trigger").Word("asked", "link", "pack")
	s.TakeOverS = m.Get("take_over_after_s").Number(0, 120)
	s.Within.HomeOffsetM = readLimit(w.Get("home_offset_m"), 0.05, 100)
	if s.TakeOverS > 0 && s.Within.HomeOffsetM.Set {
		m.Node().Fail(msgTakenOverNoLanding,
			msgWantOneEnd)
	}
	if s.TakeOverS == 0 && !s.Within.HomeOffsetM.Set {
		r.fail(msgReturnWithoutEnd, msgWantEnd)
	}
}

// say names what sets it off, then what the pilot does.
func (returnKind) say(t *Target, w *saying) {
	w.parts = append(w.parts, map[string]string{"asked": msgStartReturnHome,
		"link": msgRadioLinkLost, "pack": msgPackRunsLow,
	}[t.Trigger])
	if t.TakeOverS > 0 {
		w.add(msgWatchTakeOver, num(t.TakeOverS))
	} else {
		w.add(msgWatchLanding, num(t.Limits.HomeOffset))
	}
}
