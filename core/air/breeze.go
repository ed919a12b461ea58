package air

import (
	"math"
	"math/rand/v2"
	"time"

	"maestrale/core/field"
)

// SeaBreeze is a made-up wind for the stand-in meter: calm in the morning, a sea
// breeze that rises after eleven and turns, and gusts as an Ornstein–Uhlenbeck
// process (correlation time 8 s, a fifth of the mean), all from one seed.
type SeaBreeze struct {
	r     *rand.Rand
	gust  float64
	swing float64
}

// NewSeaBreeze makes the breeze of a seed.
func NewSeaBreeze(seed uint64) *SeaBreeze {
	return &SeaBreeze{r: rand.New(rand.NewPCG(seed, 0x5ea))}
}

// Step returns the wind at a time of day, dt after the one before.
func (b *SeaBreeze) Step(ofDay, dt time.Duration) Heard {
	hour := ofDay.Hours()
	rise := 1 / (1 + math.Exp(-2*(hour-11.5)))
	if hour > 18 {
		rise *= math.Exp(-(hour - 18))
	}
	mean := 1.6 + 4.2*rise
	keep := math.Exp(-dt.Seconds() / 8)
	b.gust = b.gust*keep + math.Sqrt(1-keep*keep)*b.r.NormFloat64()
	slow := math.Exp(-dt.Seconds() / 40)
	b.swing = b.swing*slow + math.Sqrt(1-slow*slow)*b.r.NormFloat64()
	from := 300 + 25*rise + 9*b.swing
	return Heard{math.Max(0, mean*(1+0.2*b.gust)), field.Degrees(from)}
}
