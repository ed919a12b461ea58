package fmath

import "math"

// Rand is a seeded source of random numbers: PCG XSL RR 128/64 (O'Neill, "PCG: a
// family of simple fast space-efficient statistically good algorithms for random
// number generation", HMC-CS-2014-0905). It is written here, and not taken from
// math/rand/v2, since a trace has to fly the same for as long as it is kept.
type Rand struct {
	high, low uint64
	spare     float64
	has       bool
}

// NewRand returns the source of a seed for one concern: each concern has a
// stream of its own, so that more of one does not change another.
func NewRand(seed, concern uint64) Rand {
	r := Rand{high: seed, low: concern ^ 0x9e3779b97f4a7c15}
	r.step()
	r.low ^= seed
	r.step()
	return r
}

// step multiplies the state by the 128-bit constant of PCG and adds its stream.
func (r *Rand) step() {
	const mh, ml, ah, al = 2549297995355413924, 4865540595714422341, 6364136223846793005, 1442695040888963407
	// low × ml as 128 bits
	x0, x1 := r.low&0xffffffff, r.low>>32
	const y0, y1 = ml & 0xffffffff, ml >> 32
	w0 := x0 * y0
	t := x1*y0 + w0>>32
	w1 := t&0xffffffff + x0*y1
	hi := x1*y1 + t>>32 + w1>>32
	hi += r.high*ml + r.low*mh
	low := r.low * ml
	next := low + al
	if next < low {
		hi++
	}
	r.high, r.low = hi+ah, next
}

// Uint64 returns 64 random bits.
func (r *Rand) Uint64() uint64 {
	r.step()
	x, turn := r.high^r.low, r.high>>58
	return x>>turn | x<<((64-turn)&63)
}

// Float64 returns a number from 0 up to, not including, 1.
func (r *Rand) Float64() float64 { return float64(r.Uint64()>>11) / (1 << 53) }

// signed returns a number from −1 up to, not including, 1.
func (r *Rand) signed() float64 { return float64(int64(r.Uint64())>>11) / (1 << 52) }

// Normal returns a standard normal deviate, by the polar method (Marsaglia and
// Bray, SIAM Review 6 (1964) 260).
func (r *Rand) Normal() float64 {
	if r.has {
		r.has = false
		return r.spare
	}
	for {
		u, v := r.signed(), r.signed()
		s := float64(u*u) + float64(v*v)
		if s >= 1 || s == 0 {
			continue
		}
		k := math.Sqrt(float64(-2*Log(s)) / s)
		r.spare, r.has = float64(v*k), true
		return float64(u * k)
	}
}

// State is the state of the source, for who continues it elsewhere.
func (r *Rand) State() (high, low uint64) { return r.high, r.low }
