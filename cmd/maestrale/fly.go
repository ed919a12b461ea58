package main

import (
	"fmt"
	"io"
	"math"
	"os"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/pack"
	"maestrale/core/rig"
	"maestrale/core/score"
	"maestrale/core/track"
)

type flightOutput struct {
	Format  string          `json:"format"`
	Craft   string          `json:"craft"`
	Ticks   int64           `json:"ticks"`
	Hash    string          `json:"state_sha256"`
	Ended   string          `json:"ended"`
	Cause   string          `json:"cause"`
	Final   finalOutput     `json:"final"`
	Pack    usedOutput      `json:"pack"`
	Refused []refusedOutput `json:"refused"`
	Factor  float64         `json:"realtime_factor"`
	Result  *score.Result   `json:"result"`
}

type finalOutput struct {
	X       float64 `json:"x_m"`
	Y       float64 `json:"y_m"`
	Z       float64 `json:"z_m"`
	Heading float64 `json:"heading_deg"`
	VX      float64 `json:"vx_mps"`
	VY      float64 `json:"vy_mps"`
	VZ      float64 `json:"vz_mps"`
}

type usedOutput struct {
	Mah   float64 `json:"used_mah"`
	Volts float64 `json:"volts"`
}

type refusedOutput struct {
	T     float64 `json:"t_s"`
	Event string  `json:"event"`
	Why   string  `json:"why"`
}

// flyFlags are what a flight is asked with.
type flyFlags struct {
	craft, sticks, drill, side, wind, gust, start, out, school, format string
	level                                                              int
	seed                                                               uint64
	seconds, elevation, temp                                           float64
	airborne                                                           bool
	at                                                                 place
}

func flyCommand() *cobra.Command {
	var o flyFlags
	c := &cobra.Command{
		Use: "fly --craft KEY --sticks FILE [--course FILE] [--drill KEY --side S] [--wind MPS@FROM_DEG] [--gust " +
			"none|light|moderate|severe] [--seed N] [--seconds S] [--start x,y,z,heading] [--airborne] [--out TRACK.csv]",
		Short: "Flies sticks through the simulator",
		Args:  cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&o.craft, "craft", "poiana", "key of the craft type")
	f.StringVar(&o.sticks, "sticks", "",
		"stick trace as CSV: t_s, throttle, yaw, pitch, roll, and gimbal, aids, frame, event")
	f.StringVar(&o.drill, "drill", "", "score it against a drill")
	f.StringVar(&o.side, "side", "none", "left or right, for a sided drill")
	f.IntVar(&o.level, "level", 1, "level of the drill")
	f.StringVar(&o.wind, "wind", "", "MPS@FROM_DEG in field headings, the mean at 6 m: 180 is from behind the pilot")
	f.StringVar(&o.gust, "gust", "none", "none, light, moderate or severe")
	f.Uint64Var(&o.seed, "seed", 1, "another seed, other gusts")
	f.Float64Var(&o.seconds, "seconds", 0, "how long to fly (default until 2 s after the last row)")
	f.StringVar(&o.start, "start", "",
		"x,y,z,heading in m and degrees (default the pad, nose away; 1.5 m up with --airborne)")
	f.BoolVar(&o.airborne, "airborne", false, "start in a trimmed hover")
	f.StringVar(&o.out, "out", "", "write the track as CSV")
	f.Float64Var(&o.elevation, "elevation", math.NaN(), "metres above sea level (default the course's, else 0)")
	f.Float64Var(&o.temp, "temp", math.NaN(), "air in °C (default the standard atmosphere's)")
	f.StringVar(&o.school, "school", "", "folder of the school's own YAML files")
	f.StringVar(&o.format, "format", "json", "json or table")
	f.StringVar(&o.at.course, "course", "", "course file (maestrale-course/1)")
	c.RunE = func(c *cobra.Command, _ []string) error { return o.fly(c) }
	return c
}

