package flight

import "math"

// rest is what the pack rests at in V at its charge.
func (c *Craft) rest(charge float64) float64 {
	s := float64(clamp(charge, 0, 1) * 10)
	i := int(s)
	if i > 9 {
		i = 9
	}
	return float64(float64(c.Cells) * (c.Curve[i] + float64((s-float64(i))*(c.Curve[i+1]-c.Curve[i]))))
}

// loaded is the volts and the current in A while a pack that rests at e V, with
// r ohm inside, gives a power in W: P = V I with V = E − I R, the smaller of
// the two currents; no more than it can.
func loaded(e, r, watts float64) (volts, amps float64) {
	if r == 0 {
		return e, watts / e
	}
	root := float64(e*e) - float64(4*float64(r*watts))
	if root < 0 {
		return float64(0.5 * e), e / float64(2*r)
	}
	amps = (e - math.Sqrt(root)) / float64(2*r)
	return e - float64(amps*r), amps
}
