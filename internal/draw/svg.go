// Package draw makes the signature drawings as SVG: the aspect ring, the
// ladder and the limit drawing. The pilot is always at the bottom and looks up
// the screen. Colours come from classes, so that every theme and a greyscale
// print work.
package draw

import (
	"fmt"
	"html"
	"html/template"
	"math"
	"strings"
)

// svg collects the elements of a drawing.
type svg struct{ b strings.Builder }

func (s *svg) open(w, h float64, class, label string) { s.begin(w, h, class, "img", label) }

// openLinked opens a drawing that holds links, which a plain picture may not.
func (s *svg) openLinked(w, h float64, class, label string) { s.begin(w, h, class, "group", label) }

func (s *svg) begin(w, h float64, class, role, label string) {
	fmt.Fprintf(&s.b, `<svg class="%s" viewBox="0 0 %s %s" role="%s" aria-label="%s">`, class, n(w), n(h), role,
		html.EscapeString(label))
}

func (s *svg) done() template.HTML {
	s.b.WriteString("</svg>")
	return template.HTML(s.b.String()) // every text in it was escaped
}

// add writes an element; %t marks a text that is escaped, numbers go by n.
func (s *svg) add(format string, args ...any) { fmt.Fprintf(&s.b, format, args...) }

func (s *svg) text(x, y float64, class, anchor, t string) {
	s.add(`<text x="%s" y="%s" class="%s" text-anchor="%s">%s</text>`, n(x), n(y), class, anchor, html.EscapeString(t))
}

func (s *svg) line(x1, y1, x2, y2 float64, class string) {
	s.add(`<path class="%s" d="M%s %sL%s %s"/>`, class, n(x1), n(y1), n(x2), n(y2))
}

func (s *svg) circle(x, y, r float64, class string) {
	s.add(`<circle class="%s" cx="%s" cy="%s" r="%s"/>`, class, n(x), n(y), n(r))
}

func (s *svg) rect(x, y, w, h float64, class, title string) {
	s.add(`<rect class="%s" x="%s" y="%s" width="%s" height="%s">%s</rect>`, class, n(x), n(y), n(w), n(h), titled(title))
}

func titled(t string) string {
	if t == "" {
		return ""
	}
	return "<title>" + html.EscapeString(t) + "</title>"
}

// n writes a number for a drawing, to a tenth.
func n(v float64) string {
	s := fmt.Sprintf("%.1f", v)
	if s = strings.TrimSuffix(s, ".0"); s == "-0" {
		return "0"
	}
	return s
}

// pilot draws the pilot, who looks up the screen.
func (s *svg) pilot(x, y float64) {
	s.add(`<g class="pilot" transform="translate(%s %s)"><circle cy="-10" r="5"/><path d="M-12 8Q0 -8 12 8Z"/></g>`, n(x),
		n(y))
}

// Hatch is the pattern for what has lapsed; a page holds it once.
const Hatch template.HTML = `<svg class="defs" width="0" height="0" aria-hidden="true"><defs><pattern id="hatch" ` +
	`width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect class="hatch-ground" ` +
	`width="6" height="6"/><rect class="hatch-line" width="2" height="6"/></pattern></defs></svg>`

// Wind draws where the wind blows, as three streaks with the pilot at the
// bottom: fromDeg is the field heading from which it comes.
func Wind(fromDeg float64, known bool) template.HTML {
	if !known {
		return ""
	}
	var s svg
	s.add(`<svg class="streaks" viewBox="-17 -17 34 34" width="34" height="34" role="img" aria-label="wind from %s">`+
		`<g transform="rotate(%s)">`, WindWords(fromDeg), n(math.Mod(fromDeg+180, 360)))
	s.add(`<path class="streak" d="M0 13V-13M-5 -6L0 -13L5 -6"/><path class="streak faint" d="M-8 12V0M8 12V0"/></g>` +
		`</svg>`)
	return template.HTML(s.b.String())
}

// WindWords says where a wind comes from, as the pilot stands.
func WindWords(fromDeg float64) string {
	names := []string{"ahead", "ahead right", "the right", "behind right", "behind", "behind left", "the left",
		"ahead left"}
	i := int(math.Floor(math.Mod(math.Mod(fromDeg, 360)+360, 360)/45+0.5)) % 8
	return names[i]
}
