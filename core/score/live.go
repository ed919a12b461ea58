package score

import (
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// Live is where a flight stands while it goes on, for the page that follows a
// craft.
type Live struct {
	Step   int      // the step that runs; one past the last when all are done
	Asked  string   // what it asks, in words
	Words  string   // in, or how far out and where
	Inside bool     // of the step's place
	Faults []string // so far
	Done   bool     // every step is
}

// LiveOf scores what has been flown so far, and says how the newest place
// stands to what the running step asks. The track must have two samples at
// least, as for Track.
func LiveOf(task drill.Task, t *track.Track) (Live, error) {
	r, err := Track(task, t, FromLog)
	if err != nil {
		return Live{}, err
	}
	l := Live{Faults: []string{}}
	for l.Step < len(r.Steps) && r.Steps[l.Step].Done {
		l.Step++
	}
	for _, f := range r.Faults {
		l.Faults = append(l.Faults, f.Text)
	}
	if l.Step >= len(task.Steps) {
		l.Done, l.Words, l.Inside = true, msgAllStepsDone, true
		return l, nil
	}
	s, i := &task.Steps[l.Step], t.Len()-1
	l.Asked = s.Words()
	l.Words, l.Inside = stands(s, field.Point{X: t.X[i], Y: t.Y[i]}, t.Z[i])
	return l, nil
}

// whither are the words for where something lies from where it should be, by
// field.Direction.
var whither = map[string]string{"left": msgToTheLeft, "right": msgToTheRight, "away": msgTooFarAway,
	"toward": "too near"}

// stands says how a place stands to what a step asks.
func stands(s *drill.Target, at field.Point, z float64) (words string, inside bool) {
	if words, inside, ok := kindOf(s).stands(s, at, z); ok {
		return words, inside
	}
	switch {
	case s.Path != nil:
		_, off := s.Path.Nearest(drill.Spot{X: at.X, Y: at.Y, Z: z}, 0, s.Path.Length)
		if s.Limits.Cross > 0 && off > s.Limits.Cross {
			return fmt.Sprintf(msgMetresOffLine, off), false
		}
		return msgOnTheWay, true
	case s.HasAt:
		limit := math.Max(s.Limits.Radius, s.Limits.Past)
		if off := at.Sub(s.At); limit > 0 && math.Hypot(off.X, off.Y) > limit {
			return offWords(off), false
		}
		if up := z - s.HeightM; s.Limits.Height > 0 && math.Abs(up) > s.Limits.Height {
			return fmt.Sprintf("%.1f m too %s", math.Abs(up), map[bool]string{true: "high", false: "low"}[up > 0]), false
		}
		return "in", true
	}
	return "flying", true
}

// offWords say how far off a place is over the ground, and in which direction.
func offWords(off field.Point) string {
	return fmt.Sprintf("%.1f m %s", math.Hypot(off.X, off.Y), whither[field.Direction(off)])
}
