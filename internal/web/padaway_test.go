package web

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/marking"
	"maestrale/core/record"
	"maestrale/internal/store"
)

// pad is a device that marks without a network.
type phone struct {
	*client
	device uuid.UUID
	seq    int64
	off    time.Duration // by which its clock is wrong
}

// hover is a hover that was marked on the device at a moment of the server's clock.
func (p *phone) hover(student uuid.UUID, at time.Time) map[string]any {
	p.seq++
	m := hoverMarks(store.NewID().String())
	o := m["opening"].(map[string]any)
	o["student"], o["device_at"] = student.String(), at.Add(p.off).UTC().Format(time.RFC3339Nano)
	return map[string]any{"seq": p.seq, "opening": o, "marks": m["marks"], "now_s": 40}
}

type synced struct {
	Items []struct {
		ID    string
		Error string
		Kept  []string
		State *marking.State
	}
	Cut bool
}

func (p *phone) sync(items ...map[string]any) (synced, int) {
	p.s.t.Helper()
	r := p.json("/pad/sync", map[string]any{"device": p.device, "name": "tablet",
		"device_now": p.s.app.Now().Add(p.off).UTC().Format(time.RFC3339Nano), "items": items})
	var out synced
	if err := json.Unmarshal([]byte(r.body), &out); err != nil && r.status == http.StatusOK {
		p.s.t.Fatalf("%v %s", err, r.body)
	}
	return out, r.status
}

func (s *site) pad(role string, off time.Duration) *phone {
	return &phone{client: s.as(role), device: store.NewID(), off: off}
}

func (s *site) times(order string) (out []time.Time) {
	s.t.Helper()
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		rows, err := tx.Query(bg, `SELECT a.at FROM attempts a JOIN openings o ON o.id = a.id ORDER BY `+order)
		if err != nil {
			return err
		}
		defer rows.Close()
		for rows.Next() {
			var at time.Time
			if err := rows.Scan(&at); err != nil {
				return err
			}
			out = append(out, at)
		}
		return rows.Err()
	})
	if err != nil {
		s.t.Fatal(err)
	}
	return out
}

// What a device marked without a network is stored once, however often and in which order
// it comes, with its clock set right and in the order of its own counter.
func TestADeviceComesBack(t *testing.T) {
	for _, off := range []time.Duration{0, -3 * time.Hour, 400 * 24 * time.Hour} { // also marks dated next year
		s := newSite(t)
		p := s.pad(store.Instructor, off)
		now := time.Now()
		var items []map[string]any
		for i := range 5 {
			items = append(items, p.hover([]uuid.UUID{s.student, s.other}[i%2], now.Add(time.Duration(i-8)*10*time.Minute)))
		}
		// Its clock was put back between: the counter knows better.
		items[3]["opening"].(map[string]any)["device_at"] = now.Add(-300 * time.Hour).Add(off).UTC().Format(time.RFC3339Nano)
		rand.New(rand.NewPCG(1, 2)).Shuffle(len(items), func(i, j int) { items[i], items[j] = items[j], items[i] })
		for range 3 {
			got, status := p.sync(items...)
			if status != http.StatusOK || len(got.Items) != 5 {
				t.Fatalf("%d %+v", status, got)
			}
			for _, it := range got.Items {
				if it.Error != "" || len(it.Kept) != 4 || it.State == nil || it.State.Verdict == nil ||
					it.State.Verdict.Verdict != "pass" {
					t.Errorf("%+v", it)
				}
			}
		}
		if a, m := s.count("attempts"), s.count("marks"); a != 5 || m != 20 {
			t.Errorf("%d attempts, %d marks", a, m)
		}
		times := s.times("o.device_seq")
		for i, at := range times {
			if i > 0 && !at.After(times[i-1]) {
				t.Errorf("clock off by %v: %v is not after %v", off, at, times[i-1])
			}
			if want := now.Add(time.Duration(i-8) * 10 * time.Minute); i != 3 && (at.Sub(want).Abs() > time.Minute ||
				at.After(time.Now())) {
				t.Errorf("clock off by %v: attempt %d at %v, marked at %v", off, i, at, want)
			}
		}
	}
}

// Later attempts may come first: the order is still the counter's.
func TestLaterComesFirst(t *testing.T) {
	s := newSite(t)
	p := s.pad(store.Instructor, 0)
	now := time.Now().Add(-time.Hour)
	first, second := p.hover(s.student, now.Add(30*time.Minute)), p.hover(s.student, now) // a clock that went back
	p.sync(second)
	p.sync(first)
	if times := s.times("o.device_seq"); len(times) != 2 || !times[1].After(times[0]) {
		t.Errorf("%v", times)
	}
}

