package main

import (
	"fmt"
	"math"

	"github.com/spf13/cobra"

	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/orient"
)

// regainOutput is maestrale-regain/1.
type regainOutput struct {
	Format      string      `json:"format"`
	Posterior   [36]float64 `json:"posterior"` // by aspect: 0 tail-in, 10, 20 … degrees clockwise
	AspectDeg   float64     `json:"aspect_deg"`
	Within20    float64     `json:"within_20_deg"` // chance that it is within 20° of it
	Bits        float64     `json:"unknown_bits"`  // what is not known; 8.5 = nothing is known
	Next        regainNext  `json:"next"`
	Home        regainHome  `json:"home"`
	Contradicts []int       `json:"contradicts"` // rows, from 1, that do not fit those before them and were left out
	Says        string      `json:"says"`
}

type regainNext struct {
	Input   orient.Input `json:"input"`
	Seconds float64      `json:"seconds"`
	Bits    float64      `json:"bits"`     // that it is expected to tell
	Metres  float64      `json:"nearer_m"` // within 16 s, the best way flown after it
}

type regainHome struct {
	TurnDeg float64 `json:"turn_deg"` // + to the right; then forward
	Seconds float64 `json:"turn_s"`
	Closing float64 `json:"closing_mps"` // that is expected of the push after it
	Metres  float64 `json:"nearer_m"`    // within 16 s
}

func regainCommand() *cobra.Command {
	var file, wind string
	e := orient.Usual()
	var yaw float64
	c := &cobra.Command{
		Use:   "regain --observations FILE [--distance M] [--airspeed MPS] [--yaw-rate DPS] [--wind MPS@FROM_DEG]",
		Short: "What can be known of a lost craft's heading from inputs and what was seen, and the way home",
		Args:  cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&file, "observations", "", "CSV of input, seconds, saw, speed")
	f.Float64Var(&e.DistanceM, "distance", e.DistanceM, "how far away it is, in m")
	f.Float64Var(&e.AirspeedMps, "airspeed", e.AirspeedMps, "of a push, in m/s")
	f.Float64Var(&yaw, "yaw-rate", e.YawRate.Deg(), "of a yaw, in degrees a second")
	f.StringVar(&wind, "wind", "", "MPS@FROM_DEG in field headings, the craft straight ahead of the pilot: 180 is from behind")
	c.RunE = func(c *cobra.Command, _ []string) error {
		if file == "" {
			return fmt.Errorf("no --observations is given; expected a CSV file of input, seconds, saw, speed")
		}
		e.YawRate = field.Degrees(yaw)
		if wind != "" {
			mps, from, err := lessonWind(wind)
			if err != nil {
				return err
			}
			if e.WindMps = mps; from != nil {
				e.WindFrom = field.Degrees(*from)
			}
		}
		if err := e.Check(); err != nil {
			return err
		}
		in, err := input(c, file)
		if err != nil {
			return err
		}
		defer func() { _ = in.Close() }()
		rows, left, err := orient.ReadRows(in)
		if err != nil {
			return misread.InFile(file, err)
		}
		notes(c, file, left)
		return writeJSON(c.OutOrStdout(), regained(e, rows))
	}
	return c
}

func regained(e orient.Eye, rows []orient.Row) regainOutput {
	t := orient.Follow(e, rows)
	p := t.After[len(rows)-1]
	out := regainOutput{Format: "maestrale-regain/1", Posterior: p.Bins36(), Bits: p.Entropy(), Contradicts: []int{}}
	aspect, share := p.Likeliest()
	out.AspectDeg, out.Within20 = math.Round(aspect.Deg()), share
	a := p.Advise(e, t.Push)
	out.Next = regainNext{a.Next.Input, a.Next.Seconds, a.Next.Bits, a.Next.Metres}
	out.Home = regainHome{a.Home.Turn.Deg(), a.Home.Seconds, a.Home.Closing, a.Metres}
	for _, i := range t.Against {
		out.Contradicts = append(out.Contradicts, i+1)
	}
	out.Says = a.Words()
	if len(t.Against) > 0 {
		out.Says += "; what was seen contradicts itself"
	}
	return out
}
