package draw

import (
	"regexp"
	"strings"
	"testing"

	"maestrale/core/field"
	"maestrale/core/orient"
)

// The ring of what could be known has its longest bar where the nose most likely points,
// tail-in at the top, and says so in words; one that knows nothing is even.
func TestKnownRing(t *testing.T) {
	var p orient.Posterior
	for d := -30; d <= 30; d++ { // a triangle about 90°, of one in all
		p[90+d] = float64(31-max(d, -d)) / 961
	}
	nose := field.Degrees(100)
	s := string(Known(p, &nose))
	bars := regexp.MustCompile(`known-bar" d="M([\d.]+) ([\d.]+)L([\d.]+)`).FindAllStringSubmatch(s, -1)
	if len(bars) < 5 || len(bars) > 7 {
		t.Fatalf("%d bars", len(bars))
	}
	for _, b := range bars {
		if len(b[1]) < 2 || b[1] < "6" { // right of the middle, at 60
			t.Errorf("a bar at %s", b[1])
		}
	}
	for _, want := range []string{"likeliest nose 90° right, 89 % within 20°", "it was nose 100° right",
		`rotate(100 60 60)`, `class="pilot"`} {
		if !strings.Contains(s, want) {
			t.Errorf("it lacks %q", want)
		}
	}
	even := string(Known(orient.Anything(), nil))
	if n := strings.Count(even, "known-bar"); n != 36 || strings.Contains(even, "known-nose") {
		t.Errorf("%d bars of 36", n)
	}
	for deg, want := range map[float64]string{0: "tail-in", 8: "tail-in", 180: "nose-in", -175: "nose-in",
		-40: "nose 40° left", 91: "nose 91° right"} {
		if got := AspectWords(field.Degrees(deg)); got != want {
			t.Errorf("%v° is %q", deg, got)
		}
	}
}

// Every call is a dot, right above and wrong below; the curve and the band come with enough
// of them.
func TestTells(t *testing.T) {
	var calls []orient.Call
	for i := range 12 {
		calls = append(calls, orient.Call{DistanceM: float64(20 + 5*i), Right: i < 6})
	}
	x, err := orient.SightOf(0.255, 1, orient.Day, calls)
	if err != nil {
		t.Fatal(err)
	}
	s, err := Tells(x, orient.Day, calls)
	if err != nil || strings.Count(string(s), "tells-right") != 6 || strings.Count(string(s), "tells-wrong") != 6 ||
		!strings.Contains(string(s), "tells-curve") || !strings.Contains(string(s), "80 % interval") {
		t.Errorf("%s, %v", s, err)
	}
	few, err := orient.SightOf(0.255, 1, orient.Day, calls[:2])
	if err != nil {
		t.Fatal(err)
	}
	if s, err = Tells(few, orient.Day, calls[:2]); err != nil || strings.Contains(string(s), "tells-curve") ||
		!strings.Contains(string(s), "told to 80 m") {
		t.Errorf("%s, %v", s, err)
	}
	if _, err := Tells(x, orient.Day, []orient.Call{{DistanceM: -1}}); err == nil {
		t.Error("a call behind the pilot is drawn")
	}
}

// The plan shows where the nose points: square to the way as it passes, ahead far off; an
// orbit's craft all look inward, and the craft's maximum yaw is drawn where it is near.
func TestYawDrawings(t *testing.T) {
	p, err := orient.PastSubject(3, 6, field.Degrees(60))
	if err != nil {
		t.Fatal(err)
	}
	way := string(YawWay(p, false))
	craftAt := regexp.MustCompile(`yaw-craft" transform="translate\(([\d.]+) [\d.]+\) rotate\((-?[\d.]+)\)`)
	turns := craftAt.FindAllStringSubmatch(way, -1)
	if len(turns) != 11 || turns[5][2] != "0" || turns[5][1] != "230" {
		t.Errorf("%v", turns)
	}
	if c := string(YawCurve(p, field.Degrees(60))); !strings.Contains(c, "29 degrees a second") || !strings.Contains(c,
		"the craft&#39;s maximum, 60 °/s") || !strings.Contains(c, "abeam") || !strings.Contains(c, "begin ") {
		t.Error(c)
	}
	o, err := orient.Orbit(3, 6, field.Degrees(200))
	if err != nil {
		t.Fatal(err)
	}
	if c := string(YawCurve(o, field.Degrees(200))); strings.Contains(c, "fastest") || strings.Contains(c, "abeam") {
		t.Error(c)
	}
	if n := strings.Count(string(YawWay(o, true)), "yaw-craft"); n != 8 {
		t.Errorf("%d craft round the subject", n)
	}
	for v, want := range map[float64]float64{0.3: 0.5, 1: 1, 1.1: 2, 4: 5, 70: 100} {
		if got := niceStep(v); got != want {
			t.Errorf("a step of %v for %v", got, v)
		}
	}
}
