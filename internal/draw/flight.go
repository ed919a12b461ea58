package draw

import (
	"fmt"
	"html/template"
	"math"
	"slices"
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
	Track  *track.Track // the flight as it was judged; nil where an eye marked it
	Log    *track.Track // the log as it came, where that differs
	Result *score.Result
	Marks  []score.Mark
	Wind   *float64     // m/s
	From   *float64     // field heading
	Other  *track.Track // another attempt to draw over it
	Mirror bool         // it was flown on the other side: drawn turned over
}

// Drawn takes a log to be drawn: the flight in it as it was judged, and under that the log as it
// came, where the two differ.
func (f *Flight) Drawn(log *track.Track) {
	if f.Track = score.Flown(log); f.Track != log {
		f.Log = log
	}
}

// other is where the other attempt was at a sample, turned over where its side was
// the other one.
func (f Flight) other(i int) field.Point {
	at := field.Point{X: f.Other.X[i], Y: f.Other.Y[i]}
	if f.Mirror {
		at.X = 2*f.Task.Station.X - at.X
	}
	return at
}

// thinnest is how many points a drawn line has at most, about one to a pixel.
const thinnest = 1200

// plan is the part of the field that a drawing shows. Where the pilot stands
// far from what is flown, the stretch between is left out and said.
type plan struct {
	minX, minY, scale, w, h float64
	far                     float64 // metres from the pilot to the middle, where the stretch is left out
}

