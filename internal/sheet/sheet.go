// Package sheet prints a course on one page of A4, to scale, for the field.
package sheet

import (
	"bytes"
	"fmt"
	"math"
	"strings"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"maestrale/core/course"
	"maestrale/core/field"
)

// Page is what a sheet says.
type Page struct {
	School, Site, Name, Date, Session, Craft string
	Notes, Wind, Sun, Return, Advice         string
	Warnings                                 []string
	Course                                   *course.Course
	Survey                                   course.Survey
	Ask                                      course.Ask
	PaceM                                    float64
}

// The plan's place on the page, in millimetres.
const (
	left, top   = 12.0, 34.0
	wide, high  = 186.0, 138.0
	underPilot  = 14.0
	pageWide    = 210.0
	tableTop    = top + high + 6
	smallLetter = 8.0
)

// font is compiled in, so that every name prints as it is written.
const font = "Go"

// scales are the scales that a plan is printed at, as metres to a metre of paper.
var scales = []float64{50, 100, 200, 250, 500, 1000, 2000, 5000}

// Scale is the largest scale at which the markers and drills fit the sheet.
func Scale(c *course.Course, list []course.Envelope) float64 {
	need := 0.0 // metres of paper to a metre of field, inverted
	far := func(p field.Point, r float64) {
		d := p.Sub(c.Station)
		need = math.Max(need, (math.Abs(d.X)+r)/(wide/2/1000))
		need = math.Max(need, (d.Y+r)/((high-underPilot)/1000))
	}
	for _, p := range c.Markers {
		far(p, 1)
	}
	for _, e := range list {
		for _, p := range e.Path {
			far(p, e.RadiusM)
		}
	}
	for _, s := range scales {
		if s >= 1.15*need {
			return s
		}
	}
	return scales[len(scales)-1]
}

type sheet struct {
	*fpdf.Fpdf
	p     Page
	scale float64
}

func (s *sheet) xy(at field.Point) (x, y float64) {
	d := at.Sub(s.p.Course.Station)
	return left + wide/2 + d.X*1000/s.scale, top + high - underPilot - d.Y*1000/s.scale
}

// onPlan is whether a name beginning at a place can be read on the plan.
func (s *sheet) onPlan(at field.Point) bool {
	x, y := s.xy(at)
	return x > left+2 && x < left+wide-2 && y > top+6 && y < top+high-6
}

func (s *sheet) say(x, y float64, style string, size float64, text string) {
	s.SetFont(font, style, size)
	s.Text(x, y, text)
}

// Course prints the sheet as PDF.
func Course(p Page) ([]byte, error) {
	pdf := fpdf.New("P", "mm", "A4", "")
	pdf.SetAutoPageBreak(false, 0)
	pdf.SetTitle(p.Name, true)
	pdf.SetCreator("Maestrale", true)
	pdf.AddUTF8FontFromBytes(font, "", goregular.TTF)
	pdf.AddUTF8FontFromBytes(font, "B", gobold.TTF)
	pdf.AddPage()
	s := &sheet{Fpdf: pdf, p: p, scale: Scale(p.Course, p.Ask.Envelopes)}
	s.say(left, 16, "B", 17, p.Name)
	s.say(left, 22, "", 10, strings.Join([]string{p.Site, p.School}, ", "))
	s.say(left, 27, "", 10, fmt.Sprintf("%s, %s · %s", p.Date, p.Session, p.Craft))
	scale := fmt.Sprintf("scale 1 : %.0f", s.scale)
	s.SetFont(font, "B", 11)
	s.say(pageWide-left-s.GetStringWidth(scale), 16, "B", 11, scale)
	s.plan()
	s.tables()
	var out bytes.Buffer
	if err := pdf.Output(&out); err != nil {
		return nil, fmt.Errorf("print the sheet: %w", err)
	}
	return out.Bytes(), nil
}

func (s *sheet) plan() {
	s.SetDrawColor(120, 130, 125)
	s.SetLineWidth(0.2)
	s.Rect(left, top, wide, high, "D")
	s.ClipRect(left, top, wide, high, false)
	s.SetDrawColor(222, 226, 222)
	step := 5.0
	if s.scale >= 500 {
		step = s.scale / 50
	}
	for v := -60 * step; v <= 60*step; v += step {
		x, y := s.xy(field.Point{X: s.p.Course.Station.X + v, Y: s.p.Course.Station.Y + v})
		s.Line(x, top, x, top+high)
		s.Line(left, y, left+wide, y)
	}
	s.sun()
	s.drills()
	s.hazards()
	s.marks()
	s.ClipEnd()
	// North, wind and a bar to measure by.
	if pl := s.p.Course.Plane; pl != nil {
		s.arrow(left+12, top+14, -pl.AwayDeg(), 8)
		s.say(left+17, top+15, "", smallLetter, "north")
	}
	if s.p.Ask.WindKnown {
		s.arrow(left+wide-12, top+14, (s.p.Ask.WindFrom + math.Pi).Deg(), 8)
		s.say(left+wide-38, top+15, "", smallLetter, fmt.Sprintf("wind %.1f m/s", s.p.Ask.WindMps))
	}
	bar := step * 2
	s.SetDrawColor(0, 0, 0)
	s.SetLineWidth(0.5)
	s.Line(left+4, top+high-4, left+4+bar*1000/s.scale, top+high-4)
	s.say(left+6+bar*1000/s.scale, top+high-3, "", smallLetter, fmt.Sprintf("%.0f m", bar))
}

