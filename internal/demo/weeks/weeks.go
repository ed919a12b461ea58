// Package weeks makes the four weeks of the sample school: who flew which drill on
// which day, flown in the simulator by the pilot model, marked by an eye or scored
// from a log. It is made once, by make build, and packed into one file whose days
// count from the first; loading gives them their dates.
package weeks

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"hash/fnv"
	"io"
	"math"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"github.com/klauspost/compress/zstd"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/rig"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/internal/demo/pilot"
)

// Learner is a made-up student: where the hand begins, how fast it learns, and
// what is particular about it.
type Learner struct {
	Name, Programme, Craft, TrainsFor string
	Raw                               float64 // error of the first flight, of a beginner's
	Best                              float64 // error that practice ends at
	Packs                             float64 // attempts in which the difference falls to a third
	From, To                          int     // field days of the course on which it flew
	Lean                              float64 // how much worse the right side is; negative: the left
	Turns                             float64 // how much worse turning is
	Evenings                          bool    // practises in the simulator at home
	More                              int     // flights a day over what is usual
	Gate                              string  // that it trains for from the fourth day on; empty = the ladder alone
}

// Learners of the sample school; all names are invented.
var Learners = []Learner{
	{Name: "Nives Torcellan", Programme: "position-hold-first", Craft: "poiana", TrainsFor: "rescue search", Raw: 0.2,
		Best: 0.05, Packs: 4, To: 11, Evenings: true, More: 16, Gate: "unassisted-aids-on"},
	{Name: "Ilario Penzoval", Programme: "position-hold-first", Craft: "poiana", TrainsFor: "dune survey", Raw: 0.51,
		Best: 0.19, Packs: 10, To: 11, Lean: 0.9, Evenings: true},
	{Name: "Dunja Velkovar", Programme: "on-then-off", Craft: "poiana", TrainsFor: msgSolarRoofInspection, Raw: 0.26,
		Best: 0.09, Packs: 4, To: 1},
	{Name: "Sauro Bradamel", Programme: "hands-first", Craft: "gheppio", TrainsFor: "rescue search", Raw: 0.51, Best: 0.15,
		Packs: 12, To: 11, Turns: 1, Evenings: true},
	{Name: "Amina Corvelli", Programme: "position-hold-first", Craft: "poiana", TrainsFor: msgSolarRoofInspection,
		Raw: 0.77, Best: 0.22, Packs: 8, From: 11, To: 11},
	{Name: "Teo Brusaferal", Programme: "hands-first", Craft: "gheppio", TrainsFor: "dune survey", Raw: 0.51, Best: 0.15,
		Packs: 12, From: 2, To: 11},
	{Name: "Ginevra Altamor", Programme: "on-then-off", Craft: "poiana", TrainsFor: "rescue search", Raw: 0.55, Best: 0.21,
		Packs: 14, From: 1, To: 11},
	{Name: "Radu Petrinel", Programme: "hands-first", Craft: "rondine", TrainsFor: msgSolarRoofInspection, Raw: 0.51,
		Best: 0.12, Packs: 14, From: 4, To: 10},
	{Name: "Olga Stivanel", Programme: "position-hold-first", Craft: "airone", TrainsFor: "rescue search", Raw: 0.64,
		Best: 0.26, Packs: 12, From: 3, To: 11},
	{Name: "Bruno Fasolar", Programme: "on-then-off", Craft: "poiana", TrainsFor: "dune survey", Raw: 0.72, Best: 0.26,
		Packs: 20, To: 11, Lean: -0.5, Evenings: true},
	{Name: "Sibilla Nordest", Programme: "position-hold-first", Craft: "poiana", TrainsFor: "dune survey", Raw: 0.55,
		Best: 0.2, Packs: 13, From: 5, To: 11},
	{Name: "Marko Ulivanic", Programme: "hands-first", Craft: "gheppio", TrainsFor: "rescue search", Raw: 0.47, Best: 0.14,
		Packs: 10, To: 9},
}

