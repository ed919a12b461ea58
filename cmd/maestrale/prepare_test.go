package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"math"
	"net"
	"strings"
	"testing"
	"time"

	"maestrale/core/air"
	"maestrale/core/field"
	"maestrale/core/plan"
	"maestrale/core/track"
)

func TestPackCommand(t *testing.T) {
	status, out, errOut := call(t, "", "pack", "--craft", "poiana", "--cells", "4.31/4.30/4.32/4.31", "--wind", "5@180",
		"--lesson", "60", "--lean", "10", "--elevation", "1500", "--temp", "28")
	if status != 0 || errOut != "" {
		t.Fatalf("%d %s", status, errOut)
	}
	var got packOutput
	if err := json.Unmarshal([]byte(out), &got); err != nil {
		t.Fatal(err)
	}
	want, _ := air.Density(1500, 28)
	if got.Format != "maestrale-pack/1" || math.Abs(got.Density-want) > 1e-9 || *got.Packs < 3 || got.HoverS < 600 ||
		got.HomeM <= 0 || got.WindFromLn.WindMps <= 0 || math.Abs(*got.SpreadV-0.02) > 1e-9 {
		t.Errorf("%s", out)
	}
	// Thin warm air costs endurance.
	_, sea, _ := call(t, "", "pack", "--craft", "poiana", "--cells", "4.31/4.30/4.32/4.31")
	var low packOutput
	if err := json.Unmarshal([]byte(sea), &low); err != nil || low.HoverS <= got.HoverS {
		t.Errorf("%v s at the sea, %v s in the hills, %v", low.HoverS, got.HoverS, err)
	}
	if status, table, _ := call(t, "", "pack", "--craft", "gheppio", "--format", "table"); status != 0 ||
		!strings.Contains(table, "100 % charged") {
		t.Errorf("%d %s", status, table)
	}
}

func TestPackAndCourseRefuse(t *testing.T) {
	bad := file(t, "bad.yaml", "format: maestrale-course/1\nmarkers:\n  pad: [0, -4]\n")
	cross := file(t, "cross.yaml",
		"format: maestrale-course/1\nmarkers: {pad: [0, 4]}\ncrowd: [[[-5, -5], [5, -5]], [[0, -9], [0, -1]]]\n")
	pole := file(t, "pole.yaml",
		"format: maestrale-course/1\norigin: {lat: 90, lon: 0}\naway_deg: 0\nmarkers: {pad: [0, 4], centre: [0, 6]}\n")
	geo := file(t, "field.geojson",
		`{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"kind":"marker","name":"pad"},`+
			`"geometry":{"type":"Polygon","coordinates":[[[13,44],[13.1,44],[13,44.1],[13,44]]]}}]}`)
	for _, c := range []struct {
		args, want string
	}{
		{"pack --craft poiana --volts 21", "21.00 V on 4 cells is 5.25 V a cell"},
		{"pack --craft poiana --cells 4.2/4.2", "expected 4 for Poiana"},
		{"pack --craft poiana --cells 4.2/4.2/4.2/5", "cell 4"},
		{"pack --craft falco", "expected one of"},
		{"pack --craft poiana --elevation 20000", "expected -1000 to 9000"},
		{"pack --craft poiana --temp 90", "expected -60 to 60"},
		{"pack --craft poiana --reserve 2", "expected 0 to 0.9"},
		{"pack --craft poiana --wind fast", "MPS@FROM_DEG"},
		{"course", "either --course FILE or --template KEY"},
		{"course --template maze", "expected one of box"},
		{"course --template box --class huge", "expected one of"},
		{"course --course " + bad, "bad.yaml:3: marker pad stands 4.0 m behind the pilot"},
		{"course --course " + cross, "cross.yaml:3: crowd line 1 crosses crowd line 2"},
		{"course --course " + pole + " --at 2026-06-01T10:00:00Z",
			pole + ": latitude 90: at the pole the sun has no direction"},
		{"course --course " + geo, `feature 1 ("pad") is a Polygon and of kind marker; expected Point`},
		{"course --template box --at yesterday", "RFC 3339"},
		{"course --template box --at 2026-06-01T10:00:00Z", "expected origin and away_deg"},
		{"course --template box --aids magic", "expected one of"},
		{"course --template box --to kml", "origin and away_deg"},
		{"course --course nowhere.yaml", "nowhere.yaml: "},
		{"standin", "expected wind"},
		{"standin position ../../examples/hover-drift.csv", "expected --origin and --away"},
		{"standin position --origin 44.95,13.05,2 --away 90 --speed 0 ../../examples/hover-drift.csv", "over 0 and 100"},
		{"standin position --origin 44.95,13.05,2 --away 90 --addr 0.0.0.0:1 ../../examples/hover-drift.csv", "loopback"},
		{"standin position --origin 44.95,13.05,2 --away 90 nothing.csv", "expected a file"},
		{"standin wind --addr 0.0.0.0:1", "loopback"},
		{"standin wind --hz 0", "over 0"},
		{"standin charger --addr 0.0.0.0:1", "loopback"},
		{"standin charger --charger C1", "NAME=SLOTS"},
		{"standin charger --rate 40", "over 0 and 10"},
		{"standin wind --at noon", "14:30"},
	} {
		status, out, errOut := call(t, "", strings.Fields(c.args)...)
		if status != 2 || out != "" || !strings.Contains(errOut, c.want) || strings.Count(strings.TrimSpace(errOut),
			"\n") != 0 {
			t.Errorf("%s: %d %q, want %q", c.args, status, errOut, c.want)
		}
	}
}