func (s *sheet) arrow(x, y, deg, length float64) {
	s.SetDrawColor(0, 0, 0)
	s.SetLineWidth(0.5)
	sin, cos := math.Sincos(deg * math.Pi / 180)
	tipX, tipY := x+length*sin, y-length*cos
	s.Line(x-length*sin, y+length*cos, tipX, tipY)
	for _, turn := range []float64{2.6, -2.6} {
		a := deg*math.Pi/180 + turn
		s.Line(tipX, tipY, tipX+2.6*math.Sin(a), tipY-2.6*math.Cos(a))
	}
}

func (s *sheet) sun() {
	g := s.p.Survey.Glare
	if g == nil || !g.Any {
		return
	}
	s.SetFillColor(246, 236, 205)
	x, y := s.xy(s.p.Course.Station)
	pts := []fpdf.PointType{{X: x, Y: y}}
	width := (g.To - g.From).Compass() * math.Pi / 180
	for i := range 13 {
		a := float64(g.From) + width*float64(i)/12
		pts = append(pts, fpdf.PointType{X: x + 400*math.Sin(a), Y: y - 400*math.Cos(a)})
	}
	s.Polygon(pts, "F")
}

func (s *sheet) drills() {
	s.SetDrawColor(28, 106, 102)
	s.SetLineWidth(0.25)
	for _, e := range s.p.Ask.Envelopes {
		for _, q := range e.Path {
			if e.RadiusM > 0 {
				x, y := s.xy(q)
				s.Circle(x, y, e.RadiusM*1000/s.scale, "D")
			}
		}
	}
	s.SetDashPattern([]float64{1.5, 1.2}, 0)
	s.SetDrawColor(161, 58, 30)
	var outline []fpdf.PointType
	for _, o := range s.p.Survey.Fall {
		x, y := s.xy(field.Point{X: s.p.Survey.FallAt.X + o.X, Y: s.p.Survey.FallAt.Y + o.Y})
		outline = append(outline, fpdf.PointType{X: x, Y: y})
	}
	if len(outline) > 2 {
		s.Polygon(outline, "D")
	}
	s.SetDashPattern([]float64{}, 0)
}

func (s *sheet) hazards() {
	s.SetDrawColor(30, 30, 30)
	for _, h := range s.p.Course.Hazards {
		s.SetLineWidth(0.5)
		for i := range h.At {
			x, y := s.xy(h.At[i])
			if len(h.At) == 1 {
				s.Circle(x, y, math.Max(1.4, 0.2*h.HeightM*1000/s.scale), "D")
			}
			if i > 0 || (h.Closed && len(h.At) > 2) {
				px, py := s.xy(h.At[(i+len(h.At)-1)%len(h.At)])
				s.Line(px, py, x, y)
			}
		}
		if q, ok := h.NamedAt(s.onPlan, s.p.Course.Station); ok {
			x, y := s.xy(q)
			word := strings.TrimPrefix(h.Words(), "the ")
			if h.HeightM > 0 {
				word += fmt.Sprintf(" %.0f m", h.HeightM)
			}
			s.SetFont(font, "", smallLetter)
			s.say(math.Min(x+2, left+wide-2-s.GetStringWidth(word)), y-2, "", smallLetter, word)
		}
	}
	s.SetLineWidth(1)
	s.SetDashPattern([]float64{3, 1.5}, 0)
	for _, l := range s.p.Course.Crowd {
		for i := 1; i < len(l); i++ {
			x0, y0 := s.xy(l[i-1])
			x1, y1 := s.xy(l[i])
			s.Line(x0, y0, x1, y1)
		}
		x, y := s.xy(l[0])
		s.say(math.Max(left+2, x), y+4, "", smallLetter, "crowd line")
	}
	s.SetDashPattern([]float64{}, 0)
}

