package rig

import (
	"fmt"
	"hash/fnv"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/pack"
)

// freePad is where a craft starts that is flown on no course, m away.
const freePad = 6

// Base is a craft on its course, nil for none: on the pad, nose away, motors off,
// in the air of the course's elevation.
func Base(kind craft.Type, laid *course.Course, fitted ...craft.Aids) (flight.Config, error) {
	cfg := flight.Config{Start: flight.Vec{Y: freePad}}
	var err error
	if cfg.Craft, err = Craft(kind, fitted...); err != nil {
		return cfg, err
	}
	if laid != nil {
		cfg.Station = flight.Vec{X: laid.Station.X, Y: laid.Station.Y}
		cfg.Solids = Solids(laid)
		var ok bool
		if cfg.Surface, ok = flight.SurfaceOf(laid.Surface); !ok {
			return cfg, fmt.Errorf("the surface %.40q is not known; expected %v", laid.Surface, flight.SurfaceNames)
		}
		if p, has := laid.Markers["pad"]; has {
			cfg.Start = flight.Vec{X: p.X, Y: p.Y}
		}
	}
	cfg.Density, err = pack.StandardDensity(Elevation(laid), nil)
	return cfg, err
}

// Elevation is how high a course lies, in m above the sea; 0 where it is not tied
// to the earth.
func Elevation(laid *course.Course) float64 {
	if laid == nil || laid.Plane == nil {
		return 0
	}
	return laid.Plane.Origin().AltM
}

// Wind is a mean wind at 6 m from a field heading, as the simulator has it.
func Wind(mps, fromDeg float64) flight.Vec {
	to := course.WindVector(mps, field.Degrees(fromDeg))
	return flight.Vec{X: to.X, Y: to.Y}
}

// Setup is what a run is flown with and judged by. The browser and the server make
// it alike.
type Setup struct {
	Task   *drill.Task // nil for free flight
	Course *course.Course
	Config flight.Config
	Gates  []trace.Gate // where the drill lets something happen
}

// SetUp makes the setup of a spec from a catalogue, and the course that the
// spec names.
func SetUp(s trace.Spec, cat *drill.Catalogue, laid *course.Course) (Setup, error) {
	var out Setup
	if (s.Course != "") != (laid != nil) {
		return out, fmt.Errorf("the run was flown on the course %.80q; expected one that is laid out here", s.Course)
	}
	kind, ok := cat.Craft[s.Craft]
	if !ok {
		return out, fmt.Errorf("craft %.40q is not known", s.Craft)
	}
	if s.Drill != "" {
		d, err := cat.Drill(s.Drill)
		if err != nil {
			return out, err
		}
		if laid != nil {
			err = d.Fits(kind.Class(), laid)
		}
		if err != nil {
			return out, err
		}
		if out.Course, err = d.On(kind.Class(), laid); err != nil {
			return out, err
		}
		task, err := d.Lay(field.Side(s.Side), s.Level, kind.Class(), laid)
		if err != nil {
			return out, err
		}
		task = task.Drawn(seedOf(s))
		out.Task, out.Gates = &task, gates(task)
	}
	if out.Course == nil {
		out.Course = laid // free flight
	}
	var err error
	if out.Config, err = Config(s, kind, out.Course); err == nil && out.Task != nil {
		out.begin()
	}
	if err == nil && s.Lost != "" {
		err = out.graded(s)
	}
	return out, err
}

// Config makes what a run of a spec is flown with on a course.
func Config(s trace.Spec, kind craft.Type, laid *course.Course) (flight.Config, error) {
	cfg, err := Base(kind, laid, kind.OptionalAids...)
	if err != nil {
		return cfg, err
	}
	var ok bool
	if cfg.Aids, ok = flight.AidsOf(s.Aids); !ok || !cfg.Craft.Limits[cfg.Aids].Has {
		return cfg, fmt.Errorf("the aids are %.40q; expected ones that the %s has", s.Aids, kind.Title)
	}
	if cfg.Gusts, ok = flight.GustsOf(s.Gusts); !ok {
		return cfg, fmt.Errorf("the gusts are %.40q; expected %v", s.Gusts, flight.GustsNames)
	}
	if !(s.WindMps >= 0 && s.WindMps <= 15 && s.WindFromDeg >= -360 && s.WindFromDeg <= 360) {
		return cfg, fmt.Errorf("the wind is %v m/s from %v°; expected 0 to 15 m/s from -360° to 360°", s.WindMps,
			s.WindFromDeg)
	}
	cfg.Wind, cfg.Seed = Wind(s.WindMps, s.WindFromDeg), seedOf(s)
	return cfg, nil
}

// seedOf makes the seed of a run from all that it claims to be, so that a trace
// that claims another drill flies in other gusts and ends in another state. It has
// 53 bits, which a number of JSON keeps.
func seedOf(s trace.Spec) uint64 {
	h := fnv.New64a()
	fmt.Fprintf(h, "%q %q %q %d %q %d", s.Craft, s.Drill, s.Side, s.Level, s.Aids, s.Seed)
	if s.Course != "" {
		fmt.Fprintf(h, " %q", s.Course)
	}
	if s.Lost != "" {
		fmt.Fprintf(h, " lost %q", s.Lost)
	}
	return h.Sum64() & (1<<53 - 1)
}

// LandVolts is what a pack of the type shows while it hovers with the reserve
// left: the volts to land at.
func LandVolts(kind craft.Type, density float64) (float64, error) {
	l, err := pack.NewLifter(kind, density)
	if err != nil {
		return 0, err
	}
	full, err := pack.NewFilling(kind.Battery, 0)
	if err != nil {
		return 0, err
	}
	cell, _ := pack.LandVolts(full, l.Hover(), pack.Reserve)
	return cell * float64(kind.Battery.Cells), nil
}
