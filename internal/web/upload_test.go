package web

import (
	"bytes"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/google/uuid"

	"maestrale/core/field"
	"maestrale/core/track"
	"maestrale/internal/store"
)

// goodLog is a hover to a pass, two samples a second.
var goodLog = logOf(0, [][2]float64{{0, 0}, {1, 0}, {3, 1.5}, {26, 1.5}, {30, 0}, {32, 0}})

// logOf is a log of heights over time, straight from one to the next.
func logOf(from float64, heights [][2]float64) string {
	rows := "t_s,x_m,y_m,z_m,heading_deg\n"
	for i := 1; i < len(heights); i++ {
		a, b := heights[i-1], heights[i]
		for t := a[0]; t < b[0] || i == len(heights)-1 && t == b[0]; t += 0.5 {
			rows += fmt.Sprintf("%g,0,6,%g,0\n", from+t, a[1]+(b[1]-a[1])*(t-a[0])/(b[0]-a[0]))
		}
	}
	return rows
}

func TestBadLogs(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	for name, tc := range map[string]struct {
		file   string
		status int
		says   string
	}{
		"empty":              {"", 422, "empty"},
		"header and no rows": {"t_s,x_m,y_m,z_m\n", 422, "no rows"},
		"time goes back": {"t_s,x_m,y_m,z_m\n0,0,0,0\n1,0,0,0\n0.5,0,0,0\n", 422,
			"line 4: the time goes from 1 s to 0.5 s"},
		"NaN":                  {"t_s,x_m,y_m,z_m\n0,NaN,0,0\n1,0,0,0\n", 422, "line 2: x_m is &#34;NaN&#34;"},
		"1e308":                {"t_s,x_m,y_m,z_m\n0,0,0,1e308\n1,0,0,0\n", 422, "line 2: z_m is"},
		"a picture named .csv": {"\x89PNG\r\n\x1a\n\x00\x00\x00", 422, "not text"},
		"markup":               {"<script>alert(1)</script>\n", 422, "a gpx or a kml element"},
	} {
		r := c.upload(s.student, "log.csv", strings.NewReader(tc.file), nil)
		if r.status != tc.status || !strings.Contains(r.body, tc.says) || !strings.Contains(r.body, "Nothing was kept") ||
			strings.Contains(r.body, "<script>alert") {
			t.Errorf("%s: %d, wanted %q in\n%s", name, r.status, tc.says,
				regexp.MustCompile(`(?s)role="alert">.*?</p>`).FindString(r.body))
		}
	}
	if n := s.count("attempts") + s.count("uploads") + s.count("tracks"); n != 0 {
		t.Errorf("%d rows were left behind", n)
	}
}

// zeros is an endless file; it counts what was taken of it.
type zeros struct{ taken atomic.Int64 }

func (z *zeros) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = '0'
	}
	if z.taken.Add(int64(len(p))) > 400<<20 {
		return 0, io.EOF
	}
	return len(p), nil
}

func TestALargeLogIsRefusedWhileItIsRead(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	z := &zeros{}
	r, w := io.Pipe()
	form := multipart.NewWriter(w)
	go func() {
		part, err := form.CreateFormFile("file", "large.csv")
		if err == nil {
			_, err = io.Copy(part, z)
		}
		_ = w.CloseWithError(err)
	}()
	req, _ := http.NewRequest("POST", s.url+"/students/"+s.student.String()+"/log", r)
	req.Header.Set("Content-Type", form.FormDataContentType())
	resp, err := c.Do(req)
	if err == nil { // the server may close before the answer is read
		body, _ := io.ReadAll(resp.Body)
		_ = resp.Body.Close()
		if resp.StatusCode != http.StatusRequestEntityTooLarge || !strings.Contains(string(body),
			"refused while it was being read") {
			t.Errorf("%d %.200s", resp.StatusCode, body)
		}
	}
	_ = r.CloseWithError(io.ErrClosedPipe)
	if taken := z.taken.Load(); taken > 80<<20 {
		t.Errorf("%d MB of it were taken", taken>>20)
	}
	if n := s.count("uploads"); n != 0 {
		t.Errorf("%d uploads were left behind", n)
	}
}

