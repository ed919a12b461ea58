package main

import (
	"fmt"
	"io"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/score"
	"maestrale/core/track"
)

// scoredOutput is a result with what the command line knows of the wind.
type scoredOutput struct {
	*score.Result
	FromS       float64  `json:"from_s,omitempty"` // of a longer log, the flight that was scored
	ToS         float64  `json:"to_s,omitempty"`
	WindMps     *float64 `json:"wind_mps,omitempty"`
	WindFromDeg *float64 `json:"wind_from_deg,omitempty"`
	Counts      bool     `json:"counts"`
	WhyNot      string   `json:"why_not"`
}

func scoreCommand() *cobra.Command {
	var o scoreFlags
	var marks, wind, format, part string
	var flights bool
	var at place
	c := &cobra.Command{
		Use:   "score --drill KEY [--side left|right] [--level N] [--craft KEY] [--course FILE] [--wind MPS@FROM_DEG] TRACK",
		Short: "Scores a track, or marks made by eye, against a drill",
		Args:  cobra.MaximumNArgs(1),
	}
	f := c.Flags()
	f.StringVar(&o.key, "drill", "", "key of the drill")
	f.StringVar(&o.side, "side", "none", "left or right, for a sided drill")
	f.IntVar(&o.level, "level", 1, "level of the drill")
	f.StringVar(&o.craft, "craft", "poiana", "key of the craft type, for its class")
	f.StringVar(&marks, "marks", "", "marks made by eye (maestrale-marks/1) instead of a track")
	f.StringVar(&wind, "wind", "", "MPS@FROM_DEG in field headings: 180 is from behind the pilot")
	f.StringVar(&o.school, "school", "", "folder of the school's own YAML files")
	f.StringVar(&format, "format", "json", "json or table")
	f.StringVar(&part, "part", "", "FROM-TO in s: score this part of a longer log")
	f.BoolVar(&flights, "flights", false, "list the flights of a longer log, each scored as the drill")
	at.flags(c)
	c.RunE = func(c *cobra.Command, args []string) error {
		if (len(args) == 1) == (marks != "") {
			return fmt.Errorf("expected either a track or --marks FILE")
		}
		if format != "json" && format != "table" {
			return fmt.Errorf("--format is %q; expected json or table", format)
		}
		task, plane, err := o.task(c, &at)
		if err != nil {
			return err
		}
		out := scoredOutput{}
		if marks != "" {
			out.Result, err = scoreMarks(c, task, marks)
		} else if t, readErr := at.readPart(c, args[0], plane, part); readErr != nil {
			err = readErr
		} else if flights {
			return listFlights(c, task, t, args[0])
		} else {
			out, err = scoreTrack(c, task, t, args[0], part != "")
		}
		if err != nil {
			return err
		}
		flown, err := out.blown(wind)
		if err != nil {
			return err
		}
		flown.Side = task.Side
		out.Counts, out.WhyNot = task.Drill.Counts(flown)
		if format == "table" {
			return scoreTable(c, out)
		}
		return writeJSON(c.OutOrStdout(), out)
	}
	return c
}

// blown notes the wind of --wind; none where it is not given.
func (out *scoredOutput) blown(wind string) (flown drill.Flown, err error) {
	if wind == "" {
		return flown, nil
	}
	mps, from, err := windFlag(wind)
	if err != nil {
		return flown, err
	}
	out.WindMps, out.WindFromDeg = &mps, &from
	return drill.Flown{WindMps: &mps, WindFromDeg: &from}, nil
}

// scoreFlags say which drill is judged.
type scoreFlags struct {
	key, side, craft, school string
	level                    int
}

// task lays the drill out on the course that is given, and returns the plane of the earth on which that lies.
func (o *scoreFlags) task(c *cobra.Command, at *place) (task drill.Task, plane *field.Plane, err error) {
	cat, err := catalogue(o.school)
	if err != nil {
		return task, nil, err
	}
	course, plane, err := at.read(c)
	if err != nil {
		return task, nil, err
	}
	d, err := cat.Drill(o.key)
	if err != nil {
		return task, nil, err
	}
	if _, ok := cat.Craft[o.craft]; !ok {
		return task, nil, fmt.Errorf("craft %q is not known; expected one of %v", o.craft, cat.Craft.Keys())
	}
	task, err = d.Lay(field.Side(o.side), o.level, classOf(cat, o.craft), course)
	return task, plane, err
}

