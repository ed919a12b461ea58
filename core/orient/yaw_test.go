package orient

import (
	"math"
	"testing"

	"maestrale/core/field"
)

// The curve is the derivative of where the nose has to point, its peak is abeam, and the
// fastest change is where and what the formula says.
func TestTheYawCurveIsTheDerivativeOfTheBearing(t *testing.T) {
	for _, c := range [][2]float64{{3, 10}, {8, 5}, {1, 40}} {
		v, d := c[0], c[1]
		p, err := PastSubject(v, d, field.Degrees(120))
		if err != nil {
			t.Fatal(err)
		}
		nose := func(at float64) float64 { return math.Atan2(d, -v*at) }
		const h = 1e-4
		top, topAcc := 0.0, 0.0
		for at := -6 * d / v; at <= 6*d/v; at += d / v / 500 {
			rate := (nose(at+h) - nose(at-h)) / (2 * h)
			acc := (nose(at+h) - 2*nose(at) + nose(at-h)) / (h * h)
			top, topAcc = math.Max(top, rate), math.Max(topAcc, math.Abs(acc))
		}
		if math.Abs(top/float64(p.Peak)-1) > 1e-4 || math.Abs(topAcc/float64(p.PeakAcc)-1) > 1e-3 {
			t.Errorf("v %v, d %v: peak %.4f and %.4f, the formula says %.4f and %.4f", v, d, top, topAcc, float64(p.Peak),
				float64(p.PeakAcc))
		}
		for _, y := range p.Curve {
			rate := (nose(y.T+h) - nose(y.T-h)) / (2 * h)
			if math.Abs(rate-float64(y.Rate)) > 1e-5 || math.Abs(nose(y.T)-float64(y.Nose)) > 1e-9 {
				t.Errorf("at %.2f s: %.5f, the curve has %.5f", y.T, rate, float64(y.Rate))
			}
		}
		// At the lead-in it turns by a degree a second.
		if p.LeadIn > 0 {
			rate := (nose(-p.LeadIn+h) - nose(-p.LeadIn-h)) / (2 * h)
			if math.Abs(rate-float64(field.Degrees(1))) > 1e-5 {
				t.Errorf("at the lead-in %.4f °/s", rate*180/math.Pi)
			}
		}
	}
}

func TestWhetherTheCraftCan(t *testing.T) {
	p, err := PastSubject(10, 5, field.Degrees(100)) // 2 rad/s = 115 °/s
	if err != nil || p.Can || math.Abs(p.MostSpeedMps-float64(field.Degrees(80))*5) > 1e-9 {
		t.Errorf("%+v %v", p, err)
	}
	if q, _ := PastSubject(p.MostSpeedMps, 5, field.Degrees(100)); !q.Can {
		t.Error("at the fastest speed that is said it cannot")
	}
	if q, _ := PastSubject(10, p.LeastOffsetM, field.Degrees(100)); !q.Can {
		t.Error("at the least offset that is said it cannot")
	}
	if o, err := Orbit(3, 10, field.Degrees(60)); err != nil || !o.Can || math.Abs(o.Peak.Deg()-17.19) > 0.01 {
		t.Errorf("%+v %v", o, err)
	}
	for _, c := range [][3]float64{{0, 1, 1}, {1, 0, 1}, {1, 1, 0}, {math.NaN(), 1, 1}} {
		if _, err := PastSubject(c[0], c[1], field.Angle(c[2])); err == nil {
			t.Errorf("%v was taken", c)
		}
		if _, err := Orbit(c[0], c[1], field.Angle(c[2])); err == nil {
			t.Errorf("%v was taken", c)
		}
	}
}