// DaysBack are the field days of the four weeks, counted back from today: three a
// week, the last of them yesterday.
var DaysBack = []int{27, 25, 22, 20, 18, 15, 13, 11, 8, 6, 3, 1}

// Dawn is when the field opens, in minutes of the day.
const Dawn = 8*60 + 30

// Air is a wind in field headings.
type Air struct{ Mps, Gust, From float64 }

// WindOn is the place's habit on a field day at a minute of the day: a
// north-westerly, from behind a pilot who looks over the salt pans to the
// south-east, that rises after eleven.
func WindOn(day, minute int) Air {
	h := fnv.New64a()
	_, _ = fmt.Fprint(h, "day ", day)
	r := rand.New(rand.NewPCG(h.Sum64(), 3))
	base, hour := 1.6+1.6*r.Float64(), float64(minute)/60
	rise := 3.2 / (1 + math.Exp(-(hour-11.5)*2))
	if hour > 18 || hour < 6 {
		rise = 0
	}
	mps := math.Round((base+rise)*10) / 10
	return Air{mps, math.Round(mps*14) / 10, math.Round(170 + 25*r.NormFloat64())}
}

// lee is the share of the wind that is left behind the pump house, where the
// smallest craft fly.
const lee = 0.3

// Flight is one attempt of the four weeks.
type Flight struct {
	Learner int           `json:"learner"`
	Day     int           `json:"day"`
	Minute  int           `json:"minute"` // of that day
	Drill   string        `json:"drill"`
	Side    field.Side    `json:"side"`
	Aids    craft.Aids    `json:"aids"`
	Level   int           `json:"level"`
	Source  score.Source  `json:"source"`
	Wind    Air           `json:"wind"`
	Result  *score.Result `json:"result"`
	Marks   []score.Mark  `json:"marks,omitempty"`
	Log     []byte        `json:"log,omitempty"` // CSV
	Run     []byte        `json:"run,omitempty"` // the trace of a simulator run
	Claimed string        `json:"claimed,omitempty"`
	Seed    uint32        `json:"seed"`
	Crash   *Crash        `json:"crash,omitempty"` // how a flight with a log ended, where it was by a crash
}

// Crash is when and where a flight ended on something, and on what.
type Crash struct {
	T     float64     `json:"t"`
	At    score.Place `json:"at"`
	Cause string      `json:"cause"`
}

// training is one learner's way through the four weeks.
type training struct {
	Learner
	n     int
	cat   *drill.Catalogue
	class craft.Class
	plain []record.Attempt
	out   []Flight
	tries map[drill.Cell]int
}

// reference is a today on which the weeks are laid while they are made.
var reference = time.Date(2026, 2, 27, 0, 0, 0, 0, time.UTC)

func moment(day, minute int) time.Time {
	return reference.AddDate(0, 0, -DaysBack[day]).Add(time.Duration(minute) * time.Minute)
}

// Make flies the four weeks of the learners of the given places, all of them where
// none is given.
func Make(cat *drill.Catalogue, only ...int) ([]Flight, error) {
	if len(only) == 0 {
		for i := range Learners {
			only = append(only, i)
		}
	}
	parts, errs := make([][]Flight, len(only)), make([]error, len(only))
	var wg sync.WaitGroup
	for i, n := range only {
		wg.Go(func() {
			l := Learners[n]
			t := training{Learner: l, n: n, cat: cat, class: cat.Craft[l.Craft].Class(), tries: map[drill.Cell]int{}}
			errs[i] = t.fly()
			parts[i] = t.out
		})
	}
	wg.Wait()
	var out []Flight
	for _, p := range parts {
		out = append(out, p...)
	}
	return out, errors.Join(errs...)
}

// Who trains for a gate hovers in the wind of noon on the last field days.
const (
	windyFrom = 9
	windyAt   = 11*60 + 55
)