// Two people who mark the same flight are told; nothing is merged, the second does not
// count until a person decides, and the other becomes void.
func TestMarkedTwice(t *testing.T) {
	d := newFieldDay(t)
	d.as(store.Instructor).form("/today/day", d.form(1))
	a, b := d.pad(store.Instructor, 0), d.pad(store.Chief, 0)
	at := d.app.Now().Add(-time.Hour)
	a.sync(a.hover(d.student, at), a.hover(d.other, at))
	got, _ := b.sync(b.hover(d.student, at.Add(5*time.Second)))
	if v := got.Items[0].State.Verdict; v.Counts || !strings.Contains(v.WhyNot, "somebody else marked the same flight") {
		t.Errorf("%+v", v)
	}
	if got, _ := b.sync(b.hover(d.student, at.Add(20*time.Minute))); !got.Items[0].State.Verdict.Counts {
		t.Errorf("another time is no conflict: %+v", got.Items[0].State.Verdict)
	}
	if n := d.count("conflicts"); n != 1 {
		t.Fatalf("%d conflicts", n)
	}
	board := boardText(a.client)
	if !strings.Contains(board, "Marked twice") || !strings.Contains(board, "by The instructor") ||
		!strings.Contains(board, "by The chief") {
		t.Errorf("%s", board)
	}
	var id, second uuid.UUID
	err := appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		return tx.QueryRow(bg, `SELECT id, second_id FROM conflicts`).Scan(&id, &second)
	})
	if err != nil {
		t.Fatal(err)
	}
	path := "/today/conflicts/" + id.String()
	if r := a.form(path, url.Values{"stands": {store.NewID().String()}}); r.status != http.StatusNotFound {
		t.Errorf("%d", r.status)
	}
	if r := a.form(path, url.Values{"stands": {second.String()}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if r := a.form(path, url.Values{"stands": {second.String()}}); r.status != http.StatusNotFound {
		t.Errorf("settled twice: %d", r.status)
	}
	var counts, voids int
	err = appStore.InSchool(bg, d.school, func(tx store.Tx) error {
		return tx.QueryRow(bg, `SELECT count(*) FILTER (WHERE counts AND verdict <> 'void'),
		count(*) FILTER (WHERE verdict = 'void') FROM attempts a
			WHERE student_id = $1 AND NOT EXISTS (SELECT FROM attempts c WHERE c.corrects = a.id)`,
			d.student).Scan(&counts, &voids)
	})
	if err != nil || counts != 2 || voids != 1 {
		t.Errorf("%d count, %d void, %v", counts, voids, err)
	}
	if strings.Contains(boardText(a.client), "Marked twice") {
		t.Error("it is settled, and the board still asks")
	}
}

// A lost tablet is cut off: nothing is taken from it any more, and its sign-in ends.
func TestALostTablet(t *testing.T) {
	s := newSite(t)
	p, chief := s.pad(store.Instructor, 0), s.as(store.Chief)
	if _, status := p.sync(p.hover(s.student, time.Now().Add(-time.Hour))); status != http.StatusOK {
		t.Fatal(status)
	}
	if r := p.form("/devices/"+p.device.String()+"/cut", nil); r.status != http.StatusForbidden {
		t.Errorf("an instructor: %d", r.status)
	}
	if page := text(chief.get("/today").body); !strings.Contains(page, "tablet") ||
		!strings.Contains(page, "Disconnect this device") {
		t.Errorf("%s", page)
	}
	if r := chief.form("/devices/"+p.device.String()+"/cut", nil); r.status != http.StatusSeeOther {
		t.Fatalf("%d", r.status)
	}
	if got, status := p.sync(p.hover(s.student, time.Now())); status != http.StatusForbidden || !got.Cut ||
		s.count("attempts") != 1 {
		t.Errorf("%d %+v, %d attempts", status, got, s.count("attempts"))
	}
	if r := p.get("/students"); r.status != http.StatusSeeOther {
		t.Errorf("its sign-in goes on: %d", r.status)
	}
	// Signed in anew, it is still cut off.
	again := &phone{client: s.as(store.Instructor), device: p.device}
	if got, status := again.sync(again.hover(s.student, time.Now())); status != http.StatusForbidden || !got.Cut {
		t.Errorf("%d %+v", status, got)
	}
	foreign := newSite(t).pad(store.Instructor, 0)
	foreign.device = p.device
	if _, status := foreign.sync(); status == http.StatusOK {
		t.Error("a device of two schools")
	}
}

// serveForTest is a server in a process of its own, which can be killed.
func serveForTest(url string) {
	st, err := store.Open(bg, url, nil)
	if err != nil {
		panic(err)
	}
	app, err := New(Options{Store: st, Catalogue: drill.Shipped(), Log: slog.New(slog.DiscardHandler)})
	if err != nil {
		panic(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		panic(err)
	}
	fmt.Println("http://" + l.Addr().String())
	_ = http.Serve(l, app) //nolint:gosec // of a test
}

// The server is killed in mid-sync, again and again: what it had answered for is there,
// and in the end everything is, once.
func TestKilledInMidSync(t *testing.T) {
	if testing.Short() {
		t.Skip("the server is killed again and again")
	}
	s := newSite(t)
	var items []map[string]any
	p := s.pad(store.Instructor, 0)
	for i := range 60 {
		items = append(items, p.hover(s.student, time.Now().Add(time.Duration(i-100)*time.Hour)))
	}
	answered := map[string]bool{}
	kills := 0
	for round := 0; len(answered) < len(items); round++ {
		if round > 40 {
			t.Fatalf("%d of %d after %d kills", len(answered), len(items), kills)
		}
		child := exec.Command(os.Args[0]) //nolint:gosec // this test itself
		child.Env = append(os.Environ(), "MAESTRALE_TEST_SERVER="+ownerURL)
		out, err := child.StdoutPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := child.Start(); err != nil {
			t.Fatal(err)
		}
		line := bufio.NewScanner(out)
		if !line.Scan() {
			t.Fatal("the server did not start")
		}
		other := *s
		other.url = line.Text()
		q := &phone{client: other.as(store.Instructor), device: p.device}
		die := time.AfterFunc(time.Duration(40+round*60)*time.Millisecond, func() { _ = child.Process.Kill(); kills++ })
		var left []map[string]any // and one that it has said it has
		for _, it := range items {
			if id := it["opening"].(map[string]any)["id"].(string); !answered[id] || len(left) == 0 {
				left = append(left, it)
			}
		}
		for i := 0; i < len(left); i += 4 { // in handfuls, as a slow line would
			got, err := q.trySync(left[i:min(i+4, len(left))])
			if err != nil {
				break
			}
			for _, it := range got.Items {
				if len(it.Kept) == 4 {
					answered[it.ID] = true
				}
			}
		}
		die.Stop()
		_ = child.Process.Kill()
		_ = child.Wait()
		for id := range answered {
			var marks int
			err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
				return tx.QueryRow(bg, `SELECT count(*) FROM marks m JOIN attempts a ON a.id = m.opening_id
					WHERE m.opening_id = $1`, id).Scan(&marks)
			})
			if err != nil || marks != 4 {
				t.Fatalf("it had answered for %s, which has %d marks, %v", id, marks, err)
			}
		}
	}
	if a, m := s.count("attempts"), s.count("marks"); a != 60 || m != 240 || kills == 0 {
		t.Errorf("%d attempts, %d marks after %d kills", a, m, kills)
	}
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		chain, err := tx.Chain(bg, s.student)
		if err == nil {
			_, err = record.Verify(chain)
		}
		return err
	})
	if err != nil {
		t.Error(err)
	}
	t.Logf("%d kills", kills)
}

