package main

import (
	"github.com/spf13/cobra"

	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/score"
)

// yawOutput is maestrale-yaw/1.
type yawOutput struct {
	Format string     `json:"format"`
	Orbit  bool       `json:"orbit"`
	Speed  float64    `json:"speed_mps"`
	Offset float64    `json:"offset_m"` // the radius of an orbit
	Peak   float64    `json:"peak_dps"`
	Acc    float64    `json:"peak_dps2"`
	LeadIn float64    `json:"lead_in_s"` // before abeam, from which the nose turns by a degree a second
	Most   float64    `json:"craft_dps"`
	Can    bool       `json:"can"` // with a fifth to spare
	Near   float64    `json:"least_offset_m"`
	Fast   float64    `json:"most_speed_mps"`
	Curve  []yawCurve `json:"curve"`
}

type yawCurve struct {
	T    float64 `json:"t_s"` // 0 abeam
	Rate float64 `json:"rate_dps"`
	Nose float64 `json:"nose_deg"` // off the way, toward the subject
}

func yawCommand() *cobra.Command {
	var craftKey, drillKey, school string
	var speed, offset float64
	var orbit bool
	c := &cobra.Command{
		Use:   "yaw --craft KEY --speed MPS (--offset M [--orbit] | --drill KEY)",
		Short: "Plans the yaw that keeps the nose on a subject, past it or round it",
		Args:  cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&craftKey, "craft", "", "key of the craft type")
	f.StringVar(&drillKey, "drill", "", "a drill whose nose is kept on a subject, in the place of an offset")
	f.Float64Var(&speed, "speed", 1, "in m/s")
	f.Float64Var(&offset, "offset", 0, "from the way to the subject, or the radius, in m")
	f.BoolVar(&orbit, "orbit", false, "round it")
	f.StringVar(&school, "school", "", "folder of the school's own YAML files")
	c.RunE = func(c *cobra.Command, _ []string) error {
		cat, kind, err := craftOf(school, craftKey)
		if err != nil {
			return err
		}
		fastest := field.Degrees(kind.Limits[kind.Aids[0]].YawDps)
		var p orient.YawPlan
		switch {
		case drillKey != "":
			d, derr := cat.Drill(drillKey)
			if derr != nil {
				return derr
			}
			task, derr := d.Lay(d.Sides()[0], 1, kind.Class(), nil)
			if derr != nil {
				return derr
			}
			p, orbit, err = score.PlannedYaw(task, speed, fastest)
		case orbit:
			p, err = orient.Orbit(speed, offset, fastest)
		default:
			p, err = orient.PastSubject(speed, offset, fastest)
		}
		if err != nil {
			return err
		}
		out := yawOutput{Format: "maestrale-yaw/1", Orbit: orbit, Speed: p.SpeedMps, Offset: p.OffsetM, Peak: p.Peak.Deg(),
			Acc: p.PeakAcc.Deg(), LeadIn: p.LeadIn, Most: fastest.Deg(), Can: p.Can, Near: p.LeastOffsetM, Fast: p.MostSpeedMps}
		for _, a := range p.Curve {
			out.Curve = append(out.Curve, yawCurve{a.T, a.Rate.Deg(), a.Nose.Deg()})
		}
		return writeJSON(c.OutOrStdout(), out)
	}
	return c
}
