//go:build js && wasm

package main

import (
	"syscall/js"

	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/orient"
)

// watch follows a craft that is lost; nil where none is.
var (
	watch   *orient.Watch
	station field.Point
	looked  int
)

// watchFor(airspeed, yawDps, windMps, windFromDeg, x, y) follows the run that is ready for
// what could be known of its nose from the station at x, y.
func watchFor(_ js.Value, args []js.Value) any {
	if run == nil || len(args) != 6 {
		return "watch takes the speed and turn of a push, the wind, and the station; of a run that is ready"
	}
	e := orient.Usual()
	e.AirspeedMps, e.YawRate = args[0].Float(), field.Degrees(args[1].Float())
	e.WindMps, e.WindFrom = args[2].Float(), field.Degrees(args[3].Float())
	if err := e.Check(); err != nil {
		return err.Error()
	}
	station = field.Point{X: args[4].Float(), Y: args[5].Float()}
	watch, looked = orient.NewWatch(e), 0
	return ""
}

// look takes in every second reading, as the log has them.
func look() {
	if looked++; watch == nil || looked%2 != 0 {
		return
	}
	k := run.Last()
	s := run.Sample(k)
	watch.Add(orient.Sample{T: s.T, X: s.X - station.X, Y: s.Y - station.Y, VX: s.VX, VY: s.VY,
		Heading: field.Angle(s.Heading),
		Pitch:   k.Pitch, Roll: k.Roll, Yaw: k.Yaw, Holds: s.Aids == flight.PositionHold})
}

// coach() says as JSON what to do next, and that it was asked: the run is practice then.
func coach(js.Value, []js.Value) any {
	if watch == nil {
		return "{}"
	}
	run.Coach = true
	a := watch.Advise()
	p := watch.Known()
	aspect, share := p.Likeliest()
	return text(map[string]any{"says": a.Words(), "aspect_deg": aspect.Deg(), "share": share, "bits": a.Next.Bits})
}