func TestCourseCommand(t *testing.T) {
	yaml := file(t, "c.yaml", `format: maestrale-course/1
origin: {lat: 44.95, lon: 13.05, alt_m: 2}
away_deg: 135
station: [0, 0]
markers: {pad: [0, 6], centre: [0, 6], near-left: [-2, 4], near-right: [2, 4], far-left: [-2, 8], far-right: [2, 8]}
crowd: [[-20, -6], [20, -6]]
hazards:
  - {kind: wire, line: [[7, 6], [30, 6]], height_m: 6}
  - {kind: tree, line: [[-30, 45], [30, 45]], height_m: 18}
`)
	status, out, errOut := call(t, "", "course", "--course", yaml, "--wind", "4@200", "--at", "2026-05-01T07:00:00Z",
		"--until", "2026-05-01T10:00:00Z")
	if status != 0 || errOut != "" {
		t.Fatalf("%d %s", status, errOut)
	}
	var got courseOutput
	if err := json.Unmarshal([]byte(out), &got); err != nil {
		t.Fatal(err)
	}
	warned := false
	for _, k := range got.Clearances {
		warned = warned || k.Warn && k.To == "the wire"
	}
	if !warned || got.Advice.TurnDeg == nil || !got.Sun.Any || got.Return.HeightM != 30 || got.Return.HeightFt != 98 ||
		!got.Wind.Behind || got.TurnAway != "away" || len(got.Tapes) != 6 {
		t.Errorf("%s", out)
	}
	// The same course through another format gives the same survey.
	for _, to := range []string{"geojson", "kml"} {
		_, text, _ := call(t, "", "course", "--course", yaml, "--to", to)
		again := file(t, "c."+to, text)
		status, out2, errOut := call(t, "", "course", "--course", again, "--wind", "4@200", "--elevation", "2")
		var second courseOutput
		if err := json.Unmarshal([]byte(out2), &second); status != 0 || err != nil {
			t.Fatalf("%s: %d %s %v", to, status, errOut, err)
		}
		if math.Abs(second.Advice.MoveM-got.Advice.MoveM) > 0.01 || second.Return != got.Return ||
			math.Abs(second.Tapes[4].LengthM-got.Tapes[4].LengthM) > 0.005 {
			t.Errorf("%s: %+v", to, second)
		}
	}
	if status, table, _ := call(t, "", "course", "--template", "oval", "--class", "heavy", "--craft", "airone", "--format",
		"table"); status != 0 || !strings.Contains(table, "left-end") {
		t.Errorf("%d %s", status, table)
	}
}

