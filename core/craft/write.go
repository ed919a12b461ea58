//go:build !pad

package craft

import (
	"bytes"
	"fmt"

	"go.yaml.in/yaml/v3"
)

// fileType is a craft type as its file has it, key by key in the order in which
// they are written.
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

// fileRotor is one rotor of a file.
type fileRotor struct {
	ArmM     float64 `yaml:"arm_m"`
	AngleDeg float64 `yaml:"angle_deg"`
	Spin     Spin    `yaml:"spin"`
}

// fileDrag is the drag of a file.
type fileDrag struct {
	RotorPerS float64 `yaml:"rotor_per_s,omitempty"`
	BodyM2    float64 `yaml:"body_m2,omitempty"`
}

// fileLimits are the limits of a file, for one aids level.
type fileLimits struct {
	LeanDeg    float64 `yaml:"lean_deg,omitempty"`
	SpeedMps   float64 `yaml:"speed_mps,omitempty"`
	ClimbMps   float64 `yaml:"climb_mps,omitempty"`
	DescendMps float64 `yaml:"descend_mps,omitempty"`
	YawDps     float64 `yaml:"yaw_dps,omitempty"`
	BrakeMps2  float64 `yaml:"brake_mps2,omitempty"`

	Gains *fileGains `yaml:"gains,flow,omitempty"`
}

// fileGains are the gains of a file.
type fileGains struct {
	Place  float64 `yaml:"place_per_s,omitempty"`
	Speed  float64 `yaml:"speed_per_s,omitempty"`
	Lean   float64 `yaml:"lean_per_s,omitempty"`
	Rate   float64 `yaml:"rate_per_s,omitempty"`
	Height float64 `yaml:"height_per_s,omitempty"`
	Climb  float64 `yaml:"climb_per_s,omitempty"`
}

// fileBattery is the battery of a file.
type fileBattery struct {
	Chemistry   Chemistry `yaml:"chemistry"`
	Cells       int       `yaml:"cells"`
	CapacityMah float64   `yaml:"capacity_mah"`
	OhmPerCell  float64   `yaml:"ohm_per_cell,omitempty"`
	MassKg      float64   `yaml:"mass_kg,omitempty"`
	MaxChargeC  float64   `yaml:"max_charge_c,omitempty"`
}

// filePropeller is the propeller of a file.
type filePropeller struct {
	DiameterM float64 `yaml:"diameter_m,omitempty"`
	PitchM    float64 `yaml:"pitch_m,omitempty"`
	Blades    int     `yaml:"blades,omitempty"`
	Thread    bool    `yaml:"thread,omitempty"`
}

// fileSensors are the sensors of a file.
type fileSensors struct {
	Down     bool     `yaml:"down,omitempty"`
	Obstacle []string `yaml:"obstacle,flow,omitempty"`
}

// fileCue is the colour cue of a file.
type fileCue struct {
	Colour   string  `yaml:"colour,omitempty"`
	SpacingM float64 `yaml:"spacing_m,omitempty"`
	Lights   bool    `yaml:"lights,omitempty"`
}

// filePart is one spare part of a file.
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
