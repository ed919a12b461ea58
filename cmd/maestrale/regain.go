package main

import (
	"fmt"
	"math"

	"github.com/spf13/cobra"

	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/orient"
	"maestrale/core/score"
	"maestrale/core/track"
)

// regainOutput is maestrale-regain/1.
type regainOutput struct {
	Format    string      `json:"format"`
	Posterior [36]float64 `json:"posterior"` // by aspect: 0 tail-in, 10, 20 … degrees clockwise
	AspectDeg float64     `json:"aspect_deg"`
	Within20  float64     `json:"within_20_deg"` // chance that it is within 20° of it
	Bits      float64     `json:"unknown_bits"`  // what is not known; 8.5 = nothing is known
	Next      regainNext  `json:"next"`
	Home      regainHome  `json:"home"`
	// where all rows together contradict one another: those, from 1, that fitted worst; none is left out
	Contradicts []int       `json:"contradicts"`
	Rows        []regainRow `json:"rows,omitempty"` // of a track: what was done, seen and told
	Says        string      `json:"says"`
}

type regainNext struct {
	Input   orient.Input `json:"input"`
	Seconds float64      `json:"seconds"`
	Bits    float64      `json:"bits"`     // that it is expected to tell
	Metres  float64      `json:"nearer_m"` // within 16 s, the best way flown after it
}

// regainRow is a stretch of a track.
type regainRow struct {
	From    float64     `json:"from_s"`
	To      float64     `json:"to_s"`
	Sticks  string      `json:"sticks"`
	Saw     orient.Seen `json:"saw"`
	Bits    float64     `json:"bits"`
	Aspect  float64     `json:"aspect_deg"` // as it was
	Likely  float64     `json:"likeliest_deg"`
	Within  float64     `json:"within_20_deg"`
	Advised string      `json:"advised,omitempty"`
}

// compareOutput is maestrale-schools/1: what the schools of bringing a lost craft home come
// to, over all aspects.
type compareOutput struct {
	Format  string        `json:"format"`
	Schools []schoolsOnce `json:"schools"`
	Says    string        `json:"says"`
}

type schoolsOnce struct {
	School orient.School `json:"school"`
	Mean   float64       `json:"home_s"`        // in the mean, to a third of the distance
	Most   float64       `json:"nine_of_ten_s"` // that nine of ten take at most
	Lost   float64       `json:"lost_m"`
	Never  int           `json:"never"`
	Flown  int           `json:"flown"`
}

type regainHome struct {
	TurnDeg float64 `json:"turn_deg"` // + to the right; then forward
	Seconds float64 `json:"turn_s"`
	Closing float64 `json:"closing_mps"` // that is expected of the push after it
	Metres  float64 `json:"nearer_m"`    // within 16 s
}

func regainCommand() *cobra.Command {
	var file, wind, trackFile string
	var compare bool
	var rounds int
	var seed uint64
	e := orient.Usual()
	var yaw float64
	c := &cobra.Command{
		Use:   "regain --observations FILE [--distance M] [--airspeed MPS] [--yaw-rate DPS] [--wind MPS@FROM_DEG]",
		Short: "What can be known of a lost craft's heading from inputs and what was seen, and the way home",
		Args:  cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&file, "observations", "", "CSV of input, seconds, saw, speed")
	f.StringVar(&trackFile, "track", "",
		"a track with sticks and heading, in the place of observations: what could be known at each moment")
	f.BoolVar(&compare, "compare", false, "flies the schools from every tenth degree of aspect and compares them")
	f.IntVar(&rounds, "rounds", 4, "with --compare: flights from each aspect")
	f.Uint64Var(&seed, "seed", 1, "with --compare")
	f.Float64Var(&e.DistanceM, "distance", e.DistanceM, "how far away it is, in m")
	f.Float64Var(&e.AirspeedMps, "airspeed", e.AirspeedMps, "of a push, in m/s")
	f.Float64Var(&yaw, "yaw-rate", e.YawRate.Deg(), "of a yaw, in degrees a second")
	f.StringVar(&wind, "wind", "",
		"MPS@FROM_DEG in field headings, the craft straight ahead of the pilot: 180 is from behind")
	c.RunE = func(c *cobra.Command, _ []string) error {
		if file == "" && trackFile == "" && !compare {
			return fmt.Errorf("no --observations is given; expected a CSV file of input, seconds, saw, speed, or --track, or " +
				"--compare")
		}
		if rounds < 1 || rounds > 200 {
			return fmt.Errorf("--rounds is %d; expected 1 to 200", rounds)
		}
		e.YawRate = field.Degrees(yaw)
		if err := blows(&e, wind); err != nil {
			return err
		}
		if err := e.Check(); err != nil {
			return err
		}
		if compare {
			return writeJSON(c.OutOrStdout(), compared(e, rounds, seed))
		}
		if trackFile != "" {
			out, err := regainedFrom(c, trackFile, e)
			if err != nil {
				return err
			}
			return writeJSON(c.OutOrStdout(), out)
		}
		rows, err := observations(c, file)
		if err != nil {
			return err
		}
		return writeJSON(c.OutOrStdout(), regained(e, rows))
	}
	return c
}