const planWide, planTall = 460.0, 380.0 // of a plan

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
			box.see(s.At, math.Max(0.8, 1.25*math.Max(math.Max(s.Limits.Radius, s.Limits.Past), s.Limits.Offset)))
		}
		if s.Path != nil {
			for _, at := range outline(s.Path) {
				box.see(at, 1.1*s.Limits.Cross)
			}
		}
	}
	if f.Track != nil {
		for i := range f.Track.X {
			box.see(field.Point{X: f.Track.X[i], Y: f.Track.Y[i]}, 0.2)
		}
	}
	if f.Other != nil {
		for i := range f.Other.X {
			box.see(f.other(i), 0.2)
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
	return plan{minX: mid - w/scale/2, minY: box.minY, scale: scale, w: w, h: h,
		far: (box.minY+box.maxY)/2 - f.Task.Station.Y}
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
	const w, h = planWide, planTall
	p := f.planOf(w, h)
	var s svg
	s.openLinked(w, h, "plan",
		msgPlanLimitsScale)
	s.scaleBar(p)
	s.limits(f, p)
	s.order(f, p)
	if f.Other != nil {
		s.path(f.Other, "flown other", func(i int) (float64, float64) { at := f.other(i); return p.x(at.X), p.y(at.Y) })
	}
	if f.Log != nil {
		s.path(f.Log, "flown log", func(i int) (float64, float64) { return p.x(f.Log.X[i]), p.y(f.Log.Y[i]) })
	}
	if f.Track != nil {
		s.path(f.Track, "flown", func(i int) (float64, float64) { return p.x(f.Track.X[i]), p.y(f.Track.Y[i]) })
	}
	s.planFaults(f, p)
	s.you(f, p, w, h)
	s.planWind(f, w)
	return s.done()
}

// limits draws the limits of every step to scale.
func (s *svg) limits(f Flight, p plan) {
	radius, at := 0.0, field.Point{}
	drawn := map[string]bool{}
	for _, st := range f.Task.Steps {
		if st.Path != nil {
			s.corridor(st, p)
		}
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
		if r := st.Limits.Past; r > 0 && !drawn[fmt.Sprint(st.At, r)] {
			drawn[fmt.Sprint(st.At, r)] = true
			s.circle(x, y, r*p.scale, "limit")
		}
		if r := st.Limits.Offset; r > 0 {
			s.circle(x, y, r*p.scale, "limit pad")
			s.line(x-5, y, x+5, y, "cross")
			s.line(x, y-5, x, y+5, "cross")
		}
	}
	if radius > 0 {
		s.text(p.x(at.X)+radius*p.scale*0.72+4, p.y(at.Y)-radius*p.scale*0.72-4, "small", "start", fmt.Sprintf("box %s m",
			short(radius)))
	}
}

// you draws the pilot: at the foot of the drawing, and not to scale, where that is far off.
func (s *svg) you(f Flight, p plan, w, h float64) {
	if p.far > 0 {
		x := math.Max(14, math.Min(w-150, p.x(f.Task.Station.X)))
		s.line(x, h-planFoot+2, x, h-22, "break")
		s.pilot(x, h-9)
		s.text(x+18, h-8, "small", "start", fmt.Sprintf(msgYouOffNot, short(math.Round(p.far*10)/10)))
	} else {
		s.pilot(p.x(f.Task.Station.X), math.Min(p.y(f.Task.Station.Y), h-10))
	}
}

// planWind draws where the wind blows to, in the corner of a plan.
func (s *svg) planWind(f Flight, w float64) {
	if f.Wind != nil && f.From != nil {
		s.add(`<g class="wind" transform="translate(%s 26) rotate(%s)"><path class="streak" `+
			`d="M0 13V-13M-5 -6L0 -13L5 -6"/><path class="streak faint" d="M-8 12V0M8 12V0"/>`+
			`</g>`, n(w-24), n(math.Mod(*f.From+180, 360)))
		s.text(w-44, 30, "small", "end", fmt.Sprintf("%.1f m/s", *f.Wind))
	}
}

// outline are places of a figure close enough together to draw it.
func outline(f *drill.Figure) []field.Point {
	n := max(24, int(f.Length/0.25))
	out := make([]field.Point, 0, n+1)
	for i := range n + 1 {
		s := f.Length * float64(i) / float64(n)
		if i == n {
			s = math.Nextafter(f.Length, 0)
		}
		at, _ := f.At(s)
		out = append(out, at.Flat())
	}
	return out
}

// corridor draws a figure as wide as it may be flown, and its middle.
func (s *svg) corridor(st drill.Target, p plan) {
	var b strings.Builder
	for i, at := range outline(st.Path) {
		b.WriteString(map[bool]string{true: "M", false: "L"}[i == 0] + n(p.x(at.X)) + " " + n(p.y(at.Y)))
	}
	if w := 2 * st.Limits.Cross * p.scale; w > 0 {
		s.add(`<path class="corridor edge" d="%s" stroke-width="%s"/><path class="corridor" d="%s" stroke-width="%s"/>`,
			b.String(), n(w+3), b.String(), n(w))
	}
	s.add(`<path class="figure" d="%s"/>`, b.String())
	if st.Path.Shape == drill.Orbit {
		x, y := p.x(st.Path.Centre.X), p.y(st.Path.Centre.Y)
		s.add(`<path class="subject" d="M%s %sh9v9h-9Z"/>`, n(x-4.5), n(y-4.5))
		s.text(x, y+20, "small", "middle", "subject")
	}
	// Which way it is flown; the first arrow is a full one.
	for i, share := range []float64{0.05, 0.3, 0.55, 0.8} {
		at, course := st.Path.At(share * st.Path.Length)
		s.add(`<path class="way%s" transform="translate(%s %s) rotate(%s)" d="M0 -6L5 5H-5Z"/>`,
			map[bool]string{true: " first"}[i == 0], n(p.x(at.X)), n(p.y(at.Y)), n(course.Deg()))
	}
}

// order writes beside each place of a way when it comes.
func (s *svg) order(f Flight, p plan) {
	at := map[field.Point][]string{}
	var places []field.Point
	k := 0
	for _, st := range f.Task.Steps {
		if st.Kind != drill.GoTo {
			continue
		}
		k++
		if at[st.At] == nil {
			places = append(places, st.At)
		}
		at[st.At] = append(at[st.At], fmt.Sprint(k))
	}
	for _, place := range places {
		y := p.y(place.Y) + 5
		if f.pad(place) {
			y -= 12 // clear of the cross
		}
		s.text(p.x(place.X), y, "small", "middle", strings.Join(at[place], " · "))
	}
}

// pad says whether a landing is marked with its cross at a place.
func (f Flight) pad(at field.Point) bool {
	return slices.ContainsFunc(f.Task.Steps, func(st drill.Target) bool { return st.At == at && st.Limits.Offset > 0 })
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
	s.add(`<a href="#fault-%d" class="fault-mark" data-fault="%d"><title>%s</title>`+
		`<path d="M%s %sl11 11l-11 11l-11 -11Z"/><text x="%s" y="%s" text-anchor="middle">%d</text></a>`,
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

const (
	timeWidth = 1180.0
	timeLeft  = 52.0
)
