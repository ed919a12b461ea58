// Command benchall measures what has a target for its speed, and writes docs/tables/speed.md (make bench-all). Most
// figures are ratios to a bare loop over the same data, so that they mean the same on another machine. Each is the
// median of several rounds in which all are measured in turn.
package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
)

// figure is a line of the table: how it is made of what was measured.
type figure struct {
	what   string
	first  string // when the targets were set
	target string
	now    func(m measured) string
}

// measured are the values of each name, one for each round.
type measured map[string][]float64

func (m measured) add(name string, v float64) { m[name] = append(m[name], v) }

// median is the middle value; it is not ok where nothing was measured.
func (m measured) median(name string) (float64, bool) {
	list := slices.Sorted(slices.Values(m[name]))
	if len(list) == 0 {
		return 0, false
	}
	return list[len(list)/2], true
}

const notMeasured = "not measured"

// value prints a median in a unit.
func value(name, form string) func(measured) string {
	return func(m measured) string {
		if v, ok := m.median(name); ok {
			return fmt.Sprintf(form, v)
		}
		return notMeasured
	}
}

// ratio prints the median of the ratios of two names, round by round.
func ratio(a, b, form string) func(measured) string {
	return func(m measured) string {
		r := measured{}
		for i := range min(len(m[a]), len(m[b])) {
			r.add("", m[a][i]/m[b][i])
		}
		return value("", form)(r)
	}
}

// both prints two figures in one cell.
func both(a, b func(measured) string) func(measured) string {
	return func(m measured) string { return a(m) + ", " + b(m) }
}

// large prints a figure of the two large schools.
func large(name, form string) func(measured) string {
	of := func(school string) func(measured) string { return value("LargePages/"+school+"/"+name, form) }
	return both(of("500×1000"), of("2000×25"))
}

var figures = []figure{
	{"CSV track: reader / exact one-pass parser in memory", "8.3", "3", ratio("ReadCSV", "OnePassCSV", "%.1f")},
	{"GPX, KML: reader / one pass over the bytes", "71, 78", "15",
		both(ratio("ReadGPX", "OnePassXML", "%.1f"), ratio("ReadKML", "OnePassXML", "%.1f"))},
	{"GPX, KML: allocations of 30,000 points", "800,000, 900,000", "do not grow",
		both(value("ReadGPX allocs/op", "%.0f"), value("ReadKML allocs/op", "%.0f"))},
	{"scoring / one pass over the same columns", "18", "10", ratio("Score", "OnePassColumns", "%.1f")},
	{"simulator tick: Go / same arithmetic in C -O2", "1.68", "1.4", ratio("Twin ns/tick-Go", "Twin ns/tick-C", "%.2f")},
	{"simulator tick: WebAssembly in Chromium / native Go", "3.7", "3.0", ratio("tick in Chromium", "tick", "%.1f")},
	{"page / its own SQL, sample school: median, in total", "3.2, 6.0", "2.0, 3.0",
		both(value("PagesOverSQL median-ratio", "%.1f"), value("PagesOverSQL total-ratio", "%.1f"))},
	{"verify of 20,000 attempts / sha256sum of the file", "20", "6", ratio("Verify20000", "Sum20000", "%.1f")},
	{"/students, 500 students × 1,000 attempts; 2,000 × 25, ms", "1,489; 1,190", "60",
		large("/students ms/median", "%.0f")},
	{"/pad/day, same schools, ms", "4,331", "60", large("/pad/day ms/median", "%.0f")},
	{"/pad/day, same schools, queries", "1,012; 4,012", "6", large("/pad/day queries", "%.0f")},
	{"/records/audit, same schools, ms", "721", "30", large("/records/audit ms/median", "%.0f")},
	{"/fleet, same schools, ms", "577", "30", large("/fleet ms/median", "%.0f")},
	{"whole school as zip, same schools, ms", "4,690", "2,000", large("/records/everything.zip ms/median", "%.0f")},
	{"row-security filter on 150,000 rows / without it", "3.6", "1.1", value("RowSecurity ratio", "%.2f")},
	{"start of a command that needs no server, s", "0.34", "0.03", value("start", "%.3f")},
	{"50 instructors, 500 students: requests/s", "3", "60", value("FiftyInstructors requests/s", "%.0f")},
	{"the same, p95 of all and of marks, ms", "18,000 (p50)", "500",
		both(value("FiftyInstructors ms/p95", "%.0f"), value("FiftyInstructors ms/marks-p95", "%.0f"))},
	{"pad on a phone: CLS", "0.9", "0.02", value("pad CLS", "%.3f")},
	{"pad on a phone: main thread blocked, ms", "4,200 to 6,100", "300", value("pad blocked ms", "%.0f")},
	{"pad on a phone: kB, page + judge", "2,480", "1,200", both(value("pad kB", "%.0f"), value("judge kB", "%.0f"))},
	{"Fly on a phone, cold and warm, ms", "9,700, 3,200 to 4,000", "5,000, 1,500",
		both(value("Fly cold ms", "%.0f"), value("Fly warm ms", "%.0f"))},
	{"Fly on a phone, cold: main thread blocked, ms", "2,300 to 3,800", "500", value("Fly cold blocked ms", "%.0f")},
	{"first page on a phone: LCP, ms; kB", "1,300 to 2,800; 114 to 149", "1,000; 60",
		both(value("first page LCP ms", "%.0f"), value("first page kB", "%.0f"))},
}

