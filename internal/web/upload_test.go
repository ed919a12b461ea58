package web

import (
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"sync/atomic"
	"testing"

	"maestrale/internal/store"
)

const goodLog = "t_s,x_m,y_m,z_m,heading_deg\n0,0,6,0,0\n1,0,6,0,0\n3,0,6,1.5,0\n26,0,6,1.5,0\n30,0,6,0,0\n32,0,6,0,0\n"

func TestBadLogs(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	for name, tc := range map[string]struct {
		file   string
		status int
		says   string
	}{
		"empty":                {"", 422, "empty"},
		"header and no rows":   {"t_s,x_m,y_m,z_m\n", 422, "no rows"},
		"time goes back":       {"t_s,x_m,y_m,z_m\n0,0,0,0\n1,0,0,0\n0.5,0,0,0\n", 422, "line 4: the time goes from 1 s to 0.5 s"},
		"NaN":                  {"t_s,x_m,y_m,z_m\n0,NaN,0,0\n1,0,0,0\n", 422, "line 2: x_m is &#34;NaN&#34;"},
		"1e308":                {"t_s,x_m,y_m,z_m\n0,0,0,1e308\n1,0,0,0\n", 422, "line 2: z_m is"},
		"a picture named .csv": {"\x89PNG\r\n\x1a\n\x00\x00\x00", 422, "not text"},
		"markup":               {"<script>alert(1)</script>\n", 422, "no column t_s"},
	} {
		r := c.upload(s.student, "log.csv", strings.NewReader(tc.file), nil)
		if r.status != tc.status || !strings.Contains(r.body, tc.says) || !strings.Contains(r.body, "Nothing was kept") || strings.Contains(r.body, "<script>alert") {
			t.Errorf("%s: %d, wanted %q in\n%s", name, r.status, tc.says, regexp.MustCompile(`(?s)role="alert">.*?</p>`).FindString(r.body))
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
		if resp.StatusCode != http.StatusRequestEntityTooLarge || !strings.Contains(string(body), "refused while it was being read") {
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
	r := c.upload(s.student, "log.csv", strings.NewReader(goodLog), map[string]string{"drill": "hover-tail-in", "aids": "position-hold"})
	if r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, r.body)
	}
	at, _, _ := strings.Cut(r.header.Get("Location"), "?")
	preview := c.get(r.header.Get("Location"))
	if preview.status != 200 || !strings.Contains(preview.body, "pass") || s.count("attempts") != 0 {
		t.Fatalf("preview: %d, %d attempts", preview.status, s.count("attempts"))
	}
	kept := c.form(at, url.Values{"drill": {"hover-tail-in"}, "side": {"none"}, "level": {"1"}, "craft": {"poiana"}, "aids": {"position-hold"}, "do": {"keep"}})
	if kept.status != http.StatusSeeOther || s.count("attempts") != 1 || s.count("uploads") != 0 || s.count("tracks") != 1 {
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
	if r := c.get(at); r.status != http.StatusUnprocessableEntity || !strings.Contains(r.body, "semicolons") || s.count("attempts") != 0 {
		t.Fatalf("asks: %d", r.status)
	}
	if r := c.get(at + "&semicolons=yes"); r.status != http.StatusUnprocessableEntity || !strings.Contains(r.body, "no column t_s, x_m") {
		t.Errorf("columns: %d", r.status)
	}
	if r := c.get(at + "&semicolons=yes&col-seconds=t_s&col-east=x_m"); r.status != 200 || !strings.Contains(r.body, "big-verdict pass") {
		t.Errorf("mapped: %d %s", r.status, regexp.MustCompile(`(?s)role="alert">.*?</p>`).FindString(r.body))
	}
	path, _, _ := strings.Cut(at, "?")
	if r := c.form(path, url.Values{"do": {"throw"}}); r.status != http.StatusSeeOther || s.count("uploads") != 0 {
		t.Errorf("thrown away: %d, %d uploads", r.status, s.count("uploads"))
	}
}