// fly flies the ladder: on each day the lowest cells that are not held, both
// sides in turn, and now and then one that is.
func (t *training) fly() error {
	r := rand.New(rand.NewPCG(uint64(t.n+1), 77))
	for d := t.From; d <= t.To; d++ {
		at := Dawn + r.IntN(150)
		flights := 5 + r.IntN(4) + t.More
		if t.From == t.To {
			flights = 3
		}
		cells := t.today(moment(d, at))
		for k := range flights {
			if len(cells) == 0 {
				break
			}
			if err := t.attempt(cells[k%len(cells)], d, at, ""); err != nil {
				return err
			}
			at += 4 + r.IntN(9)
		}
		if t.Evenings && d%3 == 2 {
			for k := range min(2, len(cells)) {
				if err := t.attempt(cells[k], d, 20*60+15+9*k, score.Sim); err != nil {
					return err
				}
			}
		}
	}
	if t.Gate == "" {
		return nil
	}
	for d := windyFrom; d <= t.To; d++ { // the gate asks for a hover in the wind of noon
		hover := drill.Cell{Drill: "hover-tail-in", Side: field.NoSide, Aids: craft.PositionHold, Level: 1}
		if err := t.attempt(hover, d, windyAt, ""); err != nil {
			return err
		}
	}
	return nil
}

// today picks what is flown: the lowest three cells not held (more for who flies more), else those that
// lapse soonest.
func (t *training) today(at time.Time) []drill.Cell {
	e := readiness.Sort(t.plain, t.cat.Drills, at, time.UTC)
	var open, soon []drill.Cell
	cells := t.cat.Programmes[t.Programme].Cells()
	if t.Gate != "" && at.After(moment(3, 0)) {
		cells = append(slices.Clone(t.cat.Gates[t.Gate].Cells), cells...)
	}
	for i, c := range cells {
		if slices.Contains(cells[:i], c) {
			continue
		}
		cell := e.Cell(readiness.Key{Cell: c, Class: t.class})
		switch {
		case cell.Standing != readiness.Held && len(open) < 3+t.More/2:
			open = append(open, c)
		case cell.Standing == readiness.Held && cell.CurrentUntil.Sub(at) < 10*24*time.Hour:
			soon = append(soon, c)
		}
	}
	if len(soon) > 2 {
		soon = soon[:2]
	}
	return append(open, soon...)
}

// skill is the learner's at a cell after so many tries.
func (t *training) skill(c drill.Cell, d drill.Drill) pilot.Skill {
	share := t.Best + (t.Raw-t.Best)*math.Exp(-float64(t.tries[c])/t.Packs)
	if c.Side == field.RightSide && t.Lean > 0 || c.Side == field.LeftSide && t.Lean < 0 {
		share *= 1 + math.Abs(t.Lean)
	}
	if d.Family == "yaw" {
		share *= 1 + t.Turns
	}
	return pilot.Of(math.Min(share, 1.1), pilot.Wide[t.class])
}

func (t *training) attempt(c drill.Cell, day, minute int, source score.Source) error {
	d := t.cat.Drills[c.Drill]
	n := len(t.out)
	w := WindOn(day, minute)
	if t.class == craft.Micro {
		w = Air{math.Round(lee*w.Mps*10) / 10, math.Round(lee*w.Gust*10) / 10, w.From}
	}
	if source == score.Sim {
		w = Air{Mps: 2, From: 180}
	}
	f := Flight{Learner: t.n, Day: day, Minute: minute, Drill: d.Key, Side: c.Side, Aids: c.Aids, Level: c.Level, Wind: w,
		Source: source, Seed: uint32(t.n*1000 + n)}
	spec := f.spec()
	flown, err := pilot.Fly(spec, t.cat, t.skill(c, d), uint64(spec.Seed))
	if err != nil {
		return fmt.Errorf("%s, day %d: %w", t.Name, day, err)
	}
	t.tries[c]++
	crashed := flown.Outcome.Ended == "crashed"
	switch {
	case source == score.Sim:
		f.Run, f.Claimed = []byte(flown.Run), flown.Outcome.Hash
	case n%3 == 2: // every third flight has a log
		f.Source = score.FromLog
	default:
		setup, err := rig.SetUp(spec, t.cat, nil)
		if err != nil {
			return fmt.Errorf("%s, day %d: %w", t.Name, day, err)
		}
		f.Source, f.Marks = score.Observed, Watch(*setup.Task, flown.Track, crashed, uint64(spec.Seed))
	}
	if f.Source != score.Observed {
		var file bytes.Buffer
		if err := track.WriteCSV(&file, Log(flown.Track)); err != nil {
			return fmt.Errorf("%s, day %d: %w", t.Name, day, err)
		}
		f.Log = file.Bytes()
	}
	if crashed && f.Source == score.FromLog {
		last := flown.Track.Len() - 1
		f.Crash = &Crash{flown.Track.T[last], score.Place{X: flown.Track.X[last], Y: flown.Track.Y[last],
			Z: flown.Track.Z[last]}, flown.Outcome.Cause}
	}
	if err := f.judge(t.cat); err != nil {
		return fmt.Errorf("%s, day %d: %w", t.Name, day, err)
	}
	t.out = append(t.out, f)
	a := f.Attempt(t.class)
	a.ID, a.At = fmt.Sprint(n), moment(day, minute)
	a.Counts, a.WhyNot = d.Counts(a.Flown())
	t.plain = append(t.plain, a)
	return nil
}

