package craft

import (
	"bytes"
	"fmt"
	"math"

	"go.yaml.in/yaml/v3"

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
		rotors.Fail(fmt.Sprintf(msgRotorAxesStand, widest, t.SpanM),
			msgSpanTheirLargest)
	}
	t.RotorRadiusM = m.Get("rotor_radius_m").Number(0.005, 1.5)
	t.HoverRps = m.Get("hover_rps").Number(1, 2000)
	t.FullThrust = m.Get("full_thrust").Number(1, 50)
	t.FigureOfMerit = m.Get("figure_of_merit").Number(0.1, 0.95)
	t.DriveEfficiency = m.Get("drive_efficiency").Number(0.1, 0.99)
	t.RotorLagS = m.Get("rotor_lag_s").Number(0.001, 1)
}

func (t *Type) readDynamics(m *yamldoc.Map) {
	t.ElectronicsW = m.Get("electronics_w").Number(0, 500)
	in := m.Get("inertia_kgm2")
	for i, n := range in.List() {
		if i < 3 {
			t.InertiaKgM2[i] = n.Number(1e-8, 50)
		}
	}
	if n := len(in.List()); in.Present() && n != 3 {
		in.Fail(fmt.Sprintf("%d numbers", n), msgRollPitchYaw)
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
			n.Fail(fmt.Sprintf(msgLimitsWhichCraft, a), msgAidsStandAids)
		}
	}
	lm.Done()
}

func readGains(n yamldoc.Node) Gains {
	m := n.Map()
	g := func(key string) float64 { return m.Get(key).Number(0.01, 60) }
	out := Gains{g("place_per_s"), g("speed_per_s"), g("lean_per_s"), g("rate_per_s"), g("height_per_s"), g("climb_per_s")}
	m.Done()
	return out
}

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

type fileType struct {
	Format          string              `yaml:"format"`
	Key             string              `yaml:"key"`
	Title           string              `yaml:"title"`
	Kind            string              `yaml:"kind"`
	SpanM           float64             `yaml:"span_m"`
	MassKg          float64             `yaml:"mass_kg"`
	Aids            []Aids              `yaml:"aids,flow"`
	OptionalAids    []Aids              `yaml:"optional_aids,flow,omitempty"`
	Rotors          []fileRotor         `yaml:"rotors,omitempty"`
	RotorRadiusM    float64             `yaml:"rotor_radius_m,omitempty"`
	HoverRps        float64             `yaml:"hover_rps,omitempty"`
	FullThrust      float64             `yaml:"full_thrust,omitempty"`
	FigureOfMerit   float64             `yaml:"figure_of_merit,omitempty"`
	DriveEfficiency float64             `yaml:"drive_efficiency,omitempty"`
	RotorLagS       float64             `yaml:"rotor_lag_s,omitempty"`
	ElectronicsW    float64             `yaml:"electronics_w,omitempty"`
	Inertia         []float64           `yaml:"inertia_kgm2,flow,omitempty"`
	Drag            *fileDrag           `yaml:"drag,flow,omitempty"`
	Limits          map[Aids]fileLimits `yaml:"limits,omitempty"`
	Battery         *fileBattery        `yaml:"battery,flow,omitempty"`
	Propeller       *filePropeller      `yaml:"propeller,flow,omitempty"`
	WindMps         float64             `yaml:"wind_limit_mps,omitempty"`
	GustMps         float64             `yaml:"gust_limit_mps,omitempty"`
	Sensors         *fileSensors        `yaml:"sensors,flow,omitempty"`
	Gimbal          bool                `yaml:"gimbal,omitempty"`
	Guards          bool                `yaml:"guards,omitempty"`
	FoldingArm      bool                `yaml:"folding_arms,omitempty"`
	Goggles         bool                `yaml:"goggles,omitempty"`
	Screen          bool                `yaml:"screen,omitempty"`
	Cue             *fileCue            `yaml:"cue,flow,omitempty"`
	Parts           []filePart          `yaml:"parts,omitempty"`
}

