package drill

// returnKind is a flight home by itself, which is watched to the ground or taken over.
type returnKind struct{}

func (returnKind) read(s *Step, r *stepReader) {
	m, w := r.keys, r.limits
	s.Trigger = m.Need("trigger").Word("asked", "link", "pack")
	s.TakeOverS = m.Get("take_over_after_s").Number(0, 120)
	s.Within.HomeOffsetM = readLimit(w.Get("home_offset_m"), 0.05, 100)
	if s.TakeOverS > 0 && s.Within.HomeOffsetM.Set {
		m.Node().Fail("a return that is taken over does not land by itself",
			"home_offset_m or take_over_after_s, not both")
	}
	if s.TakeOverS == 0 && !s.Within.HomeOffsetM.Set {
		r.fail("nothing is asked of the return", "home_offset_m in within, or take_over_after_s")
	}
}

func (returnKind) say(t *Target, w *saying) {
	w.parts = append(w.parts, map[string]string{"asked": "Start the return home",
		"link": "The radio link is lost and the craft returns home", "pack": "The pack runs low and the craft returns home",
	}[t.Trigger])
	if t.TakeOverS > 0 {
		w.add("watch it for %s s, then take over and stop", num(t.TakeOverS))
	} else {
		w.add("watch it land within %s m of home", num(t.Limits.HomeOffset))
	}
}
