package flight

import (
	"errors"
	"fmt"
	"math"
	"strings"

	"maestrale/core/flight/fmath"
)

// Mixer shares out thrust and torques over the rotors of a craft.
type Mixer struct {
	N       int
	X, Y    [MostRotors]float64 // where the rotors stand in the craft's frame
	Turn    [MostRotors]float64 // torque about z over thrust; + where it turns clockwise
	inverse [MostRotors][4]float64
}

// NewMixer solves the allocation of a craft by least squares, with
// torquePerThrust newton metres of torque about z for each newton. Rotors
// that cannot make every torque are an error.
func NewMixer(c *Craft, torquePerThrust float64) (Mixer, error) {
	m := Mixer{N: len(c.Rotors)}
	var b [4][MostRotors]float64
	for i, r := range c.Rotors {
		sin, cos := fmath.Sincos(r.Angle)
		m.X[i], m.Y[i] = float64(r.Arm*sin), float64(r.Arm*cos)
		m.Turn[i] = -torquePerThrust
		if r.Clockwise { // the craft is turned against it: to the left, + about z
			m.Turn[i] = torquePerThrust
		}
		b[0][i], b[1][i], b[2][i], b[3][i] = 1, m.Y[i], -m.X[i], m.Turn[i]
	}
	// Solve (B Bᵀ) X = 1 by Gauss and Jordan with pivots.
	var a [4][8]float64
	for i := range 4 {
		for j := range 4 {
			for k := range m.N {
				a[i][j] += float64(b[i][k] * b[j][k])
			}
		}
		a[i][4+i] = 1
	}
	for col := range 4 {
		best := col
		for r := col + 1; r < 4; r++ {
			if math.Abs(a[r][col]) > math.Abs(a[best][col]) {
				best = r
			}
		}
		a[col], a[best] = a[best], a[col]
		p := a[col][col]
		if math.Abs(p) < 1e-12 {
			return m, errors.New("the rotors cannot lift, lean and turn the craft by themselves; expected a layout whose " +
				"thrust, roll, pitch and yaw do not depend on one another")
		}
		for j := range 8 {
			a[col][j] /= p
		}
		for r := range 4 {
			if r == col {
				continue
			}
			f := a[r][col]
			for j := range 8 {
				a[r][j] -= float64(f * a[col][j])
			}
		}
	}
	for i := range m.N {
		for j := range 4 {
			for k := range 4 {
				m.inverse[i][j] += float64(b[k][i] * a[k][4+j])
			}
		}
	}
	return m, nil
}

// Kept is what of a command could be had: the shares of yaw and of roll and pitch,
// 0 to 1, and by how much every rotor's thrust moved, in N.
type Kept struct{ Yaw, Lean, Moved float64 }

// All tells whether nothing was given up.
func (k Kept) All() bool { return k == Kept{1, 1, 0} }

// Words says what was given up; empty where nothing was.
func (k Kept) Words() string {
	var out []string
	if k.Yaw < 1 {
		out = append(out, fmt.Sprintf(msgYawKeeps, math.Floor(100*k.Yaw)))
	}
	if k.Moved < 0 {
		out = append(out, msgThrustLowered)
	} else if k.Moved > 0 {
		out = append(out, msgThrustRaised)
	}
	if k.Lean < 1 {
		out = append(out, fmt.Sprintf(msgRollPitchKeep, math.Floor(100*k.Lean)))
	}
	if len(out) == 0 {
		return ""
	}
	return fmt.Sprintf(msgNotAllGiven, strings.Join(out, ", "))
}

// Share returns the thrust of each rotor in newtons for a thrust and torques
// that are asked for, within low and high, and what was kept of them where not
// all could be.
func (m *Mixer) Share(thrust float64, torque Vec, low, high float64) (out [MostRotors]float64, kept Kept) {
	kept = m.share(&out, thrust, torque, low, high)
	return out, kept
}

// share is Share into a list of the caller's.
func (m *Mixer) share(out *[MostRotors]float64, thrust float64, torque Vec, low, high float64) (kept Kept) {
	kept = Kept{1, 1, 0}
	n := min(m.N, MostRotors)
	// What thrust and leaning ask of each rotor, and between what the leaning
	// part and both together lie.
	least, most := math.Inf(1), math.Inf(-1)
	down, up := 0.0, 0.0
	for i := range n {
		g := &m.inverse[i]
		lean := float64(g[1]*torque.X) + float64(g[2]*torque.Y)
		b := float64(g[0]*thrust) + lean
		out[i] = b
		down, up = lesser(down, lean), greater(up, lean)
		least, most = lesser(least, b), greater(most, b)
	}
	if room := high - low; up-down > room {
		kept.Lean = room / (up - down)
		least, most = math.Inf(1), math.Inf(-1)
		for i := range n {
			g := &m.inverse[i]
			lean := float64(g[1]*torque.X) + float64(g[2]*torque.Y)
			b := float64(g[0]*thrust) + float64(lean*kept.Lean)
			out[i] = b
			least, most = lesser(least, b), greater(most, b)
		}
	}
	// How far the thrust of all has to move for the leaning part to fit.
	shift := 0.0
	if least < low {
		shift = low - least
	} else if most > high {
		shift = high - most
	}
	k := 1.0
	for i := range n {
		b, yaw := out[i]+shift, float64(m.inverse[i][3]*torque.Z)
		out[i] = b
		switch {
		case yaw > 0 && b+yaw > high:
			k = lesser(k, (high-b)/yaw)
		case yaw < 0 && b+yaw < low:
			k = lesser(k, (low-b)/yaw)
		}
	}
	kept.Yaw, kept.Moved = greater(0, k), shift
	k = kept.Yaw
	for i := range n {
		out[i] = clamp(out[i]+float64(k*float64(m.inverse[i][3]*torque.Z)), low, high)
	}
	return kept
}
