package web

import (
	"bufio"
	"context"
	"encoding/json"
	"net"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/track"
	"maestrale/internal/standin"
	"maestrale/internal/store"
	"maestrale/internal/web/pad"
)

// A craft is followed by its position while it flies: the page is told how it stands, and
// the log becomes the attempt's track.
func TestACraftIsFollowed(t *testing.T) {
	laid, _ := course.Lay("box", craft.Light)
	laid.Plane, _ = field.NewPlane(field.Geo{LatDeg: 44.95, LonDeg: 13.05, AltM: 2}, 90)
	g := newGround(t, laid)
	chief, teacher := g.as(store.Chief), g.as(store.Instructor)
	q := "drill=hover-tail-in&side=none&aids=position-hold&level=1"
	at := "/students/" + g.student.String() + "/follow"
	if p := text(teacher.get(at + "?" + q).body); !strings.Contains(p, "No position stream is set") {
		t.Errorf("%s", p)
	}
	for addr, want := range map[string]int{"93.184.216.34:80": http.StatusUnprocessableEntity,
		"nowhere": http.StatusUnprocessableEntity} {
		if r := chief.form("/settings/position", url.Values{"address": {addr}}); r.status != want {
			t.Errorf("%s: %d", addr, r.status)
		}
	}
	file, err := os.Open("../../examples/hover-drift.csv")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = file.Close() }()
	tr, _, err := track.Read(file, track.Options{})
	if err != nil {
		t.Fatal(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	if r := chief.form("/settings/position", url.Values{"address": {l.Addr().String()}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	page := teacher.get(at + "?" + q)
	m := regexp.MustCompile(`follow/live\?id=([0-9a-f-]+)`).FindStringSubmatch(page.body)
	if page.status != http.StatusOK || m == nil || !strings.Contains(text(page.body), "on Pan, Course") {
		t.Fatalf("%d %s", page.status, text(page.body))
	}
	id := m[1]
	req, _ := http.NewRequest("GET", g.url+at+"/live?id="+id+"&"+q, nil)
	for _, k := range teacher.Jar.Cookies(mustURL(g.url)) {
		req.AddCookie(k)
	}
	resp, err := http.DefaultClient.Do(req)
	if err != nil || resp.StatusCode != http.StatusOK {
		t.Fatalf("%v %v", resp, err)
	}
	defer func() { _ = resp.Body.Close() }()
	ctx, cancel := context.WithCancel(context.Background())
	served := make(chan error, 1)
	go func() { // the craft takes off once somebody listens
		served <- standin.Position{Track: tr, Plane: laid.Plane, Speed: 30, Now: time.Now}.Serve(ctx, l)
	}()
	defer func() { cancel(); <-served }()
	lines := bufio.NewScanner(resp.Body)
	var last pad.Stance
	told, out := 0, false
	for lines.Scan() {
		data, ok := strings.CutPrefix(lines.Text(), "data: ")
		if !ok {
			continue
		}
		if err := json.Unmarshal([]byte(data), &last); err != nil {
			t.Fatal(err)
		}
		told++
		out = out || len(last.Faults) > 0
	}
	if told < 2 || !last.Heard || !out {
		t.Errorf("%d told, the last: %+v", told, last)
	}
	if r := teacher.form(at+"/"+store.NewID().String(), nil); r.status != http.StatusNotFound {
		t.Errorf("%d", r.status)
	}
	r := teacher.form(at+"/"+id, nil)
	if r.status != http.StatusSeeOther || r.header.Get("Location") != "/attempts/"+id {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if p := text(teacher.get("/attempts/" + id).body); !strings.Contains(p, "scored from a log") || !strings.Contains(p,
		"at Pan") || !strings.Contains(p, "to the right of the marker") {
		t.Errorf("%s", p)
	}
	if again := teacher.form(at+"/"+id, nil); again.status != http.StatusNotFound || g.count("attempts") != 1 {
		t.Errorf("kept twice: %d", again.status)
	}
}