type fileRotor struct {
	ArmM     float64 `yaml:"arm_m"`
	AngleDeg float64 `yaml:"angle_deg"`
	Spin     Spin    `yaml:"spin"`
}
type fileDrag struct {
	RotorPerS float64 `yaml:"rotor_per_s,omitempty"`
	BodyM2    float64 `yaml:"body_m2,omitempty"`
}
type fileLimits struct {
	LeanDeg    float64 `yaml:"lean_deg,omitempty"`
	SpeedMps   float64 `yaml:"speed_mps,omitempty"`
	ClimbMps   float64 `yaml:"climb_mps,omitempty"`
	DescendMps float64 `yaml:"descend_mps,omitempty"`
	YawDps     float64 `yaml:"yaw_dps,omitempty"`
	BrakeMps2  float64 `yaml:"brake_mps2,omitempty"`

	Gains *fileGains `yaml:"gains,flow,omitempty"`
}
type fileGains struct {
	Place  float64 `yaml:"place_per_s,omitempty"`
	Speed  float64 `yaml:"speed_per_s,omitempty"`
	Lean   float64 `yaml:"lean_per_s,omitempty"`
	Rate   float64 `yaml:"rate_per_s,omitempty"`
	Height float64 `yaml:"height_per_s,omitempty"`
	Climb  float64 `yaml:"climb_per_s,omitempty"`
}
type fileBattery struct {
	Chemistry   Chemistry `yaml:"chemistry"`
	Cells       int       `yaml:"cells"`
	CapacityMah float64   `yaml:"capacity_mah"`
	OhmPerCell  float64   `yaml:"ohm_per_cell,omitempty"`
	MassKg      float64   `yaml:"mass_kg,omitempty"`
	MaxChargeC  float64   `yaml:"max_charge_c,omitempty"`
}
type filePropeller struct {
	DiameterM float64 `yaml:"diameter_m,omitempty"`
	PitchM    float64 `yaml:"pitch_m,omitempty"`
	Blades    int     `yaml:"blades,omitempty"`
	Thread    bool    `yaml:"thread,omitempty"`
}
type fileSensors struct {
	Down     bool     `yaml:"down,omitempty"`
	Obstacle []string `yaml:"obstacle,flow,omitempty"`
}
type fileCue struct {
	Colour   string  `yaml:"colour,omitempty"`
	SpacingM float64 `yaml:"spacing_m,omitempty"`
	Lights   bool    `yaml:"lights,omitempty"`
}
type filePart struct {
	Key      string  `yaml:"key"`
	Title    string  `yaml:"title"`
	PerCrash float64 `yaml:"per_crash,omitempty"`
}

// YAML writes the type as a maestrale-craft/1 file that Parse reads back.
func (t Type) YAML() ([]byte, error) {
	f := fileType{
		Format: "maestrale-craft/1", Key: t.Key, Title: t.Title, Kind: t.Kind, SpanM: t.SpanM, MassKg: t.MassKg, Aids: t.Aids,
		OptionalAids: t.OptionalAids,
		RotorRadiusM: t.RotorRadiusM, HoverRps: t.HoverRps, FullThrust: t.FullThrust, FigureOfMerit: t.FigureOfMerit,
		DriveEfficiency: t.DriveEfficiency, RotorLagS: t.RotorLagS,
		ElectronicsW: t.ElectronicsW, WindMps: t.WindMps, GustMps: t.GustMps, Gimbal: t.Gimbal, Guards: t.Guards,
		FoldingArm: t.FoldingArm, Goggles: t.Goggles, Screen: t.Screen,
	}
	for _, r := range t.Rotors {
		f.Rotors = append(f.Rotors, fileRotor(r))
	}
	if t.InertiaKgM2 != [3]float64{} {
		f.Inertia = t.InertiaKgM2[:]
	}
	if t.Drag != (Drag{}) {
		f.Drag = &fileDrag{t.Drag.RotorPerS, t.Drag.BodyM2}
	}
	for a, l := range t.Limits {
		if f.Limits == nil {
			f.Limits = map[Aids]fileLimits{}
		}
		fl := fileLimits{l.LeanDeg, l.SpeedMps, l.ClimbMps, l.DescendMps, l.YawDps, l.BrakeMps2, nil}
		if l.Gains != (Gains{}) {
			g := fileGains(l.Gains)
			fl.Gains = &g
		}
		f.Limits[a] = fl
	}
	if t.Battery != (Battery{}) {
		b := fileBattery(t.Battery)
		f.Battery = &b
	}
	if t.Propeller != (Propeller{}) {
		p := filePropeller(t.Propeller)
		f.Propeller = &p
	}
	if t.Sensors.Down || len(t.Sensors.Obstacle) > 0 {
		s := fileSensors(t.Sensors)
		f.Sensors = &s
	}
	if t.CueColour != "" || t.CueSpaceM > 0 || t.Lights {
		f.Cue = &fileCue{t.CueColour, t.CueSpaceM, t.Lights}
	}
	for _, p := range t.Parts {
		f.Parts = append(f.Parts, filePart(p))
	}
	var out bytes.Buffer
	e := yaml.NewEncoder(&out)
	e.SetIndent(2)
	if err := e.Encode(f); err != nil {
		return nil, fmt.Errorf("write the craft %s: %w", t.Key, err)
	}
	return out.Bytes(), nil
}