func TestScoreALog(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	r := c.upload(s.student, "log.csv", strings.NewReader(goodLog), map[string]string{"drill": "hover-tail-in",
		"aids": "position-hold"})
	if r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, r.body)
	}
	at, _, _ := strings.Cut(r.header.Get("Location"), "?")
	preview := c.get(r.header.Get("Location"))
	if preview.status != 200 || !strings.Contains(preview.body, "pass") || s.count("attempts") != 0 {
		t.Fatalf("preview: %d, %d attempts", preview.status, s.count("attempts"))
	}
	kept := c.form(at, url.Values{"drill": {"hover-tail-in"}, "side": {"none"}, "level": {"1"}, "craft": {"poiana"},
		"aids": {"position-hold"}, "do": {"keep"}})
	if kept.status != http.StatusSeeOther || s.count("attempts") != 1 || s.count("uploads") != 0 ||
		s.count("tracks") != 1 {
		t.Fatalf("kept: %d, %d attempts, %d uploads", kept.status, s.count("attempts"), s.count("uploads"))
	}
	if r := c.get(kept.header.Get("Location")); r.status != 200 || !strings.Contains(r.body, `class="flown"`) {
		t.Errorf("debrief: %d", r.status)
	}
	if r := c.get(kept.header.Get("Location") + "/track.csv"); r.body != goodLog {
		t.Errorf("the log came back changed: %q", r.body)
	}
	if r := c.form(at, url.Values{"do": {"keep"}}); r.status != http.StatusNotFound || s.count("attempts") != 1 {
		t.Errorf("kept twice: %d, %d attempts", r.status, s.count("attempts"))
	}
}

func TestColumnsAreMappedAndSemicolonsConfirmed(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	odd := strings.ReplaceAll(strings.Replace(goodLog, "t_s,x_m", "seconds,east", 1), ",", ";")
	odd = strings.ReplaceAll(odd, "1.5", "1,5")
	r := c.upload(s.student, "odd.csv", strings.NewReader("\xef\xbb\xbf"+strings.ReplaceAll(odd, "\n", "\r\n")), nil)
	at := r.header.Get("Location")
	if r := c.get(at); r.status != http.StatusUnprocessableEntity || !strings.Contains(r.body, "semicolons") ||
		s.count("attempts") != 0 {
		t.Fatalf("asks: %d", r.status)
	}
	if r := c.get(at + "&semicolons=yes"); r.status != http.StatusUnprocessableEntity || !strings.Contains(r.body,
		"no column t_s, x_m") {
		t.Errorf("columns: %d", r.status)
	}
	if r := c.get(at + "&semicolons=yes&col-seconds=t_s&col-east=x_m"); r.status != 200 || !strings.Contains(r.body,
		"big-verdict pass") {
		t.Errorf("mapped: %d %s", r.status, regexp.MustCompile(`(?s)role="alert">.*?</p>`).FindString(r.body))
	}
	path, _, _ := strings.Cut(at, "?")
	if r := c.form(path, url.Values{"do": {"throw"}}); r.status != http.StatusSeeOther || s.count("uploads") != 0 {
		t.Errorf("thrown away: %d, %d uploads", r.status, s.count("uploads"))
	}
}

// A log in another open format is read once the field's place is known, with its
// heights from the sea or from the pad, and is kept as it came.
func TestALogOfAnotherFormat(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	tr, _, err := track.ReadCSV(strings.NewReader(goodLog), track.CSVOptions{})
	if err != nil {
		t.Fatal(err)
	}
	p, err := field.NewPlane(field.Geo{LatDeg: 44.95, LonDeg: 13.05, AltM: 2}, 30)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range []track.Format{track.GPX, track.IGC, track.KML, track.GeoJSON} {
		var file bytes.Buffer
		if _, err := track.Write(&file, tr, f, p); err != nil {
			t.Fatal(err)
		}
		r := c.upload(s.student, "log."+string(f), &file, nil)
		if r.status != http.StatusSeeOther {
			t.Fatalf("%s: %d %s", f, r.status, text(r.body))
		}
		at := r.header.Get("Location")
		if asks := c.get(at); asks.status != http.StatusUnprocessableEntity || !strings.Contains(asks.body,
			"Where the field is") || !strings.Contains(asks.body, "nothing ties it to the field") {
			t.Errorf("%s: %d %s", f, asks.status, text(asks.body))
		}
		read := c.get(at + "&lat=44.95&lon=13.05&alt=2&away=30")
		if read.status != http.StatusOK || !strings.Contains(read.body, "heights count from the sea") ||
			!strings.Contains(text(read.body), "Hold for 20 s over") {
			t.Errorf("%s: %d %s", f, read.status, text(read.body))
		}
		if high := c.get(at + "&lat=44.95&lon=13.05&alt=2&away=30&heights=pad"); !strings.Contains(high.body,
			"heights count from the pad; the lowest point lies 2.0 m above") {
			t.Errorf("%s from the pad: %s", f, text(high.body))
		}
	}
}