func (o *flyFlags) fly(c *cobra.Command) error {
	if err := o.check(); err != nil {
		return err
	}
	cat, err := catalogue(o.school)
	if err != nil {
		return err
	}
	kind, ok := cat.Craft[o.craft]
	if !ok {
		return fmt.Errorf("craft %q is not known; expected one of %v", o.craft, cat.Craft.Keys())
	}
	laid, _, err := o.at.read(c)
	if err != nil {
		return err
	}
	task, laid, err := o.task(cat, kind, laid)
	if err != nil {
		return err
	}
	cfg, rows, err := o.config(c, kind, laid)
	if err != nil {
		return err
	}
	f, err := flight.New(cfg)
	if err != nil {
		return err
	}
	seconds := o.seconds
	if seconds == 0 {
		seconds = rows[len(rows)-1].T + 2
	}
	rec := rig.NewRecorder(&cfg.Craft)
	visit := rec.Add
	if o.out == "" && task == nil {
		visit = nil
	}
	began := time.Now()
	outcome, err := f.Run(rows, seconds, visit)
	if err != nil {
		return err
	}
	took := time.Since(began).Seconds()
	out := o.flown(f, outcome, took)
	if task != nil {
		if out.Result, err = rec.Judge(*task, outcome); err != nil {
			return err
		}
	}
	if o.out != "" {
		if err := writeTrack(c, o.out, &rec.Track); err != nil {
			return err
		}
	}
	if o.format == "table" {
		return flightTable(c.OutOrStdout(), out)
	}
	return writeJSON(c.OutOrStdout(), out)
}

// check refuses flags that say nothing to fly, or no way to print it.
func (o *flyFlags) check() error {
	if o.format != "json" && o.format != "table" {
		return fmt.Errorf("--format is %q; expected json or table", o.format)
	}
	if o.sticks == "" {
		return fmt.Errorf("--sticks is missing; expected a stick trace, or - for standard input")
	}
	return nil
}

// flown is a flight as it is printed; it took so many seconds to work out.
func (o *flyFlags) flown(f *flight.Flight, outcome flight.Outcome, took float64) flightOutput {
	end := f.Sample(flight.Sticks{})
	out := flightOutput{Format: "maestrale-flight/1", Craft: o.craft, Ticks: outcome.Ticks, Hash: outcome.Hash,
		Ended: outcome.Ended, Cause: outcome.Cause, Refused: []refusedOutput{},
		Final:  finalOutput{end.X, end.Y, end.Z, field.Angle(end.Heading).Deg(), end.VX, end.VY, end.VZ},
		Pack:   usedOutput{1000 * f.State.UsedAh, f.State.Volts},
		Factor: math.Round(float64(outcome.Ticks) * flight.Tick / math.Max(took, 1e-9))}
	for _, r := range outcome.Refused {
		out.Refused = append(out.Refused, refusedOutput{r.T, r.Event, r.Why})
	}
	return out
}

// task is the drill to score, nil where none is named, and the course that is
// flown on.
func (o *flyFlags) task(cat *drill.Catalogue, kind craft.Type, laid *course.Course) (*drill.Task, *course.Course,
	error) {
	if o.drill == "" {
		return nil, laid, nil
	}
	d, err := cat.Drill(o.drill)
	if err != nil {
		return nil, nil, err
	}
	if laid, err = d.On(kind.Class(), laid); err != nil {
		return nil, nil, err
	}
	task, err := d.Lay(field.Side(o.side), o.level, kind.Class(), laid)
	return &task, laid, err
}

