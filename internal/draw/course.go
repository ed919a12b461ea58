package draw

import (
	"fmt"
	"html"
	"html/template"
	"math"
	"slices"
	"strings"

	"maestrale/core/course"
	"maestrale/core/field"
)

// Spans are the widths in metres that a course is drawn at.
var Spans = []int{20, 30, 40, 60, 80, 160, 320}

const (
	courseWide = 760.0
	courseHigh = 590.0
	footRoom   = 76.0 // under the pilot
)

// SpanFor is the smallest span that shows every marker and drill with room
// round them.
func SpanFor(c *course.Course, list []course.Envelope) int {
	need := 8.0
	far := func(p field.Point, r float64) {
		d := p.Sub(c.Station)
		need = math.Max(need, 2*(math.Abs(d.X)+r))
		need = math.Max(need, (d.Y+r)*courseWide/(courseHigh-footRoom))
	}
	for _, p := range c.Markers {
		far(p, 1)
	}
	for _, e := range list {
		for _, p := range e.Path {
			if !e.Far {
				far(p, e.RadiusM)
			}
		}
	}
	for _, s := range Spans {
		if float64(s) >= 1.12*need {
			return s
		}
	}
	return Spans[len(Spans)-1]
}

// courseDrawing is a drawing of a course: the pilot at the bottom, looking up.
type courseDrawing struct {
	svg
	c    *course.Course
	k    float64 // drawing units to a metre
	grab bool
}

func (p *courseDrawing) xy(at field.Point) (x, y float64) {
	d := at.Sub(p.c.Station)
	return courseWide/2 + d.X*p.k, courseHigh - footRoom - d.Y*p.k
}

// Course draws a course with its drills, hazards, sun and wind. With grab every
// thing on it can be taken by hand or key.
func Course(c *course.Course, s course.Survey, a course.Ask, span int, grab bool) template.HTML {
	p := &courseDrawing{c: c, k: courseWide / float64(span), grab: grab}
	ox, oy := p.xy(field.Point{})
	fmt.Fprintf(&p.b, `<svg class="course-plan" viewBox="0 0 %s %s" role="group" aria-label="plan of the course, `+
		`the pilot at the bottom" data-k="%.5f" data-ox="%.3f" data-oy="%.3f">`, n(courseWide), n(courseHigh), p.k, ox, oy)
	p.grid(span)
	p.glare(s.Glare)
	p.ways(s)
	for i, h := range c.Hazards {
		if h.Closed {
			p.hazard(i, h)
		}
	}
	p.drills(a.Envelopes)
	p.told(a)
	p.fall(s)
	for i, h := range c.Hazards {
		if !h.Closed {
			p.hazard(i, h)
		}
	}
	p.people(a)
	p.crowd()
	p.warnings(s.Clearances)
	p.turnAway(s)
	p.markers()
	p.station()
	p.corners(a, span)
	return p.done()
}

func (p *courseDrawing) grid(span int) {
	step := map[bool]float64{true: 5, false: 10}[span <= 40]
	if span > 80 {
		step = float64(span) / 8
	}
	half := courseWide / 2 / p.k
	for v := -math.Floor(half/step) * step; v <= half; v += step {
		x := courseWide/2 + v*p.k
		p.line(x, 0, x, courseHigh, "grid-line")
	}
	for v := -math.Floor(footRoom/p.k/step) * step; v*p.k < courseHigh-footRoom; v += step {
		y := courseHigh - footRoom - v*p.k
		p.line(0, y, courseWide, y, "grid-line")
		if v > 0 {
			p.text(6, y-3, "small", "start", fmt.Sprintf("%s m", n(v)))
		}
	}
}

// wedge is the path of a sector from a place.
func (p *courseDrawing) wedge(at field.Point, from, to field.Angle, r float64) string {
	x, y := p.xy(at)
	var b strings.Builder
	fmt.Fprintf(&b, "M%s %s", n(x), n(y))
	width := (to - from).Compass()
	for i := 0; i <= 12; i++ {
		a := float64(from) + width*math.Pi/180*float64(i)/12
		fmt.Fprintf(&b, "L%s %s", n(x+r*math.Sin(a)), n(y-r*math.Cos(a)))
	}
	return b.String() + "Z"
}

