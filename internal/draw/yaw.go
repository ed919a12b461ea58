package draw

import (
	"fmt"
	"html/template"
	"math"

	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/score"
)

// YawWay draws a planned run past a subject, or an orbit round it, from above with the
// pilot at the bottom: the way, and where the nose points along it.
func YawWay(p orient.YawPlan, orbit bool) template.HTML {
	const w, h = 460.0, 250.0
	var s svg
	s.open(w, h, "yaw-way", msgFromAboveWay)
	cx, cy := w/2, 62.0
	if orbit {
		cy = h/2 - 14
	}
	s.circle(cx, cy, 7, "yaw-subject")
	s.text(cx, cy-13, "small", "middle", "subject")
	craft := func(x, y float64, nose field.Angle) {
		s.add(`<g class="yaw-craft" transform="translate(%s %s) rotate(%s)"><path d="M0 -15L5 5H-5Z"/></g>`, n(x), n(y),
			n(nose.Deg()))
	}
	if orbit {
		const r = 84.0
		s.circle(cx, cy, r, "yaw-line")
		for i := range 8 {
			a := float64(i) * math.Pi / 4
			craft(cx+r*math.Sin(a), cy-r*math.Cos(a), field.Angle(a+math.Pi))
		}
		s.text(cx+r+12, cy+4, "small", "start", fmt.Sprintf("%s m", short(p.OffsetM)))
	} else {
		reach := p.Curve[len(p.Curve)-1].T * p.SpeedMps
		k := (w/2 - 30) / reach
		y := cy + math.Min(120, math.Max(26, p.OffsetM*k))
		s.line(16, y, w-16, y, "yaw-line")
		s.line(cx, cy+9, cx, y, "hair")
		s.text(cx+7, (cy+y)/2+8, "small", "start", fmt.Sprintf("%s m", short(p.OffsetM)))
		for i, a := range p.Curve {
			if i%(orient.Half/5) == 0 { // drawn to scale along the way; the angle is the true one
				craft(cx+a.T*p.SpeedMps*k, y, field.Degrees(90)-a.Nose)
			}
		}
		s.text(18, y+26, "small", "start", msgFliesRight)
	}
	s.pilot(cx, h-14)
	return s.done()
}

// YawCurve draws the yaw rate over time, with the fastest that the craft turns and the
// share of it that is kept for corrections.
func YawCurve(p orient.YawPlan, fastest field.Angle) template.HTML {
	const w, h, left, right, top, foot = 620.0, 230.0, 54.0, 16.0, 22.0, 40.0
	first, last := p.Curve[0].T, p.Curve[len(p.Curve)-1].T
	most := math.Max(p.Peak.Deg()*1.25, 5)
	if fastest.Deg() < 3*p.Peak.Deg() {
		most = math.Max(most, fastest.Deg()*1.1)
	}
	px := func(t float64) float64 { return left + (w-left-right)*(t-first)/math.Max(1e-9, last-first) }
	py := func(deg float64) float64 { return top + (h-top-foot)*(1-deg/most) }
	var s svg
	s.open(w, h, "yaw-curve", fmt.Sprintf(msgYawRateOver, p.Peak.Deg()))
	step := niceStep(most / 4)
	for d := 0.0; d <= most; d += step {
		s.line(left, py(d), w-right, py(d), "hair")
		s.text(left-6, py(d)+4, "small", "end", short(d)+" °/s")
	}
	if f := fastest.Deg(); f <= most {
		s.line(left, py(f), w-right, py(f), "yaw-limit")
		s.text(w-right, py(f)-5, "small", "end", fmt.Sprintf(msgCraftFastest, f))
		s.line(left, py(0.8*f), w-right, py(0.8*f), "yaw-spare")
	}
	path := ""
	for i, a := range p.Curve {
		path += map[bool]string{true: "M", false: "L"}[i == 0] + n(px(a.T)) + " " + n(py(a.Rate.Deg()))
	}
	s.add(`<path class="yaw-plan" d="%s"/>`, path)
	if p.LeadIn > 0 {
		s.line(px(-p.LeadIn), top, px(-p.LeadIn), py(0), "yaw-lead")
		s.text(px(-p.LeadIn)+5, top+12, "small", "start", fmt.Sprintf("begin %.1f s before", p.LeadIn))
	}
	s.line(left, py(0), w-right, py(0), "axis")
	every := niceStep((last - first) / 8)
	for t := math.Ceil(first/every) * every; t <= last+1e-9; t += every {
		s.text(px(t), py(0)+18, "small", "middle", short(t)+" s")
	}
	if first < 0 {
		s.text(px(0), h-6, "small", "middle", "abeam")
	}
	return s.done()
}

// niceStep is 1, 2 or 5 times a power of ten, v at least.
func niceStep(v float64) float64 {
	p := math.Pow(10, math.Floor(math.Log10(math.Max(1e-6, v))))
	for _, k := range []float64{1, 2, 5, 10} {
		if k*p >= v-1e-12 {
			return k * p
		}
	}
	return 10 * p
}

// Yawed draws the yaw rate that a subject asked for along what was flown, and the one that
// was flown; empty where the drill keeps no nose on a subject.
func Yawed(f Flight) template.HTML {
	if f.Track == nil {
		return ""
	}
	list := score.Yawed(f.Track, f.Task, f.Result)
	if len(list) == 0 {
		return ""
	}
	const h, top, foot = 150.0, 14.0, 24.0
	most := 10.0
	for _, a := range list {
		most = math.Max(most, 1.1*math.Max(a.Asked.Abs().Deg(), math.Min(a.Flown.Abs().Deg(), 3*a.Asked.Abs().Deg()+20)))
	}
	ts := f.timeScale()
	py := func(deg float64) float64 { return h/2 - 4 - math.Max(-most, math.Min(most, deg))/most*(h-top-foot)/2 }
	var s svg
	s.open(timeWidth, h, "over-time", msgYawRateSubject)
	for _, d := range []float64{-most, 0, most} {
		d = math.Round(d)
		s.line(timeLeft, py(d), timeWidth-14, py(d), "hair")
		s.text(timeLeft-6, py(d)+4, "small", "end", short(d)+" °/s")
	}
	asked, flown := "", ""
	for i, a := range list {
		to := map[bool]string{true: "M", false: "L"}[i == 0]
		asked += to + n(ts.x(a.T)) + " " + n(py(a.Asked.Deg()))
		flown += to + n(ts.x(a.T)) + " " + n(py(a.Flown.Deg()))
	}
	s.add(`<path class="yaw-plan" d="%s"/><path class="yaw-flown" d="%s"/>`, asked, flown)
	return s.done()
}
