package sheet

import (
	"bytes"
	"fmt"
	"math"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"maestrale/core/field"
	"maestrale/core/readiness"
)

// Book is a student's logbook.
type Book struct {
	School, Student, Programme, Craft, Printed string
	Rungs                                      []string
	Ladder                                     [][]readiness.RungHalf
	Ring                                       readiness.Ring
	Gates                                      []BookGate
	Lines                                      []BookLine // oldest first
}

// BookGate is a gate as the logbook says it.
type BookGate struct{ Title, State, Says string }

// BookLine is an attempt as the logbook says it.
type BookLine struct{ At, Drill, Aids, Wind, Verdict, Source, Says string }

type book struct {
	*fpdf.Fpdf
	b Book
}

const (
	bookLeft, bookWide = 14.0, 182.0
	bookFoot           = 286.0
)

// Logbook prints a logbook as PDF: on its first page the ring, the ladder and the gates,
// then every attempt.
func Logbook(b Book) ([]byte, error) {
	pdf := fpdf.New("P", "mm", "A4", "")
	pdf.SetAutoPageBreak(false, 0)
	pdf.SetTitle("Logbook of "+b.Student, true)
	pdf.SetCreator("Maestrale", true)
	pdf.AddUTF8FontFromBytes(font, "", goregular.TTF)
	pdf.AddUTF8FontFromBytes(font, "B", gobold.TTF)
	k := &book{pdf, b}
	k.AddPage()
	k.say(bookLeft, 20, "B", 18, b.Student)
	k.say(bookLeft, 27, "", 10, b.School)
	k.say(bookLeft, 32, "", 10, fmt.Sprintf("%s · %s · printed on %s", b.Programme, b.Craft, b.Printed))
	k.ring(60, 82, 20, 31, 42)
	k.ladder(112, 44)
	y := k.gates(math.Max(140, 46+5.2*float64(len(b.Rungs))))
	k.lines(y + 6)
	var out bytes.Buffer
	if err := pdf.Output(&out); err != nil {
		return nil, fmt.Errorf("print the logbook: %w", err)
	}
	return out.Bytes(), nil
}

func (k *book) say(x, y float64, style string, size float64, text string) {
	k.SetFont(font, style, size)
	k.Text(x, y, text)
}

// fill sets the grey of a standing: held dark, building light, lapsed between, with a word
// beside it wherever there is room.
func (k *book) fill(s readiness.Standing) {
	g := map[readiness.Standing]int{readiness.Untried: 255, readiness.Building: 215, readiness.Lapsed: 175,
		readiness.Held: 95}[s]
	k.SetFillColor(g, g, g)
}

// ring draws the aspect ring: inner band with position hold, outer without; the tail
// toward the pilot, who is at the bottom.
func (k *book) ring(cx, cy, r0, r1, r2 float64) {
	k.say(cx-r2, cy-r2-4, "B", 11, msgWhereNose)
	k.SetDrawColor(80, 80, 80)
	k.SetLineWidth(0.2)
	for i := range field.Sectors {
		for band, s := range []readiness.Sector{k.b.Ring.With[i], k.b.Ring.Without[i]} {
			in, out := []float64{r0, r1}[band], []float64{r1, r2}[band]
			if !s.Drills {
				k.SetFillColor(255, 255, 255)
			} else {
				k.fill(s.Standing)
			}
			step := 2 * math.Pi / field.Sectors
			a, b := float64(i)*step-step/2, float64(i)*step+step/2
			at := func(r, a float64) fpdf.PointType { return fpdf.PointType{X: cx + r*math.Sin(a), Y: cy - r*math.Cos(a)} }
			m := (a + b) / 2
			k.Polygon([]fpdf.PointType{at(in, a), at(out, a), at(out, m), at(out, b), at(in, b), at(in, m)}, "FD")
		}
	}
	k.say(cx-6, cy-r2-0.6, "", 7, "tail-in")
	k.say(cx-6, cy+r2+3.4, "", 7, "nose-in")
	k.say(cx-r2-0.5, cy+r2+8, "", 7,
		msgInnerPositionHold)
}

func (k *book) ladder(x, y float64) {
	k.say(x, y-4, "B", 11, msgLadderFromGround)
	n := len(k.b.Rungs)
	for i, title := range k.b.Rungs {
		top := y + 5.2*float64(n-1-i)
		halves := k.b.Ladder[i]
		w := 18.0 / float64(max(1, len(halves)))
		for h, half := range halves {
			k.fill(half.Cell.Standing)
			k.Rect(x+w*float64(h), top, w-0.4, 3.6, "FD")
		}
		k.say(x+20, top+3, "", 8, title)
	}
}

func (k *book) gates(y float64) float64 {
	k.say(bookLeft, y, "B", 11, "Gates")
	for _, g := range k.b.Gates {
		y += 6
		k.say(bookLeft, y, "B", 9, g.Title+": "+g.State)
		k.SetFont(font, "", 8)
		for _, line := range k.SplitText(g.Says, bookWide) {
			y += 4
			k.Text(bookLeft, y, line)
		}
	}
	return y
}

// lines prints the attempts, a head on each page and its number at the foot.
func (k *book) lines(y float64) {
	columns := []struct {
		title string
		wide  float64
	}{{"when", 28}, {"drill", 46}, {"aids", 22}, {"wind", 11}, {"verdict", 17}, {"what happened", 58}}
	head := func(y float64) float64 {
		x := bookLeft
		for _, c := range columns {
			k.say(x, y, "B", 8, c.title)
			x += c.wide
		}
		k.Line(bookLeft, y+1.2, bookLeft+bookWide, y+1.2)
		return y + 4.6
	}
	foot := func() {
		k.say(bookLeft, bookFoot+4, "", 7, fmt.Sprintf("%s, %s · page %d", k.b.Student, k.b.School, k.PageNo()))
	}
	if y > bookFoot-30 {
		foot()
		k.AddPage()
		y = 20
	}
	if len(k.b.Lines) == 0 {
		k.say(bookLeft, y, "", 9, msgNoAttemptYet)
		foot()
		return
	}
	y = head(y)
	for _, l := range k.b.Lines {
		if y > bookFoot {
			foot()
			k.AddPage()
			y = head(20)
		}
		x := bookLeft
		for i, t := range []string{l.At, l.Drill, l.Aids, l.Wind, l.Verdict + map[bool]string{true: " (sim)",
			false: ""}[l.Source == "sim"], l.Says} {
			k.SetFont(font, "", 7.5)
			k.Text(x, y, cut(k.Fpdf, t, columns[i].wide-1.5))
			x += columns[i].wide
		}
		y += 4
	}
	k.say(bookLeft, math.Min(y+4, bookFoot+1), "", 7,
		msgTrainingRecordNo)
	foot()
}

// cut shortens a text to a width.
func cut(pdf *fpdf.Fpdf, t string, wide float64) string {
	if pdf.GetStringWidth(t) <= wide {
		return t
	}
	r := []rune(t)
	for len(r) > 0 && pdf.GetStringWidth(string(r)+"…") > wide {
		r = r[:len(r)-1]
	}
	return string(r) + "…"
}
