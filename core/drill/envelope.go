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
		e.RadiusM = math.Max(e.RadiusM, math.Max(s.Limits.Radius, s.Limits.Offset))
		e.FlownM = math.Max(e.FlownM, math.Max(s.HeightM, s.ToHeightM))
		e.HighM = math.Max(e.HighM, math.Max(s.HeightM+s.Limits.Height, s.ToHeightM))
	}
	return e
}
