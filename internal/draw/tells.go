package draw

import (
	"fmt"
	"html/template"
	"math"

	"maestrale/core/orient"
)

// Tells draws the chance of a right call by distance with the calls: a dot above for a
// right one, below for a wrong one; the interval of the half-way distance as a band, and a
// mark at the distance to which the aspect counts as told.
func Tells(x orient.Sight, light orient.Light, calls []orient.Call) (template.HTML, error) {
	const w, h, left, right, top, foot = 620.0, 230.0, 44.0, 14.0, 26.0, 34.0
	far := 40.0
	for _, c := range calls {
		far = math.Max(far, c.DistanceM*1.15)
	}
	far = math.Max(far, math.Min(1.3*x.High, 400))
	if x.FromCue {
		far = math.Max(far, 1.2*x.CueM)
	}
	px := func(d float64) float64 { return left + (w-left-right)*math.Min(1, d/far) }
	py := func(p float64) float64 { return top + (h-top-foot)*(1-p) }
	var s svg
	s.open(w, h, "tells", msgChanceRightCall)
	if !x.FromCue {
		s.rect(px(x.Low), top, px(x.High)-px(x.Low), h-top-foot, "limit",
			fmt.Sprintf(msgIntervalHalfWay, x.Low, x.High))
	}
	for _, p := range []float64{0, 0.25, 0.5, 0.75, 1} {
		s.line(left, py(p), w-right, py(p), "hair")
		s.text(left-6, py(p)+4, "small", "end", fmt.Sprintf("%.0f %%", 100*p))
	}
	step := 10.0
	for far/step > 9 {
		step *= 2
	}
	for d := step; d <= far; d += step {
		s.line(px(d), py(0), px(d), py(0)+5, "axis")
		s.text(px(d), py(0)+19, "small", "middle", fmt.Sprintf("%.0f m", d))
	}
	s.line(left, py(0), w-right, py(0), "axis")
	if !x.FromCue {
		curve, err := orient.Curve(light, calls, far, 80)
		if err != nil {
			return "", err
		}
		path := ""
		for i, q := range curve {
			path += map[bool]string{true: "M", false: "L"}[i == 0] + n(px(q[0])) + " " + n(py(q[1]))
		}
		s.add(`<path class="tells-curve" d="%s"/>`, path)
	}
	for i, c := range calls {
		y, class := py(1)-9-float64(i%3)*3, "tells-right"
		if !c.Right {
			y, class = py(0)-6-float64(i%3)*3, "tells-wrong"
		}
		s.circle(px(c.DistanceM), y, 3.4, class)
	}
	s.line(px(x.TellM), top-8, px(x.TellM), py(0), "tells-to")
	anchor, by := "end", -7.0
	if px(x.TellM) < left+90 {
		anchor, by = "start", 7
	}
	s.text(px(x.TellM)+by, py(0.36), "small", anchor, fmt.Sprintf("told to %.0f m", math.Floor(x.TellM)))
	return s.done(), nil
}
