package score

import (
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
)

// What is out: a figure that should be small when it is over its limit, one that should be reached when it is under,
// one in a band on both sides. A take-over that comes late enough is right, one that comes too early is out; a rest
// is out when it is too short (both were the other way round).
func TestWhichFiguresAreOut(t *testing.T) {
	for _, c := range []struct {
		key    string
		v      float64
		limits map[string]float64
		out    bool
		words  string
	}{
		{"radius_max_m", 1.0, map[string]float64{"radius_max_m": 1}, false, "at most 1 m"},
		{"radius_max_m", 1.01, map[string]float64{"radius_max_m": 1}, true, "at most 1 m"},
		{"inside_s", 20, map[string]float64{"inside_s": 20}, false, "at least 20 s"},
		{"inside_s", 19.9, map[string]float64{"inside_s": 20}, true, "at least 20 s"},
		{"taken_over_s", 5.0, map[string]float64{"taken_over_s": 5}, false, "at least 5 s"},
		{"taken_over_s", 9.0, map[string]float64{"taken_over_s": 5}, false, "at least 5 s"},
		{"taken_over_s", 4.9, map[string]float64{"taken_over_s": 5}, true, "at least 5 s"},
		{"rest_s", 1.0, map[string]float64{"rest_s": 1}, false, "at least 1 s"},
		{"rest_s", 2.5, map[string]float64{"rest_s": 1}, false, "at least 1 s"},
		{"rest_s", 0.9, map[string]float64{"rest_s": 1}, true, "at least 1 s"},
		{"speed_mean_mps", 1.0, map[string]float64{"speed_min_mps": 1, "speed_max_mps": 2}, false, "1 to 2 m/s"},
		{"speed_mean_mps", 0.99, map[string]float64{"speed_min_mps": 1, "speed_max_mps": 2}, true, "1 to 2 m/s"},
		{"speed_mean_mps", 2.01, map[string]float64{"speed_min_mps": 1, "speed_max_mps": 2}, true, "1 to 2 m/s"},
		{"rate_dps", 31, map[string]float64{"rate_min_dps": 10, "rate_max_dps": 30}, true, "10 to 30°/s"},
		{"rate_dps", 30, map[string]float64{"rate_min_dps": 10, "rate_max_dps": 30}, false, "10 to 30°/s"},
		{"wrong_inputs", 1, map[string]float64{"wrong_inputs": 0}, true, "at most 0"},
		{"wrong_inputs", 0, map[string]float64{"wrong_inputs": 0}, false, "at most 0"},
		{"speed_cv", 7, map[string]float64{"speed_max_mps": 2}, false, ""},
		{"radius_max_m", 7, nil, false, ""},
	} {
		m, ok := MetricOf(c.key)
		if !ok || m.Out(c.v, c.limits) != c.out || m.LimitWords(c.limits) != c.words {
			t.Errorf("%s %v of %v: out %v, %q; want %v, %q", c.key, c.v, c.limits, m.Out(c.v, c.limits), m.LimitWords(c.limits),
				c.out, c.words)
		}
	}
}

func TestMetricsAreNamedOnce(t *testing.T) {
	seen, said := map[string]bool{}, map[string]bool{}
	for _, m := range Metrics {
		if seen[m.Key] || said[m.Words] || m.Words == "" || strings.Contains(m.Words, "_") {
			t.Errorf("%s %q is there twice, or has no words", m.Key, m.Words)
		}
		seen[m.Key], said[m.Words] = true, true
		unit := ""
		for _, u := range [][2]string{{"_mps3", "m/s³"}, {"_mps", "m/s"}, {"_dps", "°/s"}, {"_deg", "°"}, {"_m", "m"},
			{"_s", "s"}} {
			if strings.HasSuffix(m.Key, u[0]) {
				unit = u[1]
				break
			}
		}
		if m.Unit != unit {
			t.Errorf("%s is in %q; its name says %q", m.Key, m.Unit, unit)
		}
	}
}

var measuredKeys = regexp.MustCompile(`(?:met|Metrics|metrics)\["([a-z0-9_]+)"\]|measured\("([a-z0-9_]+)"`)

// Whatever the scorer measures has a row, and every row is measured.
func TestEveryFigureHasItsRow(t *testing.T) {
	files, err := filepath.Glob("*.go")
	if err != nil {
		t.Fatal(err)
	}
	measured := map[string]bool{}
	for _, f := range files {
		if strings.HasSuffix(f, "_test.go") || f == "metrics.go" {
			continue
		}
		text, err := os.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		for _, m := range measuredKeys.FindAllStringSubmatch(string(text), -1) {
			measured[m[1]+m[2]] = true
		}
		for _, m := range Metrics { // in tables of figures
			if strings.Contains(string(text), `"`+m.Key+`"`) {
				measured[m.Key] = true
			}
		}
	}
	for key := range measured {
		if _, ok := MetricOf(key); !ok {
			t.Errorf("%s is measured and has no row", key)
		}
	}
	for _, m := range Metrics {
		if !measured[m.Key] {
			t.Errorf("%s has a row and is never measured", m.Key)
		}
	}
	if len(measured) < 40 || slices.Contains(files, "") {
		t.Errorf("%d figures were found", len(measured))
	}
}