// suite is a package's benchmarks that are run in each round, or in the first alone: a large school takes minutes to
// grow.
type suite struct {
	pkg, bench, time string
	once             bool
}

var suites = []suite{
	{"core/track", "^Benchmark(ReadCSV|OnePassCSV|ReadGPX|ReadKML|OnePassXML)$", "1s", false},
	{"core/score", "^Benchmark(Score|OnePassColumns)$", "1s", false},
	{"core/flight", "^BenchmarkTwin$", "1x", false},
	{"core/record", "^Benchmark(Verify20000|Sum20000)$", "3x", false},
	{"internal/web", "^BenchmarkLargePages$", "15x", true},
	{"internal/web", "^Benchmark(RowSecurity|FiftyInstructors|PagesOverSQL)$", "1x", false},
}

func main() {
	rounds := flag.Int("rounds", 5, "how often each is measured")
	out := flag.String("out", "docs/tables/speed.md", "the table")
	phone := flag.Bool("phone", true, "measure a phone with Chromium, too")
	flag.Parse()
	if err := run(*rounds, *out, *phone); err != nil {
		fmt.Fprintln(os.Stderr, "benchall:", err)
		os.Exit(1)
	}
}

func run(rounds int, out string, phone bool) error {
	dir, err := os.MkdirTemp("", "benchall")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	for _, s := range suites {
		build := exec.Command("go", "test", "-c", "-o", filepath.Join(dir, filepath.Base(s.pkg)), "./"+s.pkg)
		build.Stderr = os.Stderr
		if err := build.Run(); err != nil {
			return fmt.Errorf("build the benchmarks of %s: %w", s.pkg, err)
		}
	}
	m := measured{}
	for i := range rounds {
		fmt.Fprintf(os.Stderr, "round %d of %d\n", i+1, rounds)
		for _, s := range suites {
			if s.once && i > 0 {
				continue
			}
			run := exec.Command(filepath.Join(dir, filepath.Base(s.pkg)), "-test.run", "xxx", "-test.bench", s.bench,
				"-test.benchtime", s.time, "-test.benchmem")
			run.Dir, run.Stderr = s.pkg, os.Stderr
			run.Env = append(os.Environ(), "PAGES_SQL=../../bench/pages.sql")
			said, err := run.Output()
			if err != nil {
				return fmt.Errorf("the benchmarks of %s: %w\n%s", s.pkg, err, said)
			}
			m.read(said)
		}
		begun := time.Now()
		if err := exec.Command("bin/maestrale", "version").Run(); err != nil {
			return fmt.Errorf("bin/maestrale version: %w (make build comes first)", err)
		}
		m.add("start", time.Since(begun).Seconds())
		if err := m.ticks(dir); err != nil {
			return err
		}
	}
	if judge, err := os.Stat("ui/dist/pad.wasm.br"); err == nil { // fetched by a worker, which a page does not count
		m.add("judge kB", float64(judge.Size())/1000)
	}
	if phone {
		if err := m.phone(rounds); err != nil {
			return err
		}
	}
	return os.WriteFile(out, []byte(table(m, rounds)), 0o600)
}