func (p *courseDrawing) glare(g *course.Glare) {
	if g == nil || !g.Any {
		return
	}
	p.add(`<path class="glare-sector" d="%s"><title>sun in the eyes during the session</title></path>`,
		p.wedge(p.c.Station, g.From, g.To, 1200))
	mid := g.From + (g.To-g.From).Wrap()/2
	if (g.To-g.From).Compass() < 180 && math.Abs(mid.Wrap().Deg()) < 85 {
		x, y := p.xy(p.c.Station)
		r := 0.66 * courseHigh // beyond the drills
		p.text(x+r*math.Sin(float64(mid)), y-r*math.Cos(float64(mid)), "small on-glare", "middle", msgSunEyes)
	}
}

// ways draws the return sector from home.
func (p *courseDrawing) ways(s course.Survey) {
	if s.Return.ReachM == 0 {
		return
	}
	p.add(`<path class="return-sector" d="%s"><title>return sector</title></path>`,
		p.wedge(s.HomeAt, s.Return.FromTo[0]-field.Degrees(4), s.Return.FromTo[1]+field.Degrees(4), s.Return.ReachM*p.k))
}

func (p *courseDrawing) points(at []field.Point) string {
	var b strings.Builder
	for i, q := range at {
		x, y := p.xy(q)
		fmt.Fprintf(&b, "%s%s %s", map[bool]string{true: "M", false: "L"}[i == 0], n(x), n(y))
	}
	return b.String()
}

func (p *courseDrawing) fall(s course.Survey) {
	if len(s.Fall) == 0 {
		return
	}
	at := make([]field.Point, len(s.Fall))
	for i, o := range s.Fall {
		at[i] = field.Point{X: s.FallAt.X + o.X, Y: s.FallAt.Y + o.Y}
	}
	p.add(`<path class="fall-area" d="%sZ"><title>where it could fall, up to %.1f m</title></path>`, p.points(at),
		s.FallM)
}

// drills draws the room that all drills together take.
func (p *courseDrawing) drills(list []course.Envelope) {
	type ring struct {
		at field.Point
		r  float64
	}
	drawn := map[ring]bool{}
	var rings []ring
	for _, e := range list {
		for _, q := range e.Path {
			if k := (ring{q, e.RadiusM}); !drawn[k] && e.RadiusM > 0 && !e.Far {
				drawn[k] = true
				rings = append(rings, k)
			}
		}
	}
	// Their edges first and their grounds over them: one outline round all of them.
	for _, class := range []string{"room-edge", "room"} {
		for _, k := range rings {
			x, y := p.xy(k.at)
			p.circle(x, y, k.r*p.k, class)
		}
	}
}

func (p *courseDrawing) open(what, label string, at field.Point) {
	if !p.grab {
		p.add(`<g aria-label="%s" role="img">`, html.EscapeString(label))
		return
	}
	p.add(`<g class="grab" tabindex="0" role="button" data-what="%s" data-x="%.3f" data-y="%.3f" aria-label="%s, `+
		`move with the arrow keys">`, html.EscapeString(what), at.X, at.Y, html.EscapeString(label))
}

func placeWords(c *course.Course, at field.Point) string {
	d := at.Sub(c.Station)
	side := "right"
	if d.X < 0 {
		side = "left"
	}
	way := "away"
	if d.Y < 0 {
		way = "behind"
	}
	return fmt.Sprintf("%.1f m %s, %.1f m %s", math.Abs(d.X), side, math.Abs(d.Y), way)
}

func (p *courseDrawing) hazard(i int, h course.Hazard) {
	class := "hz hz-" + h.Kind
	end := ""
	if h.Closed {
		end = "Z"
	}
	if len(h.At) > 1 {
		p.add(`<path class="%s%s" d="%s%s"/>`, class, map[bool]string{true: " ring-area", false: ""}[h.Closed],
			p.points(h.At), end)
	}
	says := h.Words()
	if h.HeightM > 0 {
		says += fmt.Sprintf(" %s m", n(h.HeightM))
	}
	for j, q := range h.At {
		x, y := p.xy(q)
		if x < -20 || x > courseWide+20 || y < -20 || y > courseHigh+20 {
			continue
		}
		p.open(fmt.Sprintf("hazard:%d:%d", i, j), fmt.Sprintf("%s, %s", says, placeWords(p.c, q)), q)
		switch {
		case len(h.At) > 1:
			p.circle(x, y, 5, class+" hz-point")
		case h.Kind == "tree":
			p.circle(x, y, math.Max(7, 0.2*h.HeightM*p.k), class)
		case h.IsPeople():
			p.add(`<path class="%s" d="M%s %sm-9 9q9 -14 18 0zm9 -14m-4 0a4 4 0 1 0 8 0a4 4 0 1 0 -8 0"/>`, class, n(x), n(y))
		default:
			p.add(`<path class="%s" d="M%s %sm-6 -6h12v12h-12z"/>`, class, n(x), n(y))
		}
		p.add(`<circle class="hit" cx="%s" cy="%s" r="16"/></g>`, n(x), n(y))
	}
	inside := func(q field.Point) bool {
		x, y := p.xy(q)
		return x > 4 && x < courseWide-4 && y > 24 && y < courseHigh-30
	}
	if q, ok := h.NamedAt(inside, p.c.Station); ok {
		x, y := p.xy(q)
		dx, anchor := 9.0, "start"
		if x > courseWide-150 {
			dx, anchor = -9, "end"
		}
		p.text(x+dx, y-9, "small", anchor, strings.TrimPrefix(says, "the "))
	}
}