// The stand-in serves until it is told to stop, over the loopback.
func TestStandInServes(t *testing.T) {
	var out bytes.Buffer
	r, w := net.Pipe()
	go func() {
		run([]string{"standin", "wind", "--addr", "127.0.0.1:0", "--hz", "20", "--at", "14:00"}, nil, w, &out)
	}()
	line, err := bufio.NewReader(r).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	conn, err := net.Dial("tcp", strings.TrimSpace(strings.TrimPrefix(line, "wind meter serves on ")))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close() }()
	said, err := bufio.NewReader(conn).ReadString('\n')
	if h, parseErr := air.ParseMWV(said); err != nil || parseErr != nil || h.Mps < 2 {
		t.Errorf("%q: %+v, %v, %v", said, h, err, parseErr)
	}
}

// The stand-in craft says where it is as it flies: whoever listens gets the track back.
func TestStandInPosition(t *testing.T) {
	r, w := net.Pipe()
	var errs bytes.Buffer
	done := make(chan int, 1)
	go func() {
		done <- run([]string{"standin", "position", "--addr", "127.0.0.1:0", "--origin", "44.95,13.05,2", "--away", "90",
			"--speed", "20", "../../examples/hover-drift.csv"}, nil, w, &errs)
	}()
	line, err := bufio.NewReader(r).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	addr := strings.TrimSpace(line[strings.LastIndex(line, " "):])
	conn, err := net.Dial("tcp", addr)
	if err != nil {
		t.Fatal(err)
	}
	plane, err := field.NewPlane(field.Geo{LatDeg: 44.95, LonDeg: 13.05, AltM: 2}, 90)
	if err != nil {
		t.Fatal(err)
	}
	var rec track.Receiver
	heard := bufio.NewScanner(conn)
	fixes, last := 0, time.Time{}
	for fixes < 50 && heard.Scan() {
		x, ok, err := rec.Hear(heard.Text())
		if err != nil {
			t.Fatal(err)
		}
		if !ok {
			continue
		}
		fixes++
		at, z := plane.ToField(x.Geo)
		if math.Abs(at.X) > 5 || at.Y < 1 || at.Y > 12 || z < -0.5 || z > 5 || x.At.Before(last) || math.IsNaN(x.Heading) {
			t.Errorf("%+v at %v, %.2f m", x, at, z)
		}
		last = x.At
	}
	if fixes < 50 {
		t.Errorf("%d fixes, %v", fixes, heard.Err())
	}
	for heard.Scan() { // to its end
	}
	if status := <-done; status != 0 || errs.Len() > 300 {
		t.Errorf("%d %s", status, errs.String())
	}
}

func TestDayCommand(t *testing.T) {
	status, out, errOut := call(t, "", "day", "--input", "../../examples/days/day-08.json")
	var p plan.Plan
	if err := json.Unmarshal([]byte(out), &p); err != nil || status != 0 || errOut != "" ||
		p.Format != "maestrale-day-plan/1" || len(p.Flights) != 34 || p.LowerBoundMinutes > p.MakespanMinutes {
		t.Fatalf("%d %s %v %d", status, errOut, err, len(p.Flights))
	}
	before := file(t, "plan.json", out)
	if status, table, errOut := call(t, "", "day", "--input", "../../examples/days/day-08.json", "--before", before,
		"--format", "table"); status != 0 || !strings.Contains(table, "34 as they were, 0 at another time") {
		t.Errorf("%d %s %s", status, errOut, table)
	}
	for args, want := range map[string]string{
		"day": "--input", "day --input ../../go.mod": "go.mod:1: ", "day --input ../../examples/days/day-08.json --before " +
			"../../go.mod": "go.mod:1: ",
		"day --input nothing.json": "expected a file", "day --input ../../examples/days/day-08.json --format " +
			"xml": "json or table",
	} {
		if status, out, errOut := call(t, "", strings.Fields(args)...); status != 2 || out != "" || !strings.Contains(errOut,
			want) {
			t.Errorf("%s: %d %q %q", args, status, out, errOut)
		}
	}
}