// trySync is sync by a server that may be killed.
func (p *phone) trySync(items []map[string]any) (out synced, err error) {
	data, err := json.Marshal(map[string]any{"device": p.device, "device_now": time.Now().UTC(), "items": items})
	if err != nil {
		return out, err
	}
	resp, err := p.Post(p.s.url+"/pad/sync", "application/json", bytes.NewReader(data))
	if err != nil {
		return out, err
	}
	defer func() { _ = resp.Body.Close() }()
	return out, json.NewDecoder(resp.Body).Decode(&out)
}

func TestSyncRefuses(t *testing.T) {
	s := newSite(t)
	p := s.pad(store.Instructor, 0)
	bad := p.hover(s.student, time.Now())
	bad["opening"].(map[string]any)["drill"] = "moon"
	nobody := p.hover(store.NewID(), time.Now())
	good := p.hover(s.student, time.Now().Add(-time.Minute))
	got, status := p.sync(bad, nobody, good)
	if status != http.StatusOK || !strings.Contains(got.Items[0].Error, "not known") ||
		!strings.Contains(got.Items[1].Error, "not in this school") || got.Items[2].Error != "" || s.count("attempts") != 1 {
		t.Errorf("%d %+v", status, got)
	}
	for what, body := range map[string]any{"nothing": map[string]any{},
		"no device": map[string]any{"device_now": time.Now(), "items": []any{}}, "text": "x"} {
		if r := p.json("/pad/sync", body); r.status != http.StatusBadRequest {
			t.Errorf("%s: %d", what, r.status)
		}
	}
	if r := s.as(store.Spotter).json("/pad/sync", map[string]any{}); r.status != http.StatusForbidden {
		t.Errorf("a spotter: %d", r.status)
	}
}