// people draws how far the drills stay from people: rings round those of the flight, a band along the crowd line.
func (p *courseDrawing) people(a course.Ask) {
	crew, crowd := course.CrewM(a.Craft.Class()), course.BystandersM(a.Craft.Class())
	ring := func(at field.Point, r float64, says string) {
		x, y := p.xy(at)
		p.add(`<circle class="keep-off" cx="%s" cy="%s" r="%s"><title>%s</title></circle>`, n(x), n(y), n(r*p.k), says)
	}
	ring(p.c.Station, crew, fmt.Sprintf(msgEveryDrillStays, n(crew)))
	for _, h := range p.c.Hazards {
		switch {
		case h.IsCrew() && len(h.At) == 1:
			ring(h.At[0], crew, fmt.Sprintf(msgEveryDrillStaysFrom, n(crew), html.EscapeString(h.Words())))
		case h.IsPeople() && len(h.At) == 1:
			ring(h.At[0], crowd, fmt.Sprintf(msgEveryDrillStaysFromOr, n(crowd),
				html.EscapeString(h.Words())))
		}
	}
	for _, l := range p.c.Crowd {
		p.add(`<path class="keep-off-band" d="%s" stroke-width="%s"><title>every drill stays %s m from the crowd line, or `+
			`farther</title></path>`, p.points(l), n(2*crowd*p.k), n(crowd))
	}
}

func (p *courseDrawing) crowd() {
	for i, l := range p.c.Crowd {
		p.add(`<path class="crowd-line" d="%s"/>`, p.points(l))
		for j, q := range l {
			x, y := p.xy(q)
			p.open(fmt.Sprintf("crowd:%d:%d", i, j), fmt.Sprintf(msgEndCrowdLine, placeWords(p.c, q)), q)
			p.circle(x, y, 5, "crowd-end")
			p.add(`<circle class="hit" cx="%s" cy="%s" r="16"/></g>`, n(x), n(y))
		}
		if len(l) > 0 {
			x, y := p.xy(l[len(l)/2])
			p.text(math.Min(x, courseWide-8), y+16, "small", "end", "crowd line")
		}
	}
}

// warnings draws, for every hazard that a drill comes too near to, a line to it.
func (p *courseDrawing) warnings(list []course.Clearance) {
	drawn := map[int]bool{}
	for _, k := range list {
		if !k.Warn() || drawn[k.Hazard] {
			continue
		}
		drawn[k.Hazard] = true
		x, y := p.xy(k.At)
		x, y = math.Max(14, math.Min(courseWide-14, x)), math.Max(14, math.Min(courseHigh-14, y))
		p.add(`<g class="warn"><title>%s</title><path d="M%s %sm0 -13l12 21h-24z"/>`, html.EscapeString(k.Says()), n(x),
			n(y))
		p.text(x, y+5, "warn-sign", "middle", "!")
		p.add(`</g>`)
		p.text(x+15, y+5, "warn-word", "start", fmt.Sprintf("%.1f m short", -k.LeftM))
	}
}

func (p *courseDrawing) turnAway(s course.Survey) {
	if !s.HasPeople {
		return
	}
	at, ok := p.c.Markers["centre"]
	if !ok {
		at = s.FallAt
	}
	x, y := p.xy(at)
	p.add(`<path class="turn-away" transform="translate(%s %s) rotate(%s)" d="M0 -18V-44M-6 -36L0 -45L6 -36">`+
		`<title>turn away from the people: %s</title></path>`, n(x), n(y), n(s.Away.Deg()), s.AwayWord)
}

