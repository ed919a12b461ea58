package draw

import (
	"fmt"
	"html/template"
	"math"

	"maestrale/core/field"
	"maestrale/core/readiness"
)

// The size of a picture of progress.
const (
	progressWide, progressTall = 900.0, 340.0
	progressLeft, progressFoot = 46.0, 40.0
)

// Line is a gate as a line across a picture of progress: above so many items.
type Line struct {
	Title string
	Above int
}

// Forecast is how many more attempts at the field the next gate takes: at least, and where it is known as an 80 %
// interval.
type Forecast struct{ Least, Low, High int }

// Progress draws the items held over the attempts flown at the field, with a tick for each day of practice, the gates
// as lines, and what the next gate takes still.
func Progress(days []readiness.ProgressDay, items int, gates []Line, next *Forecast) template.HTML {
	if len(days) == 0 || items == 0 {
		return ""
	}
	last := days[len(days)-1]
	flown := last.Before + last.Flown
	most := float64(max(1, flown))
	if next != nil {
		most += float64(max(next.Least, next.High))
	}
	x := func(v float64) float64 { return progressLeft + v/most*(progressWide-progressLeft-14) }
	y := func(v float64) float64 {
		return progressTall - progressFoot - v/float64(items)*(progressTall-progressFoot-16)
	}
	var s svg
	s.open(progressWide, progressTall, "progress",
		msgItemsHeldOver)
	for v := 0; v <= items; v += gridStep(items) {
		s.line(progressLeft, y(float64(v)), progressWide-14, y(float64(v)), "grid")
		s.text(progressLeft-8, y(float64(v))+5, "small", "end", fmt.Sprint(v))
	}
	for v := 0; v <= int(most); v += gridStep(int(most)) {
		s.text(x(float64(v)), progressTall-6, "small", "middle", fmt.Sprint(v))
	}
	for _, g := range gates {
		at := y(float64(g.Above))
		s.line(progressLeft, at, progressWide-14, at, "gate-across")
		s.text(progressLeft+6, at-5, "small", "start", g.Title)
	}
	if next != nil {
		s.line(x(float64(flown)), y(0), x(float64(flown)), y(float64(items)), "now")
		if next.High > 0 {
			s.rect(x(float64(flown+next.Low)), 16, x(float64(flown+next.High))-x(float64(flown+next.Low)),
				progressTall-progressFoot-16, "band", fmt.Sprintf(msgMoreAttempts, next.Low, next.High))
		}
		s.line(x(float64(flown+next.Least)), y(0), x(float64(flown+next.Least)), y(float64(items)), "least")
	}
	path, held := fmt.Sprintf("M%s %s", n(x(0)), n(y(0))), 0
	for _, d := range days {
		path += fmt.Sprintf("L%s %sL%s %s", n(x(float64(d.Before+d.Flown))), n(y(float64(held))),
			n(x(float64(d.Before+d.Flown))), n(y(float64(d.Held))))
		held = d.Held
		s.line(x(float64(d.Before+d.Flown)), progressTall-progressFoot+4, x(float64(d.Before+d.Flown)),
			progressTall-progressFoot+12, "tick")
	}
	s.add(`<path class="held-line" d="%s"/>`, path)
	return s.done()
}

// gridStep is a round step of which there are some six up to a number.
func gridStep(most int) int {
	for _, step := range []int{1, 2, 5, 10, 20, 50, 100, 200, 500, 1000} {
		if most/step <= 7 {
			return step
		}
	}
	return max(1, most/6)
}

// Dots draws the attempts at a drill by their margin over time, with the chance of a pass that was foretold of each
// behind them. Sides differ by shape: a square is the left one, a diamond the right one, a circle is a drill without
// sides. What was flown in the simulator is hollow.
func Dots(dots []readiness.Dot) template.HTML {
	if len(dots) == 0 {
		return ""
	}
	from, to := dots[0].At, dots[len(dots)-1].At
	span := math.Max(1, to.Sub(from).Seconds())
	const low, high = -1.0, 1.0
	x := func(d readiness.Dot) float64 {
		return progressLeft + 10 + d.At.Sub(from).Seconds()/span*(progressWide-progressLeft-34)
	}
	y := func(v float64) float64 {
		v = math.Max(low, math.Min(high, v))
		return progressTall - progressFoot - (v-low)/(high-low)*(progressTall-progressFoot-16)
	}
	var s svg
	s.open(progressWide, progressTall, "progress", msgAttemptsTheirMargin)
	for _, v := range []float64{-1, -0.5, 0, 0.5, 1} {
		s.line(progressLeft, y(v), progressWide-14, y(v), map[bool]string{true: "zero", false: "grid"}[v == 0])
		s.text(progressLeft-8, y(v)+5, "small", "end", fmt.Sprintf("%+.1f", v))
	}
	s.text(progressWide-14, y(0)-6, "small", "end", "the limit")
	s.text(progressLeft+10, progressTall-6, "small", "start", from.Format("2 Jan 2006"))
	s.text(progressWide-14, progressTall-6, "small", "end", to.Format("2 Jan 2006"))
	chance := ""
	for _, d := range dots {
		if d.Chance >= 0 {
			chance += map[bool]string{true: "M", false: "L"}[chance == ""] + n(x(d)) + " " + n(y(2*d.Chance-1))
		}
	}
	if chance != "" {
		s.add(`<path class="chance" d="%s"/>`, chance)
	}
	for _, d := range dots {
		shape := map[field.Side]string{field.LeftSide: "M-5 -5H5V5H-5Z", field.RightSide: "M0 -7L7 0L0 7L-7 0Z"}[d.Side]
		if shape == "" {
			shape = "M-5 0A5 5 0 1 0 5 0A5 5 0 1 0 -5 0Z"
		}
		class := map[bool]string{true: "pass", false: "fail"}[d.Pass]
		if d.Sim {
			class += " sim"
		}
		s.add(`<path class="dot %s" transform="translate(%s %s)" d="%s"/>`, class, n(x(d)), n(y(d.Margin)), shape)
	}
	return s.done()
}
