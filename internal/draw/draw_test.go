package draw

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/core/score"
	"maestrale/core/track"
)

// wellFormed fails unless a drawing is XML that any reader takes.
func wellFormed(t *testing.T, name, svg string) {
	t.Helper()
	d := xml.NewDecoder(strings.NewReader(svg))
	for {
		_, err := d.Token()
		if errors.Is(err, io.EOF) {
			return
		}
		if err != nil {
			t.Fatalf("%s: %v\n%.400s", name, err, svg)
		}
	}
}

func hover(t *testing.T, at field.Point) Flight {
	t.Helper()
	d, err := drill.Shipped().Drill("hover-tail-in")
	if err != nil {
		t.Fatal(err)
	}
	task, err := d.Lay(field.NoSide, 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	tr := &track.Track{}
	for i := range 600 {
		s := float64(i) / 20
		tr.T = append(tr.T, s)
		tr.X, tr.Y, tr.Z = append(tr.X, 0.3*math.Sin(s)), append(tr.Y, 6+0.3*math.Cos(s)), append(tr.Z, math.Min(1.5, s))
		tr.Heading = append(tr.Heading, 0)
	}
	v, l := 1.3, 1.0
	res, err := score.Track(task, tr, score.FromLog)
	if err != nil {
		t.Fatal(err)
	}
	res.Faults = []score.Fault{{TS: 12, Step: 1, Code: score.LeftBox, Value: &v, Limit: &l, Toward: "right",
		Text: `<b>"out" & away</b>`, At: &score.Place{X: at.X, Y: at.Y, Z: 1.5}}}
	return Flight{Task: task, Track: tr, Result: res}
}

var circles = regexp.MustCompile(`<circle class="limit" cx="([\d.-]+)" cy="([\d.-]+)" r="([\d.]+)"`)
var marks = regexp.MustCompile(`</title><path d="M([\d.-]+) ([\d.-]+)l11 11`)

func numbers(t *testing.T, m []string) []float64 {
	t.Helper()
	var out []float64
	for _, s := range m[1:] {
		v, err := strconv.ParseFloat(s, 64)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, v)
	}
	return out
}

// A fault is drawn where it happened, in the scale of the limit around it, with
// the pilot's left on the left and away at the top.
func TestPlanIsToScale(t *testing.T) {
	for _, at := range []field.Point{{X: 1, Y: 6}, {X: -1.4, Y: 6}, {X: 0, Y: 7.2}, {X: 0.5, Y: 4.9}} {
		svg := string(Plan(hover(t, at)))
		wellFormed(t, "plan", svg)
		c, m := circles.FindStringSubmatch(svg), marks.FindStringSubmatch(svg)
		if c == nil || m == nil {
			t.Fatal("no box or no fault is drawn")
		}
		box, fault := numbers(t, c), numbers(t, m)
		scale := box[2] / 1.0 // the box is 1 m
		dx, dy := (fault[0]-box[0])/scale, (box[1]-(fault[1]+11))/scale
		if math.Abs(dx-at.X) > 0.01 || math.Abs(dy-(at.Y-6)) > 0.01 {
			t.Errorf("a fault at %+v is drawn %.2f m right and %.2f m away of the marker", at, dx, dy)
		}
	}
}

func TestDrawingsAreWellFormedAndEscaped(t *testing.T) {
	f := hover(t, field.Point{X: 1, Y: 6})
	for name, svg := range map[string]string{"plan": string(Plan(f)), "height": string(Height(f)), "nose": string(Nose(f)),
		"time line": string(TimeLine(f))} {
		if svg == "" {
			t.Errorf("%s is empty", name)
			continue
		}
		wellFormed(t, name, svg)
		if strings.Contains(svg, "<b>") || strings.Contains(svg, "style=") {
			t.Errorf("%s holds markup or an inline style", name)
		}
		if name != "nose" && !strings.Contains(svg, "&lt;b&gt;") {
			t.Errorf("%s does not tell the fault", name)
		}
	}
	f.Track = nil // marked by eye
	for name, svg := range map[string]string{"plan": string(Plan(f)), "time line": string(TimeLine(f))} {
		wellFormed(t, name+" without a trace", svg)
	}
	if Height(f) != "" || Nose(f) != "" {
		t.Error("a height or a nose was made up")
	}
}

