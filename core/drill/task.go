package drill

import (
	"fmt"
	"math"
	"strings"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
)

// A drill names markers, and limits by craft class. Laying it decides all of
// that once: what judges, draws or flies a Task does no more than read numbers.

// What holds for every drill, whoever judges it: the scorer, the simulator and the pad.
const (
	// RestMps is the speed in m/s under which a craft is at rest: one that
	// holds its place by itself still sways by a decimetre or two.
	RestMps = 0.3
	// ReachedM is how many metres may be missing when a take-off has reached
	// its height.
	ReachedM = 0.3
)

// Task is a drill for one side, level, craft class and course: every place is a
// point and every limit a number. It is what is scored, drawn and flown.
type Task struct {
	// Drill is what the task was laid from.
	Drill Drill
	Side  field.Side
	// Level counts from 1.
	Level int
	Class craft.Class
	// Station is where the pilot stands; aspects are seen from there.
	Station field.Point
	Scale   float64 // of the drill's own size, on a smaller course; 1 else
	Steps   []Target
}

// Target is a step with every place and limit a number; a limit of 0 asks for
// nothing. Places are in metres in the field frame.
type Target struct {
	Kind Kind
	// HasAt is whether the step has a place of its own; At is 0, 0 otherwise.
	HasAt   bool
	At      field.Point
	Place   string // what lies At, in words; empty where that is no marker
	HeightM float64
	// Heading is mirrored for the right side already.
	Heading Rule
	// Seconds is how long a hold lasts, or motors idle.
	Seconds    float64
	SecondsMax float64
	// ToHeightM is the height of a take-off.
	ToHeightM float64
	By        field.Angle // signed, + turns the nose right
	RateDps   [2]float64
	// RestS is the rest at a place or at each corner, and SpeedMps the band of
	// the mean speed along a path; 0 asks for nothing.
	RestS    float64
	SpeedMps [2]float64
	// Path is the figure of a path, nil for every other kind; Laps is how often
	// a closed one is flown.
	Path *Figure
	Laps int
	// Subject is what the nose or the camera is held on.
	Subject    field.Point
	OnCall     bool        // a stop that a call begins
	AfterS     float64     // or so many seconds
	FromMps    float64     // of a stop: flown at least so fast as it begins; 0 = at any speed
	Over       bool        // of a stop: it turns over once before it stands
	RandomTurn bool        // By is what a call says, or the seed
	Before     field.Angle // of a random turn: turned before the angle that is called
	Trigger    string      // of a return
	TakeOverS  float64     // of a return; 0 = it lands itself
	FromM      float64     // of a regain
	WindMps    float64     // of a regain
	Spoilt     field.Angle // of a regain: the aspect from which it begins in the simulator
	// Method is how a lost orientation may be found: read, turn or any.
	Method string
	// During is what happens in the step, in order.
	During []Due
	Limits Limits
}

// Limits are the tolerances of a Target, in metres, seconds and metres a
// second; 0 asks for nothing. Bounces is a count and always judged.
type Limits struct {
	// Of holds and turns.
	Radius, Height float64
	// Nose is off the rule, Overshoot past the angle of a turn.
	Nose, Overshoot field.Angle
	// Of landings.
	Offset, Sink float64
	Tilt         field.Angle
	Bounces      int
	// Of paths, of the way to a place, and of stops.
	Cross, Past, Crossing, Distance float64
	Ratio, EndRatio                 float64 // 1 and over
	Aim, Slope, Legs                field.Angle
	Seconds                         float64
	// Metres from home, and metres farther away than at the beginning.
	HomeOffset, Lost float64 // of a return, of a regain
	WrongInputs      int     // of a regain; −1 is not judged
}

// Lay makes the task. With a nil course the drill's own template is laid for
// the class. It fails where the drill has no such side or level, sets no limit
// for the class, names a marker that the course lacks, or is too large for the
// course (ScaleOn); the error then names the step.
func (d Drill) Lay(side field.Side, level int, class craft.Class, c *course.Course) (Task, error) {
	if level < 1 || level > len(d.Levels) {
		return Task{}, fmt.Errorf("%s has no level %d; expected 1 to %d", d.Key, level, len(d.Levels))
	}
	switch {
	case d.Sided && side != field.LeftSide && side != field.RightSide:
		return Task{}, fmt.Errorf("%s is flown on a side; expected left or right", d.Key)
	case !d.Sided && side != field.NoSide:
		return Task{}, fmt.Errorf("%s has no sides; expected none", d.Key)
	}
	// On its own template a drill has its own size.
	scale, err := 1.0, error(nil)
	if c != nil {
		scale, err = d.ScaleOn(class, c)
	} else {
		c, err = d.On(class, nil)
	}
	if err != nil {
		return Task{}, err
	}
	t := Task{Drill: d, Side: side, Level: level, Class: class, Station: c.Station, Scale: scale}
	for i, s := range d.Steps {
		target, err := d.layStep(s, t, c)
		if err != nil {
			return Task{}, fmt.Errorf("%s, step %d (%s): %w", d.Key, i, s.Kind, err)
		}
		t.Steps = append(t.Steps, target)
	}
	return t, nil
}