func (p *courseDrawing) markers() {
	names := p.c.MarkerNames()
	at := map[field.Point][]string{}
	for _, name := range names {
		at[p.c.Markers[name]] = append(at[p.c.Markers[name]], name)
	}
	for _, name := range names {
		q := p.c.Markers[name]
		x, y := p.xy(q)
		p.open("marker:"+name, "marker "+name+", "+placeWords(p.c, q), q)
		switch {
		case name == "pad" || strings.HasPrefix(name, "pad-"):
			p.add(`<path class="mark mark-pad" d="M%s %sm-8 0a8 8 0 1 0 16 0a8 8 0 1 0 -16 0M%s %sh8M%s %sv8"/>`, n(x), n(y),
				n(x-4), n(y), n(x), n(y-4))
		default:
			p.add(`<path class="mark" d="M%s %sl6 7l-6 7l-6 -7z"/>`, n(x), n(y-7))
		}
		p.add(`<circle class="hit" cx="%s" cy="%s" r="16"/></g>`, n(x), n(y))
	}
	// Their names, where none covers another.
	x, y := p.xy(p.c.Station)
	list, words := []course.Label{{X: x, Y: y}}, []string{""}
	for _, name := range names {
		if all := at[p.c.Markers[name]]; all[0] == name {
			x, y := p.xy(p.c.Markers[name])
			word := strings.Join(all, ", ")
			list, words = append(list, course.Label{X: x, Y: y, Wide: letterWide * float64(len([]rune(word))),
				High: letterHigh}), append(words, word)
		}
	}
	for i, at := range course.PlaceLabels(list, 11, 0, courseWide) {
		if words[i] != "" {
			p.text(at[0], at[1]+0.3*letterHigh, "small", "start", words[i])
		}
	}
}

const (
	letterWide = 7.2  // of a small letter, at most in the mean
	letterHigh = 15.0 // of a line of them
)

func (p *courseDrawing) station() {
	x, y := p.xy(p.c.Station)
	p.open("station", msgPilotStation, p.c.Station)
	p.pilot(x, y)
	p.add(`<circle class="hit" cx="%s" cy="%s" r="18"/></g>`, n(x), n(y))
}

// told draws how far the nose is told, as an arc round the station.
func (p *courseDrawing) told(a course.Ask) {
	if a.TellM <= 0 {
		return
	}
	x, y := p.xy(p.c.Station)
	r := a.TellM * p.k
	if r > courseHigh {
		return // beyond the drawing
	}
	p.add(`<path class="told-arc" d="M%s %sA%s %s 0 0 1 %s %s"/>`, n(x-r), n(y), n(r), n(r), n(x+r), n(y))
	p.text(math.Max(6, x-r+4), y+17, "small", "start", fmt.Sprintf(msgNoseTailTold,
		math.Floor(a.TellM)))
}

// corners draws what stands in the corners: wind, north, scale.
func (p *courseDrawing) corners(a course.Ask, span int) {
	p.rect(courseWide-196, 6, 190, 78, "corner-ground", "")
	if a.WindKnown {
		p.add(`<g class="corner" transform="translate(%s 46)"><g transform="rotate(%s)"><path class="streak" `+
			`d="M0 26V-26M-9 -13L0 -26L9 -13"/><path class="streak faint" d="M-15 22V-4M15 22V-4"/></g>`+
			`</g>`, n(courseWide-46), n((a.WindFrom + math.Pi).Deg()))
		p.text(courseWide-84, 38, "", "end", fmt.Sprintf("%.1f m/s", a.WindMps))
		p.text(courseWide-84, 62, "small", "end", "wind from "+WindWords(a.WindFrom.Compass()))
	} else {
		p.text(courseWide-14, 28, "small", "end", msgNoWindFresh)
	}
	if p.c.Plane != nil {
		p.add(`<g class="corner" transform="translate(40 46) rotate(%s)"><path class="north" `+
			`d="M0 20V-20M-6 -10L0 -21L6 -10"/></g>`, n(-p.c.Plane.AwayDeg()))
		p.text(62, 50, "small", "start", "north")
	}
	bar := slices.Max([]float64{1, math.Pow(10, math.Floor(math.Log10(float64(span)/4)))})
	if 5*bar < float64(span)/3 {
		bar *= 5
	}
	y := courseHigh - 16
	p.rect(6, y-14, 44+bar*p.k, 26, "corner-ground", "")
	p.add(`<path class="scale" d="M14 %sv6h%sv-6"/>`, n(y-6), n(bar*p.k))
	p.text(20+bar*p.k, y, "small", "start", n(bar)+" m")
}
