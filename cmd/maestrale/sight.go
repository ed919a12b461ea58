package main

import (
	"github.com/spf13/cobra"

	"maestrale/core/misread"
	"maestrale/core/orient"
)

// tellOutput is maestrale-sight/1.
type tellOutput struct {
	Format  string  `json:"format"`
	Tell    float64 `json:"tell_m"` // to which a call is right nine times of ten
	FromCue bool    `json:"from_cue"`
	Cue     float64 `json:"cue_m"`
	Calls   int     `json:"calls"`
	Half    float64 `json:"half_m,omitempty"` // right half way between a guess and always
	Low     float64 `json:"half_low_m,omitempty"`
	High    float64 `json:"half_high_m,omitempty"`
	Enough  bool    `json:"enough"`
}

func sightCommand() *cobra.Command {
	var craftKey, calls, light, school string
	var acuity float64
	c := &cobra.Command{
		Use:   "sight --craft KEY [--calls FILE] [--light day|overcast|dusk] [--acuity A]",
		Short: "How far a craft's aspect is told: by its colour cue, or by a student's calls",
		Args:  cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&craftKey, "craft", "", "key of the craft type")
	f.StringVar(&calls, "calls", "", "CSV of distance_m, right (yes or no), light")
	f.StringVar(&light, "light", "day", "day, overcast or dusk")
	f.Float64Var(&acuity, "acuity", 1, "of the eye, 1 = reads a minute of arc; for the cue")
	f.StringVar(&school, "school", "", "folder of the school's own YAML files")
	c.RunE = func(c *cobra.Command, _ []string) error {
		_, kind, err := craftOf(school, craftKey)
		if err != nil {
			return err
		}
		var list []orient.Call
		if calls != "" {
			in, err := input(c, calls)
			if err != nil {
				return err
			}
			defer func() { _ = in.Close() }()
			var left []string
			if list, left, err = orient.ReadCalls(in); err != nil {
				return misread.InFile(calls, err)
			}
			notes(c, calls, left)
		}
		x, err := orient.SightOf(kind.CueSpaceM, acuity, orient.Light(light), list)
		if err != nil {
			return err
		}
		return writeJSON(c.OutOrStdout(), tellOutput{"maestrale-sight/1", x.TellM, x.FromCue, x.CueM, x.Calls, x.HalfM, x.Low,
			x.High, x.Enough})
	}
	return c
}
