package draw

import (
	"fmt"
	"html/template"
	"math"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/score"
	"maestrale/core/track"
)

// Flight is an attempt to be drawn: the task with its limits, what was flown
// over it where a track shows it, and the result with its faults.
type Flight struct {
	Task   drill.Task
	Track  *track.Track // nil where an eye marked it
	Result *score.Result
	Marks  []score.Mark
	Wind   *float64 // m/s
	From   *float64 // field heading
}

// thinnest is how many points a drawn line has at most, about one to a pixel.
const thinnest = 1200

// plan is the part of the field that a drawing shows. Where the pilot stands
// far from what is flown, the stretch between is left out and said.
type plan struct {
	minX, minY, scale, w, h float64
	far                     float64 // metres from the pilot to the middle, where the stretch is left out
}

const planFoot = 46.0 // height kept for a pilot who stands below the shown part

func (p plan) x(v float64) float64 { return (v - p.minX) * p.scale }
func (p plan) y(v float64) float64 {
	h := p.h
	if p.far > 0 {
		h -= planFoot
	}
	return h - (v-p.minY)*p.scale
}

// planOf frames what has to be seen: every limit and all that was flown, and
// the pilot where near.
func (f Flight) planOf(w, h float64) plan {
	box := frame{math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)}
	for _, s := range f.Task.Steps {
		if s.HasAt {
			box.see(s.At, math.Max(0.8, 1.25*math.Max(s.Limits.Radius, s.Limits.Offset)))
		}
	}
	if f.Track != nil {
		for i := range f.Track.X {
			box.see(field.Point{X: f.Track.X[i], Y: f.Track.Y[i]}, 0.2)
		}
	}
	for _, x := range f.Result.Faults {
		if x.At != nil {
			box.see(field.Point{X: x.At.X, Y: x.At.Y}, 0.3)
		}
	}
	if math.IsInf(box.minX, 1) {
		box = frame{-2, 2, 0, 4}
	}
	mid := (box.minX + box.maxX) / 2
	if box.minY-f.Task.Station.Y < 0.6*(box.maxY-box.minY) {
		box.see(f.Task.Station, 0.6)
		scale := math.Min(w/(box.maxX-box.minX), h/(box.maxY-box.minY))
		mid = (box.minX + box.maxX) / 2
		return plan{minX: mid - w/scale/2, minY: box.minY, scale: scale, w: w, h: h}
	}
	scale := math.Min(w/(box.maxX-box.minX), (h-planFoot)/(box.maxY-box.minY))
	return plan{minX: mid - w/scale/2, minY: box.minY, scale: scale, w: w, h: h, far: (box.minY+box.maxY)/2 - f.Task.Station.Y}
}

// frame is a rectangle that grows with what it has to hold.
type frame struct{ minX, maxX, minY, maxY float64 }

func (b *frame) see(p field.Point, r float64) {
	b.minX, b.maxX = math.Min(b.minX, p.X-r), math.Max(b.maxX, p.X+r)
	b.minY, b.maxY = math.Min(b.minY, p.Y-r), math.Max(b.maxY, p.Y+r)
}

// Plan draws the field from above with the limits to scale, what was flown,
// and each fault with its number where it happened.
func Plan(f Flight) template.HTML {
	const w, h = 460.0, 380.0
	p := f.planOf(w, h)
	var s svg
	s.openLinked(w, h, "plan", "Plan: the limits to scale, what was flown over them, and the faults; the table says the same")
	s.scaleBar(p)
	radius, at := 0.0, field.Point{}
	drawn := map[string]bool{}
	for _, st := range f.Task.Steps {
		if !st.HasAt {
			continue
		}
		x, y := p.x(st.At.X), p.y(st.At.Y)
		if r := st.Limits.Radius; r > 0 && !drawn[fmt.Sprint(st.At, r)] {
			drawn[fmt.Sprint(st.At, r)] = true
			s.circle(x, y, r*p.scale, "limit")
			if r > radius {
				radius, at = r, st.At
			}
		}
		if r := st.Limits.Offset; r > 0 {
			s.circle(x, y, r*p.scale, "limit pad")
			s.line(x-5, y, x+5, y, "cross")
			s.line(x, y-5, x, y+5, "cross")
		}
	}
	if radius > 0 {
		s.text(p.x(at.X)+radius*p.scale*0.72+4, p.y(at.Y)-radius*p.scale*0.72-4, "small", "start", fmt.Sprintf("box %s m", short(radius)))
	}
	if f.Track != nil {
		s.path(f.Track, "flown", func(i int) (float64, float64) { return p.x(f.Track.X[i]), p.y(f.Track.Y[i]) })
	}
	s.planFaults(f, p)
	if p.far > 0 {
		x := math.Max(14, math.Min(w-150, p.x(f.Task.Station.X)))
		s.line(x, h-planFoot+2, x, h-22, "break")
		s.pilot(x, h-9)
		s.text(x+18, h-8, "small", "start", fmt.Sprintf("you, %s m off; not to scale", short(math.Round(p.far*10)/10)))
	} else {
		s.pilot(p.x(f.Task.Station.X), math.Min(p.y(f.Task.Station.Y), h-10))
	}
	if f.Wind != nil && f.From != nil {
		s.add(`<g class="wind" transform="translate(%s 26) rotate(%s)"><path class="streak" d="M0 13V-13M-5 -6L0 -13L5 -6"/><path class="streak faint" d="M-8 12V0M8 12V0"/></g>`, n(w-24), n(math.Mod(*f.From+180, 360)))
		s.text(w-44, 30, "small", "end", fmt.Sprintf("%.1f m/s", *f.Wind))
	}
	return s.done()
}

