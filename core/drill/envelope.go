package drill

import (
	"math"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
)

// walking is the speed over the ground in m/s at which a learner's correction
// ends, where a drill names none: a brisk walk.
const walking = 1.5

// Envelope returns the room that the task takes on its course: every place that
// it names, the widest tolerance round them, its heights with their tolerance.
func (t Task) Envelope(aids craft.Aids) course.Envelope {
	e := course.Envelope{Key: t.Drill.Key, Title: t.Drill.Title, SpeedMps: walking, Aids: aids}
	seen := map[field.Point]bool{}
	for _, s := range t.Steps {
		if s.HasAt && !seen[s.At] {
			seen[s.At] = true
			e.Path = append(e.Path, s.At)
		}
		if s.Path != nil {
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
			if d.FirstWay == "up" {
				e.HighM = math.Max(e.HighM, s.HeightM+d.Distance+1)
			}
		}
		if s.FromM > 0 {
			e.Path = append(e.Path, field.Point{X: t.Station.X, Y: t.Station.Y + s.FromM})
		}
		e.RadiusM = math.Max(e.RadiusM, math.Max(math.Max(s.Limits.Radius, s.Limits.Cross), s.Limits.Offset))
		e.FlownM = math.Max(e.FlownM, math.Max(s.HeightM, s.ToHeightM))
		e.HighM = math.Max(e.HighM, math.Max(s.HeightM+s.Limits.Height, s.ToHeightM))
	}
	return e
}
