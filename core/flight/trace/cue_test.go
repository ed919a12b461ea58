package trace

import (
	"reflect"
	"testing"

	"maestrale/core/flight"
)

// A schedule waits for its gates in their order, for as long as each asks, and
// counts its cues from them.
func TestSchedule(t *testing.T) {
	s := Schedule{Gates: []Gate{
		{Low: 1, High: 9},
		{StayS: 2, SlowMps: 0.3, ReachM: 1, Points: []flight.Vec{{X: 5}}, Nose: 1, NoseOff: 0.3,
			Cues: []Cue{{3, "call", "Stop"}, {1, "fix-lost", ""}}},
		{MinS: 2, Cues: []Cue{{0, "gust=4", ""}}},
	}}
	type at struct {
		t, x, z, heading float64
	}
	var heard []float64
	see := func(a at) {
		for {
			c, ok := s.due(a.t, flight.Vec{X: a.x, Z: a.z}, a.heading, 0.1)
			if !ok {
				return
			}
			heard = append(heard, a.t)
			_ = c
		}
	}
	for i := range 300 {
		a := at{t: float64(i) / 10, x: 5, z: 2, heading: 1 + 2*3.14159265}
		switch {
		case a.t < 1:
			a.z = 0 // on the ground
		case a.t < 4:
			a.x = 0 // not there yet
		case a.t >= 5 && a.t < 6:
			a.heading = 2 // the nose turns away: its stay begins anew
		}
		see(a)
	}
	if want := []float64{11, 12, 14}; !reflect.DeepEqual(heard, want) {
		t.Errorf("heard at %v; expected %v", heard, want)
	}
}

func TestGatesTravel(t *testing.T) {
	gates := []Gate{{MinS: 1, StayS: 2, ReachM: 3, Low: 0.5, High: 9, Nose: -1, NoseOff: 0.4, SlowMps: 0.3,
		Points: []flight.Vec{{X: 1, Y: 2}, {Y: 3}}, Cues: []Cue{{0.5, "call", "Dodge left"}}}, {}}
	numbers, names := FlattenGates(gates)
	got, err := UnflattenGates(numbers, names)
	if err != nil || len(got) != 2 || !reflect.DeepEqual(got[0], gates[0]) {
		t.Errorf("%+v, %v", got, err)
	}
	if _, err := UnflattenGates(numbers[1:], names); err == nil {
		t.Error("a schedule of another length is taken")
	}
	if got, err := UnflattenGates(FlattenGates(nil)); err != nil || len(got) != 0 {
		t.Errorf("none: %+v, %v", got, err)
	}
}