// On is the course that the drill is flown on: the given one, or its template
// laid for the craft class where that is nil.
func (d Drill) On(class craft.Class, c *course.Course) (*course.Course, error) {
	if c != nil {
		return c, nil
	}
	laid, ok := course.Lay(d.Template, class)
	if !ok {
		return nil, fmt.Errorf("%s wants the course %q, which is not known", d.Key, d.Template)
	}
	return laid, nil
}

// layStep makes a target of one step. The level's scale goes to sizes and to
// limits in metres over the ground, its height to everything after the
// take-off.
func (d Drill) layStep(s Step, t Task, c *course.Course) (Target, error) {
	// The level was checked by Lay, which alone calls this.
	lv := d.Levels[t.Level-1]
	var missing error
	// num reads a limit for the class, and remembers the first that leaves the
	// class out.
	num := func(l Limit, what string, scale float64) float64 {
		// A limit that the file leaves out asks for nothing, and is no error.
		if !l.Set {
			return 0
		}
		v, ok := l.For(t.Class)
		if !ok && missing == nil {
			missing = fmt.Errorf("no %s is set for class %s", what, t.Class)
		}
		return v * scale
	}
	out := Target{
		Kind: s.Kind, Heading: s.Heading, Seconds: s.Seconds, SecondsMax: s.SecondsMax, RateDps: s.RateDps,
		ToHeightM:  num(s.ToHeightM, "to_height_m", 1),
		HeightM:    num(s.HeightM, "height_m", 1),
		Limits:     s.Within.lay(num, lv.Scale),
		RandomTurn: s.Random, Trigger: s.Trigger, TakeOverS: s.TakeOverS, FromM: num(s.FromM, "from_m",
			lv.Scale), WindMps: s.WindMps, Method: s.Method,
		RestS: s.RestS, SpeedMps: s.SpeedMps, AfterS: s.AfterS, FromMps: s.FromMps, Over: s.Over, OnCall: s.Kind == Stop &&
			s.AfterS == 0,
	}
	// What happens is mirrored and scaled with the rest.
	out.During = layDuring(s.During, t.Side, num, lv.Scale)
	if missing != nil {
		return Target{}, missing
	}
	// A level's height takes the place of the one that is written; landings and
	// take-offs keep theirs.
	if lv.HeightM > 0 && (s.Kind == GoTo || s.Kind == Path) {
		out.HeightM = lv.HeightM
	}
	// A limit of the way or of the figure may be missing too, so it is asked
	// once more.
	if err := s.layWay(&out, t, c, lv.Scale, num); err != nil {
		return Target{}, err
	}
	if missing != nil {
		return Target{}, missing
	}
	if err := s.layPlace(&out, t, c, lv); err != nil {
		return Target{}, err
	}
	out.By, out.Before = s.turned(t.Side)
	if t.Side == field.RightSide {
		out.Heading = out.Heading.Mirror()
	}
	return out, nil
}

// layPlace lays where the step is flown, and how high where its place or the level
// says so. A place that is a marker is named.
func (s Step) layPlace(out *Target, t Task, c *course.Course, lv Level) error {
	if s.At != nil {
		p, err := place(*s.At, t, c)
		if err != nil {
			return err
		}
		out.HasAt, out.At = true, p
		// A height that is written with the place goes before the step's own.
		if s.At.HasZ {
			out.HeightM = s.At.Z
		}
	}
	// The level's height goes before both for a hold, so that a higher level is
	// flown higher.
	if s.Kind == Hold && lv.HeightM > 0 {
		out.HeightM = lv.HeightM
	}
	if out.HasAt {
		out.Place = c.NameOf(out.At, s.Kind == Land || s.Kind == Motors)
	}
	return nil
}

// turned returns the angle of a turn: toward the drill's side where it is
// positive, and to the right where the drill has no sides. That of a random
// turn is not known yet, but for what is turned before it.
func (s Step) turned(side field.Side) (by, before field.Angle) {
	by = field.Degrees(s.ByDeg)
	switch {
	case s.Random:
		return 0, by
	case side == field.LeftSide:
		return -by, 0
	}
	return by, 0
}

