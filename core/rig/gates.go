package rig

import (
	"errors"
	"fmt"
	"math"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/orient"
)

const (
	// What the simulator takes for rest has to be rest for the scorer too,
	// whose speed is measured over a moment.
	surelyRests = drill.RestMps - 0.02 // m/s
	lowestPack  = 12.0                 // % at which a pack that runs low in a drill stands
	comesAfter  = 4.0                  // s into a return until its link is lost or its pack runs low
	regainSays  = msgFindTheNose
	regainUpM   = 12.0 // m above the ground where a drill says no height
	nearByM     = 2.0  // m within which a place counts as reached whose drill says no limit
	noseNear    = 0.5  // rad within which the nose points where it should
	figureSteps = 48   // places along a figure at which it may be joined
)

// gates are where a task lets something happen in the simulator; nil where nothing
// does.
func gates(t drill.Task) []trace.Gate {
	var out []trace.Gate
	some := false
	wait := 0.0 // that the step before takes at least
	for _, s := range t.Steps {
		g := trace.Gate{MinS: wait}
		if wait = gateOf(&g, t, &s); s.Kind == drill.Motors {
			wait = s.Seconds
		}
		for _, d := range s.During {
			g.Cues = append(g.Cues, trace.Cue{AfterS: d.AtS, Event: d.Fly(), Say: d.Said()})
		}
		some = some || len(g.Cues) > 0
		out = append(out, g)
	}
	if !some {
		return nil
	}
	return out
}

// gateOf fills in where a step lets what comes next happen, and returns how
// long the step takes at least, in seconds.
func gateOf(g *trace.Gate, t drill.Task, s *drill.Target) (wait float64) {
	switch s.Kind {
	case drill.TakeOff:
		g.Low, g.High = math.Max(0.2, s.ToHeightM-drill.ReachedM), 1000
	case drill.Hold:
		g.ReachM, g.Points = orNear(s.Limits.Radius), []flight.Vec{{X: s.At.X, Y: s.At.Y}}
		if s.Limits.Height > 0 {
			g.Low, g.High = math.Max(0.05, s.HeightM-s.Limits.Height), s.HeightM+s.Limits.Height
		}
		if rule := s.Heading; rule.Kind == drill.Fixed || rule.Kind == drill.Sight {
			nose := rule.Angle
			if rule.Kind == drill.Sight {
				nose += field.Bearing(s.At.Sub(t.Station))
			}
			g.Nose, g.NoseOff = float64(nose), math.Max(noseNear, float64(s.Limits.Nose))
		}
		if g.StayS = 1 + s.Seconds; len(s.During) > 0 { // the stay comes after what happens
			g.StayS = 1
		}
	case drill.Path:
		g.ReachM = orNear(s.Limits.Cross)
		n := 0
		if s.Path.Closed && s.Path.Shape != drill.Eight {
			n = figureSteps
		}
		for i := range n + 1 {
			at, _ := s.Path.At(s.Path.Length * (float64(i) / float64(max(1, n))) * (1 - 1e-12))
			g.Points = append(g.Points, flight.Vec{X: at.X, Y: at.Y})
		}
		wait = 2
	case drill.GoTo: // it is there
		g.ReachM, g.Points = orNear(s.Limits.Past), []flight.Vec{{X: s.At.X, Y: s.At.Y}}
		g.StayS, g.SlowMps = s.RestS+0.3, surelyRests
	case drill.Turn:
		if s.RandomTurn {
			g.Cues = append(g.Cues, trace.Cue{AfterS: 0.5, Event: "call", Say: turnSays(s.By, s.Before)})
		}
		wait = 2
	case drill.Stop:
		if s.OnCall {
			g.Cues = append(g.Cues, trace.Cue{AfterS: s.AfterS, Event: "call", Say: "Stop"})
		}
		wait = 2
	case drill.Return:
		switch s.Trigger {
		case "link":
			g.Cues = append(g.Cues, trace.Cue{AfterS: comesAfter, Event: "link-lost", Say: msgLinkLost})
			if s.TakeOverS > 0 { // or nobody could take over
				g.Cues = append(g.Cues, trace.Cue{AfterS: s.TakeOverS, Event: "link-back", Say: msgLinkBack})
			}
		case "pack":
			g.Cues = append(g.Cues, trace.Cue{AfterS: comesAfter, Event: fmt.Sprintf("pack=%.0f", lowestPack),
				Say: msgPackRunsLow})
		}
		wait = 2
	case drill.Regain:
		g.Cues = append(g.Cues, trace.Cue{AfterS: 0.1, Event: "call", Say: regainSays})
		wait = 2
	}
	return wait
}

// orNear is a tolerance, or the usual one where none is set.
func orNear(v float64) float64 {
	if v > 0 {
		return v
	}
	return nearByM
}

// turnSays is the call that says an angle; before is what is turned before it
// begins to count.
func turnSays(by, before field.Angle) string {
	side := "right"
	if by < 0 {
		side = "left"
	}
	if rounds := int(before.Deg() / 360); rounds == 1 || rounds == 2 {
		return fmt.Sprintf(msgTurnRound, side, []string{"once", "twice"}[rounds-1],
			by.Abs().Deg()-360*float64(rounds))
	}
	return fmt.Sprintf("Turn %s by %.0f°", side, by.Abs().Deg())
}

// graded refuses a run that is not of the lost-craft trainer's grade that it names.
func (s *Setup) graded(spec trace.Spec) error {
	l, err := orient.LevelOf(spec.Lost)
	if err != nil {
		return err
	}
	if s.Task == nil || s.Task.Steps[0].Kind != drill.Regain {
		return fmt.Errorf("the drill %.40q has no orientation to regain; the grade %q wants one", spec.Drill, l.Key)
	}
	if spec.Level != l.Drill || spec.WindMps != l.WindMps {
		return fmt.Errorf("level %d in %v m/s; the grade %q wants level %d in %v m/s", spec.Level, spec.WindMps, l.Key,
			l.Drill, l.WindMps)
	}
	if a := s.Task.Steps[0].Spoilt; !l.Begins(a) {
		return fmt.Errorf("the grade %q %w: the aspect is %.0f°", l.Key, errBegins, a.Deg())
	}
	return nil
}

var errBegins = errors.New("begins otherwise")

// LostAids are the aids with which a grade is flown: the most that the craft
// has, but for position hold where the wind is to be felt and height can be
// held without.
func LostAids(kind craft.Type, l orient.Level) craft.Aids {
	if l.Drifts && kind.Has(craft.HeightHold) {
		return craft.HeightHold
	}
	return kind.Aids[0]
}

// Lost finds a seed with which a run of the lost-craft trainer begins as its
// grade has it, trying from the spec's own seed upward, and returns the spec
// with it.
func Lost(spec trace.Spec, cat *drill.Catalogue) (trace.Spec, Setup, error) {
	const tries = 500
	for i := uint32(0); ; i++ {
		one := spec
		one.Seed += i
		out, err := SetUp(one, cat, nil)
		if !errors.Is(err, errBegins) || i == tries {
			return one, out, err
		}
	}
}

// begin puts a craft whose orientation is to be regained where the drill has it: far
// off, in the air, its nose anywhere.
func (s *Setup) begin() {
	first := s.Task.Steps[0]
	if first.Kind != drill.Regain {
		return
	}
	up := first.HeightM
	if up == 0 {
		up = regainUpM
	}
	s.Config.Airborne = true
	s.Config.Start = flight.Vec{X: s.Task.Station.X, Y: s.Task.Station.Y + first.FromM, Z: up}
	s.Config.Heading = float64(first.Spoilt)
}
