package trace

import "maestrale/core/flight"

// Fields name the numbers of the state that a page draws: time, feet, attitude,
// speed, heading, height of the middle, rotors in turns a second, pack, gimbal, what
// the flight does, and the strength of the radio and
// whether the camera shows something.
var Fields = [...]string{"t", "x", "y", "z", "qw", "qx", "qy", "qz", "vx", "vy", "vz", "heading", "middle", "rotor1",
	"rotor2", "rotor3", "rotor4", "rotor5", "rotor6", "rotor7", "rotor8",
	"volts", "charge", "tilt", "armed", "ground", "aids", "mode", "airX", "airY", "crashed", "signal", "picture"}

// Drawn are the numbers of the state, in the order of Fields.
func (r *Recorder) Drawn() []float64 {
	s := r.Sample(flight.Sticks{})
	st := &r.State
	air := r.Air()
	out := append(make([]float64, 0, len(Fields)), s.T, s.X, s.Y, s.Z, st.Att.W, st.Att.X, st.Att.Y, st.Att.Z, s.VX, s.VY,
		s.VZ, s.Heading, st.Pos.Z)
	out = append(out, s.Rps[:]...)
	return append(out, s.PackV, st.Charge, s.Tilt, truth(r.Armed()), truth(r.OnGround()), float64(st.Aids),
		float64(r.ModeNumber()), air.X, air.Y, truth(st.Crashed), r.Signal(), truth(r.Picture()))
}

// truth is 1 for true and 0 for false.
func truth(is bool) float64 {
	if is {
		return 1
	}
	return 0
}
