package main

import (
	"fmt"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/score"
)

// scoredOutput is a result with what the command line knows of the wind.
type scoredOutput struct {
	*score.Result
	WindMps     *float64 `json:"wind_mps,omitempty"`
	WindFromDeg *float64 `json:"wind_from_deg,omitempty"`
	Counts      bool     `json:"counts"`
	WhyNot      string   `json:"why_not"`
}

func scoreCommand() *cobra.Command {
	var key, side, craftKey, marks, wind, school, format string
	var level int
	var at place
	c := &cobra.Command{
		Use:   "score --drill KEY [--side left|right] [--level N] [--craft KEY] [--course FILE] [--wind MPS@FROM_DEG] TRACK",
		Short: "Scores a track, or marks made by eye, against a drill",
		Args:  cobra.MaximumNArgs(1),
	}
	f := c.Flags()
	f.StringVar(&key, "drill", "", "key of the drill")
	f.StringVar(&side, "side", "none", "left or right, for a sided drill")
	f.IntVar(&level, "level", 1, "level of the drill")
	f.StringVar(&craftKey, "craft", "poiana", "key of the craft type, for its class")
	f.StringVar(&marks, "marks", "", "marks made by eye (maestrale-marks/1) instead of a track")
	f.StringVar(&wind, "wind", "", "MPS@FROM_DEG in field headings: 180 is from behind the pilot")
	f.StringVar(&school, "school", "", "folder of the school's own YAML files")
	f.StringVar(&format, "format", "json", "json or table")
	at.flags(c)
	c.RunE = func(c *cobra.Command, args []string) error {
		if (len(args) == 1) == (marks != "") {
			return fmt.Errorf("expected either a track or --marks FILE")
		}
		if format != "json" && format != "table" {
			return fmt.Errorf("--format is %q; expected json or table", format)
		}
		cat, err := catalogue(school)
		if err != nil {
			return err
		}
		course, plane, err := at.read(c)
		if err != nil {
			return err
		}
		d, err := cat.Drill(key)
		if err != nil {
			return err
		}
		if _, ok := cat.Craft[craftKey]; !ok {
			return fmt.Errorf("craft %q is not known; expected one of %v", craftKey, cat.Craft.Keys())
		}
		task, err := d.Lay(field.Side(side), level, classOf(cat, craftKey), course)
		if err != nil {
			return err
		}
		out := scoredOutput{}
		if marks != "" {
			out.Result, err = scoreMarks(c, task, marks)
		} else if t, readErr := readTrack(c, args[0], plane); readErr != nil {
			err = readErr
		} else if out.Result, err = score.Track(task, t, score.FromLog); err != nil {
			err = fmt.Errorf("%s: %w", args[0], err)
		}
		if err != nil {
			return err
		}
		var flown drill.Flown
		if wind != "" {
			mps, from, err := windFlag(wind)
			if err != nil {
				return err
			}
			out.WindMps, out.WindFromDeg = &mps, &from
			flown.WindMps, flown.WindFromDeg = &mps, &from
		}
		out.Counts, out.WhyNot = d.Counts(flown)
		if format == "table" {
			return scoreTable(c, out)
		}
		return writeJSON(c.OutOrStdout(), out)
	}
	return c
}

func classOf(cat *drill.Catalogue, key string) craft.Class { return cat.Craft[key].Class() }

func scoreMarks(c *cobra.Command, task drill.Task, name string) (*score.Result, error) {
	f, err := input(c, name)
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close() }()
	list, left, err := score.ReadMarks(f)
	if err != nil {
		return nil, misread.InFile(name, err)
	}
	notes(c, name, left)
	return score.Marks(task, list).Result, nil
}

func scoreTable(c *cobra.Command, r scoredOutput) error {
	w := tabwriter.NewWriter(c.OutOrStdout(), 0, 4, 2, ' ', 0)
	margin := "not measured"
	if r.Margin != nil {
		margin = fmt.Sprintf("%+.2f", *r.Margin)
	}
	fmt.Fprintf(w, "%s\t%s\tmargin %s\n", r.Drill, r.Verdict, margin)
	for _, s := range r.Steps {
		done := "not done: waited for " + s.Waited
		if s.Done {
			done = fmt.Sprintf("done at %.1f s", *s.EndS)
		}
		fmt.Fprintf(w, "step %d\t%s\t%s\n", s.Index, s.Kind, done)
	}
	for _, f := range r.Faults {
		fmt.Fprintf(w, "fault\t%s\t%s\n", f.Code, f.Text)
	}
	for _, u := range r.Unjudged {
		fmt.Fprintf(w, "unjudged\t\t%s\n", u)
	}
	if !r.Counts {
		fmt.Fprintf(w, "does not count\t\t%s\n", r.WhyNot)
	}
	return w.Flush()
}
