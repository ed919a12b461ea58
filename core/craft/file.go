package craft

import (
	"fmt"
	"math"

	"maestrale/core/yamldoc"
)

// Parse reads a maestrale-craft/1 file. Key, title, kind, span, mass and aids
// are required; the rest is what the arithmetic and the checks ask for.
func Parse(data []byte) (Type, error) {
	d, top := yamldoc.Read(data)
	m := top.Map()
	m.Need("format").Word("maestrale-craft/1")
	t := Type{
		Key: m.Need("key").Text(), Title: m.Need("title").Text(), Kind: m.Need("kind").Text(),
		SpanM:  m.Need("span_m").Number(0.02, 5),
		MassKg: m.Need("mass_kg").Number(0.005, 100),
	}
	t.Aids = aidsList(m.Need("aids"))
	t.OptionalAids = aidsList(m.Get("optional_aids"))
	t.readRotors(&m)
	t.readDynamics(&m)
	t.readBattery(m.Get("battery"))
	p := m.Get("propeller").Map()
	t.Propeller = Propeller{p.Get("diameter_m").Number(0.01, 3), p.Get("pitch_m").Number(0, 3), p.Get("blades").Int(1, 12),
		p.Get("thread").Bool()}
	p.Done()
	t.WindMps, t.GustMps = m.Get("wind_limit_mps").Number(0.1, 40), m.Get("gust_limit_mps").Number(0.1, 60)
	s := m.Get("sensors").Map()
	t.Sensors.Down = s.Get("down").Bool()
	for _, n := range s.Get("obstacle").List() {
		t.Sensors.Obstacle = append(t.Sensors.Obstacle, n.Word("front", "rear", "left", "right", "up"))
	}
	s.Done()
	t.Gimbal, t.Guards, t.FoldingArm = m.Get("gimbal").Bool(), m.Get("guards").Bool(), m.Get("folding_arms").Bool()
	t.Goggles, t.Screen = m.Get("goggles").Bool(), m.Get("screen").Bool()
	cue := m.Get("cue").Map()
	t.CueColour, t.CueSpaceM, t.Lights = cue.Get("colour").Text(), cue.Get("spacing_m").Number(0.01,
		5), cue.Get("lights").Bool()
	cue.Done()
	for _, n := range m.Get("parts").List() {
		pm := n.Map()
		t.Parts = append(t.Parts, Part{pm.Need("key").Text(), pm.Need("title").Text(), pm.Get("per_crash").Number(0, 20)})
		pm.Done()
	}
	m.Done()
	if d.Err() != nil {
		return Type{}, d.Err()
	}
	return t, nil
}

// readRotors reads where the rotors sit and which way they turn.
func (t *Type) readRotors(m *yamldoc.Map) {
	rotors := m.Get("rotors")
	for _, n := range rotors.List() {
		rm := n.Map()
		t.Rotors = append(t.Rotors, Rotor{rm.Need("arm_m").Number(0.01, 3), rm.Need("angle_deg").Number(-360, 360),
			Spin(rm.Need("spin").Word("cw", "ccw"))})
		rm.Done()
	}
	if n := len(t.Rotors); rotors.Present() && (n < 3 || n > 16) {
		rotors.Fail(fmt.Sprintf("%d rotors", n), "3 to 16")
	}
	if widest := t.widest(); len(t.Rotors) > 0 && math.Abs(widest-t.SpanM) > 0.02*t.SpanM+0.002 {
		rotors.Fail(fmt.Sprintf(msgSpanWrong, widest, t.SpanM),
			msgWantSpan)
	}
	t.RotorRadiusM = m.Get("rotor_radius_m").Number(0.005, 1.5)
	t.HoverRps = m.Get("hover_rps").Number(1, 2000)
	t.FullThrust = m.Get("full_thrust").Number(1, 50)
	t.FigureOfMerit = m.Get("figure_of_merit").Number(0.1, 0.95)
	t.DriveEfficiency = m.Get("drive_efficiency").Number(0.1, 0.99)
	t.RotorLagS = m.Get("rotor_lag_s").Number(0.001, 1)
}

// readDynamics reads what the simulator needs of a type besides its mass:
// inertia, drag, limits and gains.
func (t *Type) readDynamics(m *yamldoc.Map) {
	t.ElectronicsW = m.Get("electronics_w").Number(0, 500)
	in := m.Get("inertia_kgm2")
	for i, n := range in.List() {
		if i < 3 {
			t.InertiaKgM2[i] = n.Number(1e-8, 50)
		}
	}
	if n := len(in.List()); in.Present() && n != 3 {
		in.Fail(fmt.Sprintf("%d numbers", n), msgWantInertias)
	}
	d := m.Get("drag").Map()
	t.Drag = Drag{d.Get("rotor_per_s").Number(0, 5), d.Get("body_m2").Number(0, 10)}
	d.Done()
	limits := m.Get("limits")
	lm := limits.Map()
	for _, a := range AidsOrder {
		n := lm.Get(string(a))
		if !n.Present() {
			continue
		}
		f := n.Map()
		if t.Limits == nil {
			t.Limits = map[Aids]Limits{}
		}
		t.Limits[a] = Limits{
			LeanDeg: f.Get("lean_deg").Number(1, 180), SpeedMps: f.Get("speed_mps").Number(0.1,
				80), ClimbMps: f.Get("climb_mps").Number(0.1, 40),
			DescendMps: f.Get("descend_mps").Number(0.1, 40), YawDps: f.Get("yaw_dps").Number(1,
				2000), BrakeMps2: f.Get("brake_mps2").Number(0.1, 60),
			Gains: readGains(f.Get("gains")),
		}
		f.Done()
		if !t.Has(a) {
			n.Fail(fmt.Sprintf(msgLimitsOfOtherAids, a), msgWantOwnAids)
		}
	}
	lm.Done()
}

// readGains reads the gains of the autopilot; each must be there.
func readGains(n yamldoc.Node) Gains {
	m := n.Map()
	g := func(key string) float64 { return m.Get(key).Number(0.01, 60) }
	out := Gains{g("place_per_s"), g("speed_per_s"), g("lean_per_s"), g("rate_per_s"), g("height_per_s"), g("climb_per_s")}
	m.Done()
	return out
}

// readBattery reads the pack that the type flies on.
func (t *Type) readBattery(n yamldoc.Node) {
	b := n.Map()
	if !n.Present() {
		return
	}
	t.Battery = Battery{
		Chemistry: ReadChemistry(b.Need("chemistry")), Cells: b.Need("cells").Int(1,
			24), CapacityMah: b.Need("capacity_mah").Number(50, 200_000),
		OhmPerCell: b.Get("ohm_per_cell").Number(0.0001, 1), MassKg: b.Get("mass_kg").Number(0.001,
			50), MaxChargeC: b.Get("max_charge_c").Number(0.1, 10),
	}
	b.Done()
}

// ReadChemistry reads one of the chemistries' words from a YAML file.
func ReadChemistry(n yamldoc.Node) Chemistry {
	return Chemistry(n.Word(string(LiPo), string(LiHV), string(LiIon)))
}

// widest is the largest distance between two rotor axes.
func (t *Type) widest() float64 {
	far := 0.0
	for i, a := range t.Rotors {
		for _, b := range t.Rotors[:i] {
			turn := (a.AngleDeg - b.AngleDeg) * math.Pi / 180
			far = math.Max(far, math.Sqrt(math.Max(0, a.ArmM*a.ArmM+b.ArmM*b.ArmM-2*a.ArmM*b.ArmM*math.Cos(turn))))
		}
	}
	return far
}