func TestALongTraceIsThinned(t *testing.T) {
	f := hover(t, field.Point{X: 1, Y: 6})
	for i := range 60000 {
		f.Track.T = append(f.Track.T, 30+float64(i)/50)
		f.Track.X, f.Track.Y, f.Track.Z = append(f.Track.X, math.Sin(float64(i)/70)), append(f.Track.Y, 6), append(f.Track.Z,
			1.5)
		f.Track.Heading = append(f.Track.Heading, 0)
	}
	if n := len(Plan(f)); n > 60_000 {
		t.Errorf("a log of twenty minutes draws %d bytes", n)
	}
}

func TestRingHasTwoBandsOfSixteen(t *testing.T) {
	var r readiness.Ring
	r.With[4] = readiness.Sector{Drills: true, Standing: readiness.Held, Seconds: 60}
	r.Without[12] = readiness.Sector{Drills: true, Standing: readiness.Lapsed}
	svg := string(Ring(r))
	wellFormed(t, "ring", svg)
	for class, want := range map[string]int{"held": 1, "lapsed": 1, "no-drill": 30, "rim": 1} {
		if n := strings.Count(svg, `class="`+class+`"`); n != want {
			t.Errorf("%d sectors %s, want %d", n, class, want)
		}
	}
	// The held sector, nose right, lies to the right of the middle.
	m := regexp.MustCompile(`class="held" d="M([\d.]+) ([\d.]+)`).FindStringSubmatch(svg)
	if at := numbers(t, m); at[0] < 300 || math.Abs(at[1]-190) > 40 {
		t.Errorf("nose right begins at %v", at)
	}
}

func TestLadderHalvesAreMirrorImages(t *testing.T) {
	p := drill.Shipped().Programmes["position-hold-first"]
	svg := string(Ladder(p, readiness.Ladder(p, func(c drill.Cell) readiness.Cell {
		return readiness.Cell{Cell: c,
			Standing: readiness.Held}
	}), nil))
	wellFormed(t, "ladder", svg)
	rects := regexp.MustCompile(`<rect class="held" x="([\d.]+)" y="([\d.]+)" width="([\d.]+)"`).FindAllStringSubmatch(svg,
		-1)
	seen := map[string]int{}
	for _, r := range rects {
		v := numbers(t, r)
		left := math.Round((v[0]-ladderMid)*10) / 10
		right := math.Round((v[0]+v[2]-ladderMid)*10) / 10
		a, b := math.Min(math.Abs(left), math.Abs(right)), math.Max(math.Abs(left), math.Abs(right))
		seen[fmt.Sprint(v[1], a, b)]++
	}
	for part, n := range seen {
		if n != 2 && !strings.Contains(part, " 33") { // the middle part of a whole rung is its own mirror image
			t.Errorf("part %s stands %d times", part, n)
		}
	}
	want := 0
	for _, r := range p.Rungs {
		want += 3
		if r.Cells[0].Side != field.NoSide {
			want += 3
		}
	}
	if len(rects) != want {
		t.Errorf("%d parts are drawn", len(rects))
	}
}

func TestWindWords(t *testing.T) {
	for deg, want := range map[float64]string{0: "ahead", 90: "the right", 180: "behind", 270: "the left", -90: "the left",
		359: "ahead", 225: "behind left", 45: "ahead right", 540: "behind"} {
		if got := WindWords(deg); got != want {
			t.Errorf("wind from %v°: %s, want %s", deg, got, want)
		}
	}
}