func (s *svg) planFaults(f Flight, p plan) {
	for i, x := range f.Result.Faults {
		var at field.Point
		switch step := f.Task.Steps[x.Step]; {
		case x.At != nil:
			at = field.Point{X: x.At.X, Y: x.At.Y}
		case step.HasAt && x.Toward != "": // the eye said only where to
			d := map[string]field.Point{"left": {X: -1}, "right": {X: 1}, "toward": {Y: -1}, "away": {Y: 1}}[x.Toward]
			r := math.Max(step.Limits.Radius, step.Limits.Offset)
			at = field.Point{X: step.At.X + d.X*r, Y: step.At.Y + d.Y*r}
		default:
			continue
		}
		s.faultMark(p.x(at.X), p.y(at.Y), i, x.Text)
	}
	for _, m := range f.Marks {
		if m.Mark == "touch" && m.AwayM != nil {
			pad := f.Task.Steps[len(f.Task.Steps)-1].At
			x, y := p.x(pad.X+*m.RightM), p.y(pad.Y+*m.AwayM)
			s.add(`<path class="touch" d="M%s %sl10 10m0 -10l-10 10"/>`, n(x-5), n(y-5))
		}
	}
}

// faultMark draws a fault as a numbered square standing on its corner, which no
// other mark is.
func (s *svg) faultMark(x, y float64, i int, text string) {
	s.add(`<a href="#fault-%d" class="fault-mark" data-fault="%d"><title>%s</title><path d="M%s %sl11 11l-11 11l-11 -11Z"/><text x="%s" y="%s" text-anchor="middle">%d</text></a>`,
		i+1, i+1, template.HTMLEscapeString(text), n(x), n(y-11), n(x), n(y+4.5), i+1)
}

func (s *svg) scaleBar(p plan) {
	m := 1.0
	for m*p.scale < 50 {
		m *= 2
	}
	s.add(`<path class="scale" d="M12 %sv6h%sv-6"/>`, n(p.h-14), n(m*p.scale))
	s.text(12+m*p.scale/2, p.h-12, "small", "middle", fmt.Sprintf("%s m", short(m)))
}

// path draws a line over the samples, thinned to the pixels that can be seen.
func (s *svg) path(t *track.Track, class string, at func(int) (float64, float64)) {
	var b strings.Builder
	stride := max(1, t.Len()/thinnest)
	lx, ly := math.Inf(1), 0.0
	for i := 0; i < t.Len(); i += stride {
		x, y := at(i)
		if math.Abs(x-lx) < 0.4 && math.Abs(y-ly) < 0.4 {
			continue
		}
		verb := "L"
		if b.Len() == 0 {
			verb = "M"
		}
		b.WriteString(verb + n(x) + " " + n(y))
		lx, ly = x, y
	}
	s.add(`<path class="%s" d="%s"/>`, class, b.String())
}

func short(v float64) string {
	return strings.TrimSuffix(strings.TrimSuffix(fmt.Sprintf("%.2f", v), "0"), ".0")
}

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

const (
	timeWidth = 1180.0
	timeLeft  = 52.0
)

type timeScale struct{ from, per float64 }

func (f Flight) timeScale() timeScale {
	from, to := f.clockOf()
	return timeScale{from, (timeWidth - timeLeft - 14) / math.Max(1e-9, to-from)}
}

func (t timeScale) x(s float64) float64 { return timeLeft + (s-t.from)*t.per }

// Height draws the height over time with the band that each step allows.
func Height(f Flight) template.HTML {
	if f.Track == nil {
		return ""
	}
	const h = 150.0
	top := 1.0
	for _, z := range f.Track.Z {
		top = math.Max(top, z)
	}
	for _, st := range f.Task.Steps {
		top = math.Max(top, st.HeightM+st.Limits.Height)
	}
	top *= 1.08
	y := func(z float64) float64 { return h - 18 - z/top*(h-30) }
	var s svg
	ts := f.timeScale()
	s.openLinked(timeWidth, h, "over-time", "Height over time, with the limits to scale; the table says the same")
	for i, st := range f.Task.Steps {
		r := f.Result.Steps[i]
		if st.Kind != drill.Hold || st.Limits.Height <= 0 || r.StartS == nil {
			continue
		}
		_, end := f.clockOf()
		if r.EndS != nil {
			end = *r.EndS
		}
		s.rect(ts.x(*r.StartS), y(st.HeightM+st.Limits.Height), (end-*r.StartS)*ts.per, 2*st.Limits.Height/top*(h-30), "limit", fmt.Sprintf("%s to %s m", short(st.HeightM-st.Limits.Height), short(st.HeightM+st.Limits.Height)))
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
	s.open(timeWidth, h, "over-time", "Nose off its rule over time, right above the middle, left below; the table says the same")
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
		s.rect(ts.x(*r.StartS), y(lim), (end-*r.StartS)*ts.per, y(-lim)-y(lim), "limit", fmt.Sprintf("%s ± %.0f°", st.Heading.Words(), lim))
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
	s.openLinked(timeWidth, h, "over-time", "Time line of steps and faults; the table says the same")
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