// lay makes the limits numbers; num reads one for the class, and scale is that
// of the level for those in metres.
func (w *Within) lay(num func(Limit, string, float64) float64, scale float64) Limits {
	l := Limits{
		Radius:    num(w.RadiusM, "radius_m", scale),
		Height:    num(w.HeightM, "height_m", 1),
		Nose:      field.Degrees(num(w.NoseDeg, "nose_deg", 1)),
		Overshoot: field.Degrees(num(w.OvershootDeg, "overshoot_deg", 1)),
		Offset:    num(w.OffsetM, "offset_m", scale),
		Sink:      num(w.SinkMps, "sink_mps", 1),
		Tilt:      field.Degrees(num(w.TiltDeg, "tilt_deg", 1)),
		Bounces:   int(num(w.Bounces, "bounces", 1)),
		Cross:     num(w.CrossM, "cross_m", scale),
		Past:      num(w.OvershootM, "overshoot_m", scale),
		Crossing:  num(w.CrossingM, "crossing_m", scale),
		Distance:  num(w.DistanceM, "distance_m", scale),
		Ratio:     num(w.Ratio, "ratio", 1),
		EndRatio:  num(w.EndRatio, "end_ratio", 1),
		Aim:       field.Degrees(num(w.AimDeg, "aim_deg", 1)),
		Slope:     field.Degrees(num(w.AngleDeg, "angle_deg", 1)),
		Legs:      field.Degrees(num(w.LegsDeg, "legs_angle_deg", 1)),
		Seconds:   num(w.Seconds, "seconds", 1),

		HomeOffset: num(w.HomeOffsetM, "home_offset_m", scale),
		Lost:       num(w.LostM, "lost_m", 1),
		// Zero wrong inputs is a limit of its own, so "not judged" is −1.
		WrongInputs: -1,
	}
	if w.WrongInputs.Set {
		l.WrongInputs = int(num(w.WrongInputs, "wrong_inputs", 1))
	}
	return l
}

// layWay lays where a step to a place leads, and the figure of a path. Heights
// above the lowest one shrink with the course, so that a slant keeps its angle.
func (s *Step) layWay(out *Target, t Task, c *course.Course, scale float64, num func(Limit, string,
	float64) float64) error {
	// Without a figure this is 0, and no height is scaled.
	low := s.Figure.lowest()
	where := func(p *Place) (Spot, error) {
		at, err := place(*p, t, c)
		z := p.Z
		if s.Figure != nil {
			z = low + (z-low)*t.Scale // a slant keeps its angle
		}
		return Spot{at.X, at.Y, z}, err
	}
	if s.To != nil {
		at, err := where(s.To)
		if err != nil {
			return err
		}
		out.HasAt, out.At = true, at.Flat()
		if s.To.HasZ {
			out.HeightM = at.Z
		}
	}
	// A step to a place is done here; the rest is the figure of a path.
	if s.Figure == nil {
		return nil
	}
	var err error
	out.Laps = s.Figure.Laps
	if s.Figure.Subject != nil {
		at, err := where(s.Figure.Subject)
		if err != nil {
			return err
		}
		out.Subject = at.Flat()
	}
	out.Path, err = s.Figure.lay(out.HeightM, t.Side == field.RightSide, func(l Limit, what string) float64 {
		return num(l,
			what, scale*t.Scale)
	}, where)
	return err
}

// place is where a place of the drill lies: at its marker, or so far from the
// pilot's station, nearer where the drill is flown smaller. On the right side
// it is the mirror image.
func place(p Place, t Task, c *course.Course) (field.Point, error) {
	// A marker lies where the course has it; only numbers are scaled.
	at := field.Point{X: p.Point.X * t.Scale, Y: p.Point.Y * t.Scale}
	if p.Marker != "" {
		name := p.Marker
		if t.Side == field.RightSide {
			name = mirrorName(name)
		}
		m, ok := c.Markers[name]
		if !ok {
			return at, fmt.Errorf("the course has no marker %q", name)
		}
		return m, nil
	}
	if t.Side == field.RightSide {
		at = at.Mirror()
	}
	return field.Point{X: t.Station.X + at.X, Y: t.Station.Y + at.Y}, nil
}

// mirrorName swaps left and right in the name of a marker, so that the right
// version is flown at the marker that is really there.
func mirrorName(name string) string {
	switch {
	case strings.HasSuffix(name, "-left"):
		return strings.TrimSuffix(name, "left") + "right"
	case strings.HasSuffix(name, "-right"):
		return strings.TrimSuffix(name, "right") + "left"
	}
	return name
}

// Sectors tells in which sectors of the aspect ring the task is flown, counting
// every sector that a turn sweeps. The nose starts tail-in. A path is left out:
// which aspects it shows depends on how it is flown.
func (t Task) Sectors() (in [field.Sectors]bool) {
	var heading field.Angle
	var at field.Point
	for i, s := range t.Steps {
		if s.HasAt {
			at = s.At.Sub(t.Station)
		}
		seen := field.Bearing(at)
		if i == 0 {
			heading = seen
		}
		switch s.Heading.Kind {
		case Fixed:
			heading = s.Heading.Angle
		case Sight:
			heading = seen + s.Heading.Angle
		}
		switch {
		case s.Kind == Turn:
			// In steps of five degrees no sector of 22.5° is stepped over.
			const grain = 5 * math.Pi / 180
			n := int(math.Ceil(math.Abs(float64(s.By)) / grain))
			for k := 0; k <= n; k++ {
				in[field.Sector(heading+s.By*field.Angle(k)/field.Angle(n)-seen)] = true
			}
			heading += s.By
		// A nose that may point anywhere shows no aspect that could be counted
		// on.
		case s.Kind == Hold && s.Heading.Kind != Free, s.Kind == Land && s.Heading.Kind != Free:
			in[field.Sector(heading-seen)] = true
		}
	}
	return in
}
