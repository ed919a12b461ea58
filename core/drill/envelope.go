package drill

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
)

// Whether a drill fits a field, and how far it takes the craft from the pilot,
// depends on everything that the task names, with its tolerances.

// walking is the speed over the ground in m/s at which a learner's correction
// ends, where a drill names none: a brisk walk.
const walking = 1.5

// Envelope returns the room that the task takes on its course: every place that
// it names, the widest tolerance around them, and its heights with theirs.
// core/course adds what the craft needs besides.
func (t Task) Envelope(aids craft.Aids) course.Envelope {
	e := course.Envelope{Key: t.Drill.Key, Title: t.Drill.Title, SpeedMps: walking, Aids: aids, ToHand: t.Drill.ToHand}
	seen := map[field.Point]bool{}
	for _, s := range t.Steps {
		// Each place once: drills come back to their markers.
		if s.HasAt && !seen[s.At] {
			seen[s.At] = true
			e.Path = append(e.Path, s.At)
		}
		if s.Path != nil {
			// A figure is taken at places two metres apart or nearer. Its very
			// end is left out: on a closed figure that is its start.
			n := max(8, int(s.Path.Length/2))
			for i := range n + 1 {
				at, _ := s.Path.At(s.Path.Length * (float64(i) / float64(n)) * (1 - 1e-12))
				e.Path = append(e.Path, at.Flat())
				e.FlownM, e.HighM = math.Max(e.FlownM, at.Z), math.Max(e.HighM, at.Z+s.Limits.Height)
			}
		}
		for _, d := range s.During { // where a dodge or a way out leads
			if way, ok := field.Way(d.FirstWay); ok && s.HasAt {
				e.Path = append(e.Path, field.Point{X: s.At.X + way.X*d.Distance, Y: s.At.Y + way.Y*d.Distance})
			}
			// A climb out of the way may overshoot by a metre.
			if d.FirstWay == "up" {
				e.HighM = math.Max(e.HighM, s.HeightM+d.Distance+1)
			}
		}
		// A lost craft is drawn straight ahead of the pilot, where the
		// simulator begins.
		if s.FromM > 0 {
			e.Far = true
			e.Path = append(e.Path, field.Point{X: t.Station.X, Y: t.Station.Y + s.FromM})
		}
		e.RadiusM = math.Max(e.RadiusM, math.Max(math.Max(s.Limits.Radius, s.Limits.Cross), s.Limits.Offset))
		e.FlownM = math.Max(e.FlownM, math.Max(s.HeightM, s.ToHeightM))
		e.HighM = math.Max(e.HighM, math.Max(s.HeightM+s.Limits.Height, s.ToHeightM))
	}
	return e
}

// ReachM is how far the task takes the craft from the pilot's eyes, in metres.
// It is 0 for one that is begun far out on purpose, where the aspect is not to
// be seen.
func (t Task) ReachM() float64 { return t.Envelope("").FarM(t.Station, course.EyeM) }

// Within returns the highest level of the drill, none over the given one, that
// stays within tellM metres of the pilot's eyes on a side, and how far the
// given level takes the craft. It returns level 0 where none does. The drill
// must have that side, and limits for the class.
func (d Drill) Within(side field.Side, level int, class craft.Class, c *course.Course, tellM float64) (within int,
	reachM float64, err error) {
	// From the given level down: the first that stays near enough is the
	// highest.
	for l := level; l >= 1; l-- {
		t, err := d.Lay(side, l, class, c)
		if err != nil {
			return 0, 0, err
		}
		r := t.ReachM()
		if l == level {
			reachM = r
		}
		if r <= tellM {
			return l, reachM, nil
		}
	}
	return 0, reachM, nil
}

// Fits reports why a drill cannot be flown on a course, or nil where it can. A
// figure whose size the drill sets, a circle, an oval or an eight, wants a
// course that is laid out for one, with every marker of the drill's own
// template.
func (d Drill) Fits(class craft.Class, c *course.Course) error {
	for _, side := range d.Sides() {
		if _, err := d.Lay(side, 1, class, c); err != nil {
			return err
		}
	}
	round := slices.ContainsFunc(d.Steps, func(s Step) bool {
		return s.Figure != nil && s.Figure.Shape != Line && s.Figure.Shape != Slant
	})
	// Markers alone decide; how far apart they lie is for ScaleOn.
	own, ok := course.Lay(d.Template, class)
	if !round || !ok {
		return nil
	}
	for _, name := range slices.Sorted(maps.Keys(own.Markers)) {
		if _, has := c.Markers[name]; !has {
			return fmt.Errorf(msgNeedsTemplate, d.Title, course.TemplateTitle(d.Template), strings.ReplaceAll(name, "-", " "))
		}
	}
	return nil
}

// Rooms returns the room that every drill takes on a course on each of its
// sides, in the order of the ladder, and for the others why they do not fit it;
// not is never nil.
func (c *Catalogue) Rooms(laid *course.Course, class craft.Class, aids craft.Aids) (rooms []course.Envelope,
	not []string) {
	not = []string{}
	for _, d := range c.InOrder() {
		if err := d.Fits(class, laid); err != nil {
			not = append(not, err.Error())
			continue
		}
		for _, side := range d.Sides() {
			task, _ := d.Lay(side, 1, class, laid) // it fits
			e := task.Envelope(aids)
			if side != field.NoSide {
				e.Title += ", " + string(side)
			}
			rooms = append(rooms, e)
		}
	}
	return rooms, not
}