// scoreTrack scores a log: as it is where it is a part of one, and else the flight in it that is the drill.
func scoreTrack(c *cobra.Command, task drill.Task, t *track.Track, name string, part bool) (out scoredOutput,
	err error) {
	if part {
		out.Result, err = score.Track(task, t, score.FromLog)
	} else {
		out.Result, out.FromS, out.ToS, err = score.Attempt(task, t, score.FromLog)
	}
	if err != nil {
		return out, fmt.Errorf("%s: %w", name, err)
	}
	if out.ToS > 0 {
		fmt.Fprintf(c.ErrOrStderr(), "maestrale: %s holds several flights; scored is the one from %.1f to %.1f s "+
			"(--flights lists them, --part scores another)\n", name, out.FromS, out.ToS)
	}
	return out, nil
}

// readPart reads a track, or the part of it that is asked for.
func (p *place) readPart(c *cobra.Command, name string, plane *field.Plane, part string) (*track.Track, error) {
	t, err := p.readTrack(c, name, plane)
	if err != nil || part == "" {
		return t, err
	}
	v, ok := numbers(strings.Replace(part, "-", ",", 1), 2)
	if !ok || v[1] <= v[0] || v[0] > t.T[t.Len()-1] || v[1] < t.T[0] {
		return nil, fmt.Errorf("--part is %q; expected FROM-TO in s, within %.1f to %.1f", part, t.T[0], t.T[t.Len()-1])
	}
	return t.Between(v[0], v[1]), nil
}

// flightsOutput is what a longer log holds.
type flightsOutput struct {
	Format   string      `json:"format"`
	Proposed int         `json:"proposed"` // counted from 1; 0 for none
	Flights  []flightRow `json:"flights"`
}

type flightRow struct {
	FromS   float64  `json:"from_s"`
	ToS     float64  `json:"to_s"`
	Verdict string   `json:"verdict"`
	Margin  *float64 `json:"margin"`
	Summary string   `json:"summary"`
}

func listFlights(c *cobra.Command, task drill.Task, t *track.Track, name string) error {
	list, err := score.Find(task, t, score.FromLog)
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	out := flightsOutput{Format: "maestrale-flights/1", Proposed: score.Proposed(list) + 1, Flights: []flightRow{}}
	for _, f := range list {
		out.Flights = append(out.Flights, flightRow{f.FromS, f.ToS, string(f.Result.Verdict), f.Result.Margin,
			f.Result.Summary()})
	}
	return writeJSON(c.OutOrStdout(), out)
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
	verdictRow(w, r.Result)
	for _, s := range r.Steps {
		done := "not done: waited for " + s.Waited
		if s.Done {
			done = fmt.Sprintf("done at %.1f s", *s.EndS)
		}
		fmt.Fprintf(w, "step %d\t%s\t%s\n", s.Index, s.Kind, done)
	}
	faultRows(w, r.Result)
	for _, u := range r.Unjudged {
		fmt.Fprintf(w, "unjudged\t\t%s\n", u)
	}
	if !r.Counts {
		fmt.Fprintf(w, "does not count\t\t%s\n", r.WhyNot)
	}
	return w.Flush()
}

func verdictRow(w io.Writer, r *score.Result) {
	margin := "not measured"
	if r.Margin != nil {
		margin = fmt.Sprintf("%+.2f", *r.Margin)
	}
	verdict := string(r.Verdict)
	if r.Close() {
		verdict += fmt.Sprintf(", close (%.0f %% sure)", 100**r.Likelihood)
	}
	fmt.Fprintf(w, "%s\t%s\tmargin %s\n", r.Drill, verdict, margin)
}

func faultRows(w io.Writer, r *score.Result) {
	for _, f := range r.Faults {
		fmt.Fprintf(w, "fault\t%s\t%s\n", f.Code, f.Text)
	}
}