var line = regexp.MustCompile(`^Benchmark(\S+?)(?:-\d+)?\s+\d+\s+(.*)$`)

// read takes the values of what go test prints: a name alone is its time.
func (m measured) read(said []byte) {
	for in := bufio.NewScanner(bytes.NewReader(said)); in.Scan(); {
		parts := line.FindStringSubmatch(in.Text())
		if parts == nil {
			continue
		}
		words := strings.Fields(parts[2])
		for i := 0; i+1 < len(words); i += 2 {
			v, err := strconv.ParseFloat(words[i], 64)
			if err != nil {
				continue
			}
			name := parts[1] + " " + words[i+1]
			if words[i+1] == "ns/op" {
				name = parts[1]
			}
			m.add(name, v)
		}
	}
}

// ticks times a tick of the simulator here and in Chromium.
func (m measured) ticks(dir string) error {
	native, module := filepath.Join(dir, "ticks"), filepath.Join(dir, "ticks.wasm")
	for _, build := range []struct {
		out string
		env []string
	}{{native, nil}, {module, []string{"GOOS=js", "GOARCH=wasm"}}} {
		cmd := exec.Command("go", "build", "-o", build.out, "./bench/ticks")
		cmd.Env, cmd.Stderr = append(os.Environ(), build.env...), os.Stderr
		if err := cmd.Run(); err != nil {
			return fmt.Errorf("build bench/ticks: %w", err)
		}
	}
	for name, run := range map[string]*exec.Cmd{"tick": exec.Command(native),
		"tick in Chromium": exec.Command("node", "bench/ticks.mjs", module, "ui/dist/wasm_exec.js")} {
		run.Stderr = os.Stderr
		said, err := run.Output()
		if err != nil {
			return fmt.Errorf("time a %s: %w", name, err)
		}
		ns, err := strconv.ParseFloat(strings.TrimSpace(string(said)), 64)
		if err != nil {
			return fmt.Errorf("time a %s: %w", name, err)
		}
		m.add(name, ns)
	}
	return nil
}

// phone takes the medians of bench/phone.mjs.
func (m measured) phone(rounds int) error {
	run := exec.Command("node", "bench/phone.mjs", strconv.Itoa(rounds))
	run.Stderr = os.Stderr
	said, err := run.Output()
	if err != nil {
		return fmt.Errorf("the phone: %w", err)
	}
	for in := bufio.NewScanner(bytes.NewReader(said)); in.Scan(); {
		var f struct {
			Name  string  `json:"name"`
			Value float64 `json:"value"`
		}
		if err := json.Unmarshal(in.Bytes(), &f); err != nil {
			return fmt.Errorf("the phone said %.80q: %w", in.Text(), err)
		}
		m.add(f.Name, f.Value)
	}
	return nil
}

const heading = `# How fast it is

Medians of %d rounds in which everything is measured in turn; of large schools, of 15 requests. Most are ratios to a
bare loop over the same data. Made by "make bench-all". A phone is a processor four times slower than this one, on a
line of 1.6 Mbit/s.

| what | when the targets were set | now | target |
|---|---|---|---|
`

func table(m measured, rounds int) string {
	var b strings.Builder
	fmt.Fprintf(&b, heading, rounds)
	for _, f := range figures {
		fmt.Fprintf(&b, "| %s | %s | %s | %s |\n", f.what, f.first, f.now(m), f.target)
	}
	return b.String()
}
