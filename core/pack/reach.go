package pack

import "math"

// Bound is what keeps a flight from going farther.
type Bound string

// The bounds.
const (
	ByPack  Bound = "pack"  // beyond it the pack does not bring the craft home
	BySight Bound = "sight" // beyond it the pilot does not tell the nose from the tail
	ByFence Bound = "fence" // beyond it the craft's own fence stops it
)

// Reach is how far from the pilot a flight may go, in m, by each bound; 0 where
// that one is not known or not set.
type Reach struct{ PackM, SightM, FenceM float64 }

// Least is the nearest of the bounds, rounded down to a metre, and which it is.
// It is not known where the pack's is not: what nobody has measured is not
// taken to be enough.
func (r Reach) Least() (m float64, by Bound, known bool) {
	if r.PackM <= 0 {
		return 0, "", false
	}
	m, by = r.PackM, ByPack
	if r.SightM > 0 && r.SightM < m {
		m, by = r.SightM, BySight
	}
	if r.FenceM > 0 && r.FenceM < m {
		m, by = r.FenceM, ByFence
	}
	// Rounded down, so that nobody is told more than there is.
	return math.Floor(m), by, true
}