// Ten thousand marks come in one sync.
func TestAGreatSync(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	s := newSite(t)
	p := s.pad(store.Instructor, 0)
	var items []map[string]any
	for i := range 10 {
		it := p.hover(s.student, time.Now().Add(time.Duration(i-20)*time.Hour))
		var marks []any
		for k := range 999 {
			marks = append(marks, map[string]any{"id": store.NewID().String(), "t_s": 5 + float64(k)/100, "mark": []string{"in",
				"out"}[k%2]})
		}
		it["marks"] = append([]any{map[string]any{"id": store.NewID().String(), "t_s": 0, "mark": "start"}}, marks...)
		items = append(items, it)
	}
	if got, status := p.sync(items...); status != http.StatusOK || len(got.Items) != 10 || s.count("marks") != 10000 {
		t.Errorf("%d, %d marks", status, s.count("marks"))
	}
}

// Forty devices that come back at once with fifty marks each.
func BenchmarkFortyDevices(b *testing.B) {
	s := newSite(b)
	students := []uuid.UUID{s.student, s.other}
	for i := range 10 {
		id := store.NewID()
		err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
			return tx.AddStudent(bg, store.Student{ID: id, Name: fmt.Sprint("Student ", i), Programme: "position-hold-first",
				CraftType: "poiana", StartedOn: time.Now()})
		})
		if err != nil {
			b.Fatal(err)
		}
		students = append(students, id)
	}
	pads := make([]*phone, 40)
	for i := range pads {
		pads[i] = s.pad(store.Instructor, 0)
	}
	round := 0
	for b.Loop() {
		b.StopTimer()
		round++
		items := make([][]map[string]any, len(pads))
		for i, p := range pads {
			for k := range 12 { // four marks each, and two more
				items[i] = append(items[i], p.hover(students[(i+k)%len(students)],
					time.Now().Add(-time.Duration(round*60*24+i*30+k)*time.Minute)))
			}
		}
		before := s.count("attempts")
		b.StartTimer()
		var all sync.WaitGroup
		for i, p := range pads {
			all.Add(1)
			go func() { defer all.Done(); p.sync(items[i]...) }()
		}
		all.Wait()
		b.StopTimer()
		if n := s.count("attempts") - before; n != 40*12 {
			b.Fatal(fmt.Sprint(n, " attempts"))
		}
		b.StartTimer()
	}
}

// The day on a device is what the desk opens, and has only those who fly today.
func TestTheDayOnADevice(t *testing.T) {
	d := newFieldDay(t)
	teacher := d.as(store.Instructor)
	r := teacher.get("/pad/day")
	desk, err := marking.Open([]byte(r.body))
	if r.status != http.StatusOK || err != nil || len(desk.Students) != 2 || desk.Bundle.Course.Key == "" ||
		time.Until(desk.Until) < 13*time.Hour {
		t.Fatalf("%d %v %+v", r.status, err, desk)
	}
	form := d.form(1)
	form.Set("flights-"+d.other.String(), "0")
	teacher.form("/today/day", form)
	if desk, err = marking.Open([]byte(teacher.get("/pad/day").body)); err != nil || len(desk.Students) != 1 {
		t.Errorf("%v, %d students", err, len(desk.Students))
	}
	// A newer pad waits until the one that is open says that its day is over.
	if worker := d.as("").get("/sw.js").body; strings.Count(worker, "skipWaiting") != 1 ||
		!strings.Contains(worker, "take over") {
		t.Errorf("a newer pad takes over in mid-day: %s", worker)
	}
	for path, want := range map[string]string{"/pad": "pad.js", "/sw.js": "self.KEEP = [\"/pad\"",
		"/pad.webmanifest": "standalone"} {
		if r := d.as("").get(path); r.status != http.StatusOK || !strings.Contains(r.body, want) || strings.Contains(r.body,
			"First Student") {
			t.Errorf("%s: %d %.200s", path, r.status, r.body)
		}
	}
}
