package drill

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
)

// Task is a drill for one side, level, craft class and course.
type Task struct {
	Drill   Drill
	Side    field.Side
	Level   int
	Class   craft.Class
	Station field.Point
	Steps   []Target
}

// Target is a step with every place and limit a number; a limit of 0 asks for
// nothing.
type Target struct {
	Kind       Kind
	HasAt      bool
	At         field.Point
	HeightM    float64
	Heading    Rule
	Seconds    float64
	SecondsMax float64
	ToHeightM  float64
	By         field.Angle // signed, + turns the nose right
	RateDps    [2]float64
	Limits     Limits
}

// Limits are the tolerances of a Target, in metres, radians and metres a
// second. Bounces is a count and always judged.
type Limits struct {
	Radius, Height  float64
	Nose, Overshoot field.Angle
	Offset, Sink    float64
	Tilt            field.Angle
	Bounces         int
}

// Lay makes the task. With a nil course the drill's own template is laid for
// the class. It fails where the drill has no such side or level, sets no limit
// for the class, or names a marker that the course lacks.
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
	if c == nil {
		laid, ok := course.Lay(d.Template, class)
		if !ok {
			return Task{}, fmt.Errorf("%s wants the course %q, which is not known", d.Key, d.Template)
		}
		c = laid
	}
	t := Task{Drill: d, Side: side, Level: level, Class: class, Station: c.Station}
	for i, s := range d.Steps {
		target, err := d.layStep(s, t, c)
		if err != nil {
			return Task{}, fmt.Errorf("%s, step %d (%s): %w", d.Key, i, s.Kind, err)
		}
		t.Steps = append(t.Steps, target)
	}
	return t, nil
}

func (d Drill) layStep(s Step, t Task, c *course.Course) (Target, error) {
	lv := d.Levels[t.Level-1]
	var missing error
	num := func(l Limit, what string, scale float64) float64 {
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
		ToHeightM: num(s.ToHeightM, "to_height_m", 1),
		HeightM:   num(s.HeightM, "height_m", 1),
		Limits: Limits{
			Radius:    num(s.Within.RadiusM, "radius_m", lv.Scale),
			Height:    num(s.Within.HeightM, "height_m", 1),
			Nose:      field.Degrees(num(s.Within.NoseDeg, "nose_deg", 1)),
			Overshoot: field.Degrees(num(s.Within.OvershootDeg, "overshoot_deg", 1)),
			Offset:    num(s.Within.OffsetM, "offset_m", lv.Scale),
			Sink:      num(s.Within.SinkMps, "sink_mps", 1),
			Tilt:      field.Degrees(num(s.Within.TiltDeg, "tilt_deg", 1)),
			Bounces:   int(num(s.Within.Bounces, "bounces", 1)),
		},
	}
	if missing != nil {
		return Target{}, missing
	}
	if s.At != nil {
		p, err := place(*s.At, t, c, lv.Scale)
		if err != nil {
			return Target{}, err
		}
		out.HasAt, out.At = true, p
		if s.At.HasZ {
			out.HeightM = s.At.Z
		}
	}
	if s.Kind == Hold && lv.HeightM > 0 {
		out.HeightM = lv.HeightM
	}
	// A turn goes toward the drill's side where it is positive, and to the
	// right where the drill has no sides.
	out.By = field.Degrees(s.ByDeg)
	if t.Side == field.LeftSide {
		out.By = -out.By
	}
	if t.Side == field.RightSide {
		out.Heading = out.Heading.Mirror()
	}
	return out, nil
}

func place(p Place, t Task, c *course.Course, scale float64) (field.Point, error) {
	at := p.Point
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
	return at, nil
}

// mirrorName swaps left and right in a reserved marker name, so that the right
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

// Sectors tells in which sectors of the aspect ring the task is flown,
// counting every sector that a turn sweeps. The nose starts tail-in.
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
			const grain = 5 * math.Pi / 180
			n := int(math.Ceil(math.Abs(float64(s.By)) / grain))
			for k := 0; k <= n; k++ {
				in[field.Sector(heading+s.By*field.Angle(k)/field.Angle(n)-seen)] = true
			}
			heading += s.By
		case s.Kind == Hold && s.Heading.Kind != Free, s.Kind == Land && s.Heading.Kind != Free:
			in[field.Sector(heading-seen)] = true
		}
	}
	return in
}

// Words says what the step asks, with its limits: "20 s inside 1 m, height
// 1.5 ± 0.5 m, tail-in ± 25°".
func (s Target) Words() string {
	num := func(v float64) string { return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) }
	deg := func(a field.Angle) string { return num(a.Deg()) + "°" }
	var parts []string
	add := func(format string, a ...any) { parts = append(parts, fmt.Sprintf(format, a...)) }
	switch s.Kind {
	case TakeOff:
		add("take off to %s m", num(s.ToHeightM))
	case Hold:
		head := num(s.Seconds) + " s"
		if s.Limits.Radius > 0 {
			head += " inside " + num(s.Limits.Radius) + " m"
		}
		parts = append(parts, head)
		if s.Limits.Height > 0 {
			add("height %s ± %s m", num(s.HeightM), num(s.Limits.Height))
		}
		if s.Heading.Kind != Free {
			rule := s.Heading.Words()
			if s.Limits.Nose > 0 {
				rule += " ± " + deg(s.Limits.Nose)
			}
			parts = append(parts, rule)
		}
	case Turn:
		side := "right"
		if s.By < 0 {
			side = "left"
		}
		add("turn the nose %s by %s", side, deg(s.By.Abs()))
		if s.Limits.Overshoot > 0 {
			add("stop within %s", deg(s.Limits.Overshoot))
		}
		if s.Limits.Radius > 0 {
			add("stay inside %s m", num(s.Limits.Radius))
		}
		if s.Limits.Height > 0 {
			add("height kept within %s m", num(s.Limits.Height))
		}
	case Land:
		head := "land"
		if s.Limits.Offset > 0 {
			head += " within " + num(s.Limits.Offset) + " m of the pad"
		}
		parts = append(parts, head)
		if s.Limits.Sink > 0 {
			add("under %s m/s", num(s.Limits.Sink))
		}
		if s.Limits.Tilt > 0 {
			add("level within %s", deg(s.Limits.Tilt))
		}
	}
	if s.SecondsMax > 0 {
		add("in %s s at most", num(s.SecondsMax))
	}
	return strings.Join(parts, ", ")
}
