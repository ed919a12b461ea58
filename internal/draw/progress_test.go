package draw

import (
	"math/rand/v2"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"maestrale/core/readiness"
)

// Everything that is drawn lies in the picture, whatever is drawn.
func TestPicturesOfProgressStayInTheirFrame(t *testing.T) {
	number := regexp.MustCompile(`(?:translate\(|[ML])(-?[0-9.]+) (-?[0-9.]+)`)
	inside := func(what, drawn string) {
		t.Helper()
		if strings.Contains(drawn, "NaN") || strings.Contains(drawn, "Inf") {
			t.Errorf("%s: %s", what, drawn)
		}
		for _, m := range number.FindAllStringSubmatch(drawn, -1) {
			x, _ := strconv.ParseFloat(m[1], 64)
			y, _ := strconv.ParseFloat(m[2], 64)
			if x < -8 || x > progressWide || y < -8 || y > progressTall {
				t.Errorf("%s: %s %s lies outside", what, m[1], m[2])
			}
		}
	}
	r := rand.New(rand.NewPCG(1, 2))
	start := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	for range 200 {
		var days []readiness.ProgressDay
		var dots []readiness.Dot
		before, items := 0, 1+r.IntN(90)
		for d := range r.IntN(60) {
			day := readiness.ProgressDay{Date: start.AddDate(0, 0, d), Before: before, Flown: r.IntN(20),
				Held: r.IntN(items + 1)}
			before += day.Flown
			days = append(days, day)
			dots = append(dots, readiness.Dot{At: day.Date, Margin: 12 * r.NormFloat64(), Pass: r.IntN(2) == 0,
				Sim: r.IntN(3) == 0, Chance: r.Float64()*1.2 - 0.2, Side: "left"})
		}
		next := &Forecast{Least: r.IntN(50), Low: r.IntN(50)}
		next.High = next.Low + r.IntN(100)
		inside("progress", string(Progress(days, items, []Line{{"A gate", r.IntN(items + 1)}}, next)))
		inside("dots", string(Dots(dots)))
	}
	if Progress(nil, 5, nil, nil) != "" || Dots(nil) != "" {
		t.Error("nothing is drawn of nothing")
	}
}
