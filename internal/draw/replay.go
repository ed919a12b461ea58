package draw

import (
	"math"

	"maestrale/core/field"
)

// mostReplayed is how many moments of a flight a page is given to play.
const mostReplayed = 3000

// Replay is a flight for playing over its drawings: where the craft stands in them
// at each moment, and what the pilot saw.
type Replay struct {
	T       []float64    `json:"t"`  // s
	PX      []float64    `json:"px"` // in the plan
	PY      []float64    `json:"py"`
	HY      []float64    `json:"hy"`     // in the drawing of heights
	Z       []float64    `json:"z"`      // m
	Heading []float64    `json:"head"`   // degrees clockwise from up the screen
	Aspect  []float64    `json:"aspect"` // degrees, 0 tail-in, + nose right
	Sticks  [][4]float64 `json:"sticks"` // throttle, yaw, pitch, roll
	X0      float64      `json:"x0"`     // where t = 0 stands in the drawings over time
	Per     float64      `json:"per"`    // and how wide a second is
}

// ReplayOf gathers what a page needs to play a flight; nil without a track.
func ReplayOf(f Flight) *Replay {
	t := f.Track
	if t == nil || t.Len() < 2 {
		return nil
	}
	p, ts := f.planOf(planWide, planTall), f.timeScale()
	_, y := f.heightScale()
	r := &Replay{X0: ts.x(0), Per: ts.per}
	tenth := func(v float64) float64 { return math.Round(v*10) / 10 }
	stride := max(1, (t.Len()+mostReplayed-1)/mostReplayed)
	for i := 0; i < t.Len(); i += stride {
		r.T = append(r.T, math.Round(t.T[i]*1000)/1000)
		r.PX, r.PY = append(r.PX, tenth(p.x(t.X[i]))), append(r.PY, tenth(p.y(t.Y[i])))
		r.HY, r.Z = append(r.HY, tenth(y(t.Z[i]))), append(r.Z, math.Round(t.Z[i]*100)/100)
		if t.Heading != nil {
			at := field.Point{X: t.X[i], Y: t.Y[i]}.Sub(f.Task.Station)
			r.Heading, r.Aspect = append(r.Heading, tenth(t.Heading[i].Deg())), append(r.Aspect,
				tenth(field.Aspect(t.Heading[i], at).Deg()))
		}
		if t.StickThrottle != nil {
			hundredth := func(v float64) float64 { return math.Round(v*100) / 100 }
			r.Sticks = append(r.Sticks, [4]float64{hundredth(t.StickThrottle[i]), hundredth(t.StickYaw[i]),
				hundredth(t.StickPitch[i]), hundredth(t.StickRoll[i])})
		}
	}
	return r
}
