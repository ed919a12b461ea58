package draw

import (
	"fmt"
	"html/template"
	"math"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/track"
)

// clockOf is the time that a drawing over time shows.
func (f Flight) clockOf() (from, to float64) {
	if f.Track != nil {
		return f.Track.T[0], f.Track.T[f.Track.Len()-1]
	}
	to = 1
	for _, m := range f.Marks {
		to = math.Max(to, m.TS)
	}
	return 0, to
}

// heightScale is the top of the drawing of heights, in metres, and where a height
// stands in it.
func (f Flight) heightScale() (top float64, y func(float64) float64) {
	top = 1.0
	for _, z := range f.Track.Z {
		top = math.Max(top, z)
	}
	for _, st := range f.Task.Steps {
		top = math.Max(top, st.HeightM+st.Limits.Height)
	}
	top *= 1.08
	return top, func(z float64) float64 { return heightTall - 18 - z/top*(heightTall-30) }
}

// Height draws the height over time with the band that each step allows.
func Height(f Flight) template.HTML {
	if f.Track == nil {
		return ""
	}
	const h = heightTall
	top, y := f.heightScale()
	var s svg
	ts := f.timeScale()
	s.openLinked(timeWidth, h, "over-time", msgHeightOverTime)
	for i, st := range f.Task.Steps {
		r := f.Result.Steps[i]
		if (st.Kind != drill.Hold && st.Kind != drill.Path) || st.Limits.Height <= 0 || st.HeightM <= 0 || r.StartS == nil {
			continue
		}
		_, end := f.clockOf()
		if r.EndS != nil {
			end = *r.EndS
		}
		s.rect(ts.x(*r.StartS), y(st.HeightM+st.Limits.Height), (end-*r.StartS)*ts.per, 2*st.Limits.Height/top*(h-30),
			"limit", fmt.Sprintf("%s to %s m", short(st.HeightM-st.Limits.Height), short(st.HeightM+st.Limits.Height)))
	}
	s.line(timeLeft, y(0), timeWidth-14, y(0), "axis")
	s.text(timeLeft-8, y(0)+4, "small", "end", "0 m")
	if len(f.Task.Steps) > 0 {
		for _, st := range f.Task.Steps {
			if st.Kind == drill.Hold && st.HeightM > 0 {
				s.text(timeLeft-8, y(st.HeightM)+4, "small", "end", short(st.HeightM)+" m")
				break
			}
		}
	}
	if f.Log != nil {
		s.path(f.Log, "flown log", func(i int) (float64, float64) { return ts.x(f.Log.T[i]), y(f.Log.Z[i]) })
	}
	s.path(f.Track, "flown", func(i int) (float64, float64) { return ts.x(f.Track.T[i]), y(f.Track.Z[i]) })
	for i, x := range f.Result.Faults {
		if x.At != nil {
			s.faultMark(ts.x(x.TS), math.Max(12, y(x.At.Z)), i, x.Text)
		}
	}
	return s.done()
}

// Nose draws how far the nose was from the rule over time, in the steps that
// have one.
func Nose(f Flight) template.HTML {
	if f.Track == nil || f.Track.Heading == nil {
		return ""
	}
	const h, top = 110.0, 90.0
	y := func(deg float64) float64 { return 8 + (top-math.Max(-top, math.Min(top, deg)))/(2*top)*(h-16) }
	var s svg
	ts := f.timeScale()
	s.open(timeWidth, h, "over-time",
		msgNoseOffRule)
	any := false
	for i, st := range f.Task.Steps {
		r := f.Result.Steps[i]
		if st.Kind != drill.Hold || st.Limits.Nose <= 0 || r.StartS == nil {
			continue
		}
		any = true
		_, end := f.clockOf()
		if r.EndS != nil {
			end = *r.EndS
		}
		lim := math.Min(top, st.Limits.Nose.Deg())
		s.rect(ts.x(*r.StartS), y(lim), (end-*r.StartS)*ts.per, y(-lim)-y(lim), "limit", fmt.Sprintf("%s ± %.0f°",
			st.Heading.Words(), lim))
		a, b := max(0, f.Track.At(*r.StartS)), f.Track.At(end)
		part := &track.Track{T: f.Track.T[a : b+1]}
		kept := f.Track.Heading[a]
		s.path(part, "flown", func(k int) (float64, float64) {
			i := a + k
			seen := field.Bearing(field.Point{X: f.Track.X[i], Y: f.Track.Y[i]}.Sub(f.Task.Station))
			return ts.x(f.Track.T[i]), y(st.Heading.Deviation(f.Track.Heading[i], seen, kept).Deg())
		})
	}
	if !any {
		return ""
	}
	s.line(timeLeft, y(0), timeWidth-14, y(0), "axis")
	s.text(timeLeft-8, y(0)+4, "small", "end", "rule")
	s.text(timeLeft-8, y(60)+4, "small", "end", "right")
	s.text(timeLeft-8, y(-60)+4, "small", "end", "left")
	return s.done()
}

// TimeLine draws the steps as they were done and each fault at its moment.
func TimeLine(f Flight) template.HTML {
	const h = 74.0
	var s svg
	ts := f.timeScale()
	from, to := f.clockOf()
	s.openLinked(timeWidth, h, "over-time", msgTimeLineSteps)
	for i, r := range f.Result.Steps {
		if r.StartS == nil {
			continue
		}
		end := to
		class := "step undone"
		if r.EndS != nil {
			end, class = *r.EndS, "step"
		}
		x, w := ts.x(*r.StartS), math.Max(2, (end-*r.StartS)*ts.per)
		s.rect(x, 30, w, 20, class, fmt.Sprintf("%s, %.1f s to %.1f s", f.Task.Steps[i].Words(), *r.StartS, end))
		if w > 38 {
			s.text(x+5, 44, "small on-step", "start", r.Kind)
		}
	}
	every := 5.0
	for (to-from)/every > 14 {
		every *= 2
	}
	for t := math.Ceil(from/every) * every; t <= to; t += every {
		s.line(ts.x(t), 52, ts.x(t), 57, "axis")
		s.text(ts.x(t), 69, "small", "middle", fmt.Sprintf("%.0f s", t))
	}
	for i, x := range f.Result.Faults {
		s.faultMark(ts.x(x.TS), 15, i, x.Text)
	}
	return s.done()
}

const heightTall = 150.0

type timeScale struct{ from, per float64 }

func (f Flight) timeScale() timeScale {
	from, to := f.clockOf()
	return timeScale{from, (timeWidth - timeLeft - 14) / math.Max(1e-9, to-from)}
}

func (t timeScale) x(s float64) float64 { return timeLeft + (s-t.from)*t.per }