func (o *flyFlags) config(c *cobra.Command, kind craft.Type, laid *course.Course) (flight.Config, []flight.Row, error) {
	fail := func(err error) (flight.Config, []flight.Row, error) { return flight.Config{}, nil, err }
	cfg, err := rig.Base(kind, laid)
	if err != nil {
		return fail(err)
	}
	cfg.Seed, cfg.Airborne = o.seed, o.airborne
	var ok bool
	if cfg.Gusts, ok = flight.GustsOf(o.gust); !ok {
		return fail(fmt.Errorf("--gust is %q; expected %s", o.gust, strings.Join(flight.GustsNames[:], ", ")))
	}
	if o.wind != "" {
		mps, from, err := windFlag(o.wind)
		if err != nil {
			return fail(err)
		}
		cfg.Wind = rig.Wind(mps, from)
	}
	if o.airborne {
		cfg.Start.Z = 1.5
	}
	if o.start != "" {
		if cfg.Start, cfg.Heading, err = startFlag(o.start); err != nil {
			return fail(err)
		}
	}
	if !math.IsNaN(o.elevation) || !math.IsNaN(o.temp) {
		elevation := o.elevation
		if math.IsNaN(elevation) {
			elevation = rig.Elevation(laid)
		}
		var temp *float64
		if !math.IsNaN(o.temp) {
			temp = &o.temp
		}
		if cfg.Density, err = pack.StandardDensity(elevation, temp); err != nil {
			return fail(err)
		}
	}
	in, err := input(c, o.sticks)
	if err != nil {
		return fail(err)
	}
	defer func() { _ = in.Close() }()
	rows, err := flight.ReadSticks(in, o.sticks, cfg.Craft.Most())
	if err != nil {
		return fail(err)
	}
	for _, r := range rows {
		if a := r.Sticks.Aids; !cfg.Craft.Limits[a].Has {
			return fail(fmt.Errorf("%s: at %v s the aids are %s, which the %s does not have; expected one of %v", o.sticks, r.T,
				a, kind.Title, kind.Aids))
		}
	}
	cfg.Aids = rows[0].Sticks.Aids
	return cfg, rows, nil
}

func startFlag(s string) (at flight.Vec, heading float64, err error) {
	v, ok := numbers(s, 4)
	if !ok || !(math.Abs(v[3]) <= 360) {
		return at, 0, fmt.Errorf("--start is %q; expected x,y,z,heading in m and degrees, as 0,12,1.5,0", s)
	}
	return flight.Vec{X: v[0], Y: v[1], Z: v[2]}, float64(field.Degrees(v[3])), nil
}

// writeTrack writes a track whole or not at all.
func writeTrack(c *cobra.Command, name string, t *track.Track) error {
	if name == "-" {
		return track.WriteCSV(c.OutOrStdout(), t)
	}
	tmp := name + ".part"
	f, err := os.Create(tmp)
	if err != nil {
		return plain(err)
	}
	err = track.WriteCSV(f, t)
	if e := f.Close(); err == nil {
		err = e
	}
	if err == nil {
		err = os.Rename(tmp, name)
	}
	if err != nil {
		_ = os.Remove(tmp)
		return fmt.Errorf("write %s: %w", name, err)
	}
	return nil
}

func flightTable(out io.Writer, o flightOutput) error {
	w := tabwriter.NewWriter(out, 0, 4, 2, ' ', 0)
	fmt.Fprintf(w, "%s\t%s after %.1f s\t%s\n", o.Craft, o.Ended, float64(o.Ticks)*flight.Tick, o.Cause)
	fmt.Fprintf(w, "at\t%.2f right, %.2f away, %.2f up\theading %.0f°\n", o.Final.X, o.Final.Y, o.Final.Z,
		o.Final.Heading)
	fmt.Fprintf(w, "pack\t%.0f mAh used\t%.2f V\n", o.Pack.Mah, o.Pack.Volts)
	for _, r := range o.Refused {
		fmt.Fprintf(w, "refused\t%s at %.1f s\t%s\n", r.Event, r.T, r.Why)
	}
	if r := o.Result; r != nil {
		verdictRow(w, r)
		faultRows(w, r)
	}
	return w.Flush()
}