// A log with more than one flight says so; the one that is chosen is scored, kept, and
// drawn by itself.
func TestALogOfSeveralFlights(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	_, second, _ := strings.Cut(logOf(100, [][2]float64{{0, 0}, {1, 0}, {3, 1.5}, {26, 1.5}, {30, 0}, {32, 0}}), "\n")
	// the first comes down soon
	file := logOf(0, [][2]float64{{0, 0}, {1, 0}, {3, 1.5}, {6, 1.5}, {9, 0}, {12, 0}}) + second
	r := c.upload(s.student, "log.csv", strings.NewReader(file), map[string]string{"drill": "hover-tail-in",
		"aids": "position-hold"})
	at := r.header.Get("Location")
	page := c.get(at)
	if !strings.Contains(page.body, "This log holds 2 flights") || !strings.Contains(page.body, "likely this one") {
		t.Fatalf("%d %s", page.status, text(page.body))
	}
	m := regexp.MustCompile(`<option value="([\d.]+-[\d.]+)"[^>]*>flight 2`).FindStringSubmatch(page.body)
	if m == nil {
		t.Fatal(text(page.body))
	}
	if page = c.get(at + "&part=" + m[1]); !strings.Contains(page.body, "big-verdict pass") {
		t.Errorf("%d %s", page.status, text(page.body))
	}
	path, _, _ := strings.Cut(at, "?")
	kept := c.form(path, url.Values{"drill": {"hover-tail-in"}, "side": {"none"}, "level": {"1"}, "craft": {"poiana"},
		"aids": {"position-hold"}, "part": {m[1]}, "do": {"keep"}})
	if kept.status != http.StatusSeeOther {
		t.Fatalf("%d %s", kept.status, text(kept.body))
	}
	if d := c.get(kept.header.Get("Location")); d.status != http.StatusOK || strings.Contains(d.body, ">5 s<") ||
		!strings.Contains(text(d.body), "pass") {
		t.Errorf("%d %s", d.status, text(d.body))
	}
}

// How the columns were read is offered for the next log with the same header, at this
// school and not at another; what the form says comes first.
func TestColumnsAreReadAsBefore(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	odd := strings.Replace(goodLog, "t_s,x_m", "seconds,east", 1)
	give := func(c *client, student uuid.UUID) string {
		return c.upload(student, "odd.csv", strings.NewReader(odd), map[string]string{"drill": "hover-tail-in",
			"aids": "position-hold"}).header.Get("Location")
	}
	at := give(c, s.student)
	if r := c.get(at); r.status != http.StatusUnprocessableEntity || !strings.Contains(r.body, "no column t_s, x_m") {
		t.Fatalf("new names: %d", r.status)
	}
	path, _, _ := strings.Cut(at, "?")
	mapped := url.Values{"drill": {"hover-tail-in"}, "side": {"none"}, "level": {"1"}, "craft": {"poiana"},
		"aids": {"position-hold"}, "col-seconds": {"t_s"}, "col-east": {"x_m"}, "do": {"keep"}}
	if r := c.form(path, mapped); r.status != http.StatusSeeOther {
		t.Fatalf("kept: %d", r.status)
	}
	again := give(c, s.other)
	if r := c.get(again); r.status != 200 || !strings.Contains(r.body, "big-verdict pass") || !strings.Contains(r.body,
		"read as they were when a log with this header was kept") {
		t.Errorf("the same header again: %d", r.status)
	}
	if r := c.get(again + "&col-seconds=-&col-east=x_m"); r.status != http.StatusUnprocessableEntity {
		t.Errorf("the form says otherwise: %d", r.status)
	}
	foreign := newSite(t)
	if r := foreign.as(store.Instructor).get(give(foreign.as(store.Instructor),
		foreign.student)); r.status != http.StatusUnprocessableEntity {
		t.Errorf("another school: %d", r.status)
	}
}