// Attempt is the flight as the record has it, without its id and its date.
func (f *Flight) Attempt(class craft.Class) record.Attempt {
	w := f.Wind
	a := record.Attempt{Drill: f.Drill, Side: f.Side, Aids: f.Aids, CraftClass: class, Level: f.Level, Source: f.Source,
		Verdict: f.Result.Verdict, Margin: f.Result.Margin,
		WindMps: &w.Mps, WindFromDeg: &w.From, Frame: "nose"}
	if f.Source != score.Sim {
		a.GustMps, a.Site, a.Eyes = &w.Gust, "hardstanding", "craft"
		if f.Day%4 == 3 { // now and then they fly by the sluice
			a.Site = "sluice meadow"
		}
		// Who trains for the gate has yet to hover while answering questions.
		a.Answering = f.Drill == "hover-tail-in" && f.Day%3 == 1 && Learners[f.Learner].Gate == ""
	}
	return a
}

// Log is what a craft's own log would hold of a flight: ten samples a second,
// rounded, with the columns that craft write.
func Log(t *track.Track) *track.Track {
	out := &track.Track{}
	round := func(v, to float64) float64 { return math.Round(v/to) * to }
	angle := func(a field.Angle) field.Angle { return field.Degrees(math.Round(a.Wrap().Deg()*10) / 10) }
	for i := 0; i < t.Len(); i += 5 {
		out.T = append(out.T, round(t.T[i], 0.001))
		out.X, out.Y, out.Z = append(out.X, round(t.X[i], 0.001)), append(out.Y, round(t.Y[i], 0.001)), append(out.Z,
			math.Max(0, round(t.Z[i], 0.001)))
		out.Heading, out.Roll, out.Pitch = append(out.Heading, angle(t.Heading[i])), append(out.Roll,
			angle(t.Roll[i])), append(out.Pitch, angle(t.Pitch[i]))
		if t.Armed != nil {
			out.Armed = append(out.Armed, t.Armed[i])
		}
		out.PackV = append(out.PackV, round(t.PackV[i], 0.01))
	}
	out.Calls = t.Calls
	return out
}

// Write packs flights into one file: JSON, compressed.
func Write(w io.Writer, list []Flight) error {
	z, err := zstd.NewWriter(w, zstd.WithEncoderLevel(zstd.SpeedBestCompression))
	if err == nil {
		err = json.NewEncoder(z).Encode(list)
	}
	if err == nil {
		err = z.Close()
	}
	if err != nil {
		return fmt.Errorf("pack the weeks: %w", err)
	}
	return nil
}

// Read reads what Write packed.
func Read(r io.Reader) ([]Flight, error) {
	z, err := zstd.NewReader(r)
	if err != nil {
		return nil, fmt.Errorf("read the packed weeks: %w", err)
	}
	defer z.Close()
	var list []Flight
	if err := json.NewDecoder(z).Decode(&list); err != nil {
		return nil, fmt.Errorf("read the packed weeks: %w", err)
	}
	return list, nil
}