// blows sets the wind of --wind; none where it is not given.
func blows(e *orient.Eye, wind string) error {
	if wind == "" {
		return nil
	}
	mps, from, err := lessonWind(wind)
	if err != nil {
		return err
	}
	if e.WindMps = mps; from != nil {
		e.WindFrom = field.Degrees(*from)
	}
	return nil
}

// observations reads the inputs and what was seen after each.
func observations(c *cobra.Command, file string) ([]orient.Row, error) {
	in, err := input(c, file)
	if err != nil {
		return nil, err
	}
	defer func() { _ = in.Close() }()
	rows, left, err := orient.ReadRows(in)
	if err != nil {
		return nil, misread.InFile(file, err)
	}
	notes(c, file, left)
	return rows, nil
}

func regained(e orient.Eye, rows []orient.Row) regainOutput {
	t := orient.Follow(e, rows)
	p := t.After[len(rows)-1]
	out := known(p, p.Advise(e, t.Push))
	for _, i := range t.Against {
		out.Contradicts = append(out.Contradicts, i+1)
	}
	out.says(t.Contradictory)
	return out
}

// known is what a posterior comes to.
func known(p orient.Posterior, a orient.Advice) regainOutput {
	out := regainOutput{Format: "maestrale-regain/1", Posterior: p.Bins36(), Bits: p.Entropy(), Contradicts: []int{},
		Says: a.Words()}
	aspect, share := p.Likeliest()
	out.AspectDeg, out.Within20 = math.Round(aspect.Deg()), share
	out.Next = regainNext{a.Next.Input, a.Next.Seconds, a.Next.Bits, a.Next.Metres}
	out.Home = regainHome{a.Home.Turn.Deg(), a.Home.Seconds, a.Home.Closing, a.Metres}
	return out
}

func (o *regainOutput) says(against bool) {
	if against {
		o.Says += "; what was seen contradicts itself"
	}
}

// regainedFrom follows a whole track, flown from the pilot at the field frame's origin.
func regainedFrom(c *cobra.Command, file string, e orient.Eye) (regainOutput, error) {
	in, err := input(c, file)
	if err != nil {
		return regainOutput{}, err
	}
	defer func() { _ = in.Close() }()
	t, left, err := track.Read(in, track.Options{})
	if err != nil {
		return regainOutput{}, misread.InFile(file, err)
	}
	notes(c, file, left)
	w := score.WatchTrack(t, field.Point{}, 0, math.Inf(1), e)
	if w == nil {
		return regainOutput{}, misread.InFile(file, misread.At(1, "heading_deg, yaw, pitch and roll",
			"the track has no sticks or no heading"))
	}
	out := known(w.Known(), w.Advise())
	for i, s := range w.Stretches {
		at, share := s.After.Likeliest()
		row := regainRow{From: s.From, To: s.To, Sticks: s.Input, Saw: s.Saw, Bits: s.Bits, Aspect: s.Aspect.Deg(),
			Likely: at.Deg(), Within: share}
		if s.Before.Next.Input != "" {
			row.Advised = s.Before.Words()
		}
		if s.Against {
			out.Contradicts = append(out.Contradicts, i+1)
		}
		out.Rows = append(out.Rows, row)
	}
	out.says(len(out.Contradicts) > 0)
	return out, nil
}

func compared(e orient.Eye, rounds int, seed uint64) compareOutput {
	list := orient.Compare(e, rounds, seed)
	air := "still air"
	if e.WindMps > 0 {
		air = fmt.Sprintf("%g m/s of wind", e.WindMps)
	}
	out := compareOutput{Format: "maestrale-schools/1", Says: orient.Teach([]string{air}, [][]orient.Compared{list})}
	for _, k := range list {
		out.Schools = append(out.Schools, schoolsOnce{k.School, k.MeanS, k.MostS, k.LostM, k.Never, k.Flown})
	}
	return out
}