func (s *sheet) marks() {
	s.SetDrawColor(0, 0, 0)
	s.SetFillColor(0, 0, 0)
	s.SetLineWidth(0.4)
	named := map[field.Point]string{}
	for _, name := range s.p.Course.MarkerNames() {
		at := s.p.Course.Markers[name]
		if named[at] != "" {
			named[at] += ", "
		}
		named[at] += name
		x, y := s.xy(at)
		if strings.HasPrefix(name, "pad") {
			s.Circle(x, y, 2, "D")
		} else {
			s.Polygon([]fpdf.PointType{{X: x, Y: y - 1.5}, {X: x + 1.5, Y: y}, {X: x, Y: y + 1.5}, {X: x - 1.5, Y: y}}, "F")
		}
	}
	x, y := s.xy(s.p.Course.Station)
	s.names(named)
	s.Circle(x, y-2.6, 1.2, "F")
	s.Polygon([]fpdf.PointType{{X: x - 2.6, Y: y + 2}, {X: x - 1.6, Y: y - 1}, {X: x + 1.6, Y: y - 1},
		{X: x + 2.6, Y: y + 2}}, "F")
}

// names prints the markers' names beside them, where none covers another.
func (s *sheet) names(named map[field.Point]string) {
	const high = smallLetter * 0.353 // mm of a letter's points
	s.SetFont(font, "", smallLetter)
	x, y := s.xy(s.p.Course.Station)
	list, words := []course.Label{{X: x, Y: y}}, []string{""}
	for _, name := range s.p.Course.MarkerNames() {
		at := s.p.Course.Markers[name]
		word := named[at]
		if word == "" {
			continue
		}
		named[at] = ""
		x, y := s.xy(at)
		list, words = append(list, course.Label{X: x, Y: y, Wide: s.GetStringWidth(word), High: 1.15 * high}), append(words,
			word)
	}
	for i, at := range course.PlaceLabels(list, 2.6, left, left+wide) {
		if words[i] != "" {
			s.say(at[0], at[1]+0.35*high, "", smallLetter, words[i])
		}
	}
}

// tables prints what is taped and paced on the left, and what to know on the right.
func (s *sheet) tables() {
	y := tableTop
	s.say(left, y, "B", 9, msgToLayIt)
	s.say(left, y+4.5, "", smallLetter, fmt.Sprintf(msgFromPilotPace, s.p.PaceM))
	cols := []float64{left, left + 24, left + 38, left + 52, left + 66}
	y += 9
	for i, h := range []string{"marker", "m", "paces", "side", "ahead"} {
		s.say(cols[i], y, "B", smallLetter, h)
	}
	for i, l := range s.p.Survey.Legs {
		if i == 14 {
			s.say(left, y+4, "", smallLetter, fmt.Sprintf(msgMoreMarkers, len(s.p.Survey.Legs)-i))
			break
		}
		y += 4
		for j, v := range []string{l.Marker, fmt.Sprintf("%.1f", l.DistM), fmt.Sprintf("%.0f", l.Paces), fmt.Sprintf("%+.1f",
			l.SideM), fmt.Sprintf("%.1f", l.ForwardM)} {
			s.say(cols[j], y, "", smallLetter, v)
		}
	}
	y += 7
	s.say(left, y, "B", 9, "To tape")
	for i, t := range s.p.Survey.Tapes {
		if i == 8 || y > 285 {
			break
		}
		y += 4
		word := ""
		if t.Diagonal {
			word = " (diagonal)"
		}
		s.say(left, y, "", smallLetter, fmt.Sprintf("%s – %s%s", t.A, t.B, word))
		s.say(left+66, y, "", smallLetter, fmt.Sprintf("%.2f m", t.LengthM))
	}
	s.SetXY(left+92, tableTop-4)
	s.paragraph("Return height", s.p.Return)
	s.paragraph("Wind", s.p.Wind)
	s.paragraph("Sun", s.p.Sun)
	if s.p.Survey.HasPeople {
		s.paragraph(msgTurnAwayFrom, s.p.Survey.AwayWord)
	}
	s.paragraph("Stopping", fmt.Sprintf(msgCouldFallFrom,
		s.p.Survey.StopM, s.p.Survey.FallM))
	s.paragraph("Clearances", s.p.Advice)
	for i, w := range s.p.Warnings {
		if i == 6 {
			s.paragraph("", fmt.Sprintf(msgMoreWarningsScreen, len(s.p.Warnings)-i))
			break
		}
		s.paragraph("", "! "+w)
	}
	if s.p.Notes != "" {
		s.paragraph("Site", s.p.Notes)
	}
	s.say(left, 291, "", 7.5,
		msgNeverFlyOver)
}

// paragraph prints a heading and wrapped text in the right column, and stops at
// the foot of the page.
func (s *sheet) paragraph(head, text string) {
	const width = 94.0
	if s.GetY() > 276 {
		return
	}
	s.SetX(left + 92)
	if head != "" {
		s.SetFont(font, "B", 9)
		s.CellFormat(width, 4.6, head, "", 1, "L", false, 0, "")
		s.SetX(left + 92)
	}
	s.SetFont(font, "", smallLetter)
	lines := s.SplitText(text, width)
	for i, l := range lines {
		if i == 7 || s.GetY() > 282 {
			break
		}
		s.SetX(left + 92)
		s.CellFormat(width, 3.9, l, "", 1, "L", false, 0, "")
	}
	s.SetY(s.GetY() + 1.6)
}
