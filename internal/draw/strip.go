package draw

import (
	"fmt"
	"html"
	"html/template"
	"math"
	"time"
)

// Strip is the field day as lanes: the boxes with who flies in them, and under them the
// packs, which empty in a flight, cool, and fill again on a charger.
type Strip struct {
	From, To, Now time.Time
	Boxes         [][]StripFlight
	Packs         []StripPack
	Wind          []StripWind
}

// StripFlight is a flight in its box; Index is its place in the plan, −1 for one that
// has begun.
type StripFlight struct {
	Start, End   time.Time
	Who, Craft   string
	State        string // landed, aloft, planned, late or void
	Index, Box   int
	Says, Href   string
	Student, Key string
}

// StripPack is a pack's lane.
type StripPack struct {
	Name, Type string
	FullAtFrom bool // full when the strip begins
	Spans      []StripSpan
}

// StripSpan is what a pack does for a while: flight, cooling or charging; planned or
// done.
type StripSpan struct {
	Start, End time.Time
	Kind       string
	Planned    bool
	Says       string
}

// StripWind is the mean wind that is expected from a moment on.
type StripWind struct {
	From time.Time
	Mps  float64
}

const (
	stripLeft  = 112.0
	stripWide  = 1080.0
	boxHigh    = 46.0
	packHigh   = 15.0
	stripTop   = 30.0
	stripInner = stripWide - stripLeft - 12
)

func (s Strip) x(t time.Time) float64 {
	span := s.To.Sub(s.From).Seconds()
	u := t.Sub(s.From).Seconds() / span
	return stripLeft + stripInner*min(1, max(0, u))
}

// PerMinute is how far a minute is on the drawing.
func (s Strip) PerMinute() float64 { return stripInner / s.To.Sub(s.From).Minutes() }

// DayStrip draws the strip.
func DayStrip(m Strip) template.HTML {
	var s svg
	packs := stripTop + boxHigh*float64(len(m.Boxes)) + 26
	high := packs + packHigh*float64(len(m.Packs)) + 10
	s.begin(stripWide, high, "day-strip", "group", msgDayBoxesPacks)
	m.hours(&s, high)
	for _, w := range m.Wind {
		if w.From.Before(m.From) {
			w.From = m.From
		}
		s.text(m.x(w.From)+3, packs-9, "small soft", "start", fmt.Sprintf("wind %.0f m/s", w.Mps))
		s.line(m.x(w.From), packs-22, m.x(w.From), packs-6, "wind-from")
	}
	for i, list := range m.Boxes {
		y := stripTop + boxHigh*float64(i)
		s.text(8, y+26, "lane", "start", fmt.Sprintf("box %d", i+1))
		s.line(stripLeft, y+boxHigh-3, stripWide-12, y+boxHigh-3, "lane-line")
		for _, f := range list {
			m.flight(&s, f, y)
		}
	}
	last := ""
	for i, p := range m.Packs {
		y := packs + packHigh*float64(i)
		name := p.Name
		if p.Type != last {
			name = p.Name + " · " + p.Type
		}
		last = p.Type
		s.text(8, y+11, "small", "start", name)
		m.pack(&s, p, y)
	}
	if !m.Now.Before(m.From) && !m.Now.After(m.To) {
		x := m.x(m.Now)
		s.line(x, stripTop-8, x, high-6, "now")
		s.text(x, stripTop-12, "now-word", "middle", "now "+m.Now.Format("15:04"))
	}
	return s.done()
}

// hours marks every half hour.
func (m Strip) hours(s *svg, high float64) {
	for t := m.From.Truncate(30 * time.Minute); !t.After(m.To); t = t.Add(30 * time.Minute) {
		if t.Before(m.From) {
			continue
		}
		x := m.x(t)
		s.line(x, stripTop-4, x, high-6, "hour")
		if (math.Abs(x-m.x(m.Now)) > 40 || m.Now.After(m.To)) && x < stripWide-24 {
			s.text(x, 10, "small soft", "middle", t.Format("15:04"))
		}
	}
}

func (m Strip) flight(s *svg, f StripFlight, y float64) {
	x, w := m.x(f.Start), max(3, m.x(f.End)-m.x(f.Start))
	if f.Index >= 0 {
		// Moved with the arrow keys, it is a slider along the day.
		s.add(`<g class="flight %s" data-flight="%d" data-key="%s" tabindex="0" role="slider" aria-label="%s" `+
			`aria-valuemin="0" aria-valuemax="%d" aria-valuenow="%d" `+
			`aria-valuetext="%s">`, f.State, f.Index, html.EscapeString(f.Key),
			html.EscapeString(f.Who), int(m.To.Sub(m.From).Minutes()), int(f.Start.Sub(m.From).Minutes()),
			html.EscapeString(f.Says))
	} else {
		s.add(`<g class="flight %s" role="img" aria-label="%s">`, f.State, html.EscapeString(f.Says))
	}
	s.rect(x, y+2, w, boxHigh-9, "", "")
	clip := int(w / 6.6)
	s.add(`<g aria-hidden="true">`)
	s.text(x+3, y+17, "who", "start", cutTo(f.Who, clip))
	s.text(x+3, y+32, "small", "start", cutTo(f.Craft, clip))
	s.add(`</g></g>`)
}

func cutTo(t string, letters int) string {
	r := []rune(t)
	if letters <= 1 {
		return ""
	}
	if len(r) <= letters {
		return t
	}
	return string(r[:letters-1]) + "…"
}

// pack draws a lane: what is full is filled, a flight runs down, a charge runs up.
func (m Strip) pack(s *svg, p StripPack, y float64) {
	at, full := m.From, p.FullAtFrom
	fill := func(to time.Time) {
		if full && to.After(at) {
			s.rect(m.x(at), y+2, m.x(to)-m.x(at), packHigh-5, "pack-full", "")
		}
	}
	for _, span := range p.Spans {
		if span.End.Before(m.From) || span.Start.After(m.To) {
			full = span.Kind == "charging"
			continue
		}
		fill(span.Start)
		x1, x2, top, bottom := m.x(span.Start), m.x(span.End), y+2, y+packHigh-3
		class := "pack-" + span.Kind
		if span.Planned {
			class += " planned"
		}
		shape := fmt.Sprintf("M%s %sL%s %sL%s %sZ", n(x1), n(top), n(x2), n(bottom), n(x1), n(bottom))
		if span.Kind == "charging" {
			shape = fmt.Sprintf("M%s %sL%s %sL%s %sZ", n(x1), n(bottom), n(x2), n(top), n(x2), n(bottom))
		} else if span.Kind == "cooling" {
			shape = fmt.Sprintf("M%s %sH%s", n(x1), n(bottom-1), n(x2))
		}
		s.add(`<path class="%s" d="%s">%s</path>`, class, shape, titled(span.Says))
		at, full = span.End, span.Kind == "charging"
	}
	fill(m.To)
}
