package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"slices"
	"strconv"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/internal/store"
)

// toldDay is what a device of the simulation marked, as the one who marked knows it.
type toldDay struct {
	Told []struct {
		ID, Student, By, Device string
		Began                   float64
		Seq                     int64
		Marks                   []struct{ ID, Mark string }
	}
	Log map[string]int
}

// offlineDays lets three devices mark for so many days, each in a world of its own, and says what they marked.
func offlineDays(t *testing.T, days, seed int) (*site, toldDay) {
	t.Helper()
	var now atomic.Int64
	now.Store(time.Now().Add(-40 * 24 * time.Hour).UnixMilli())
	s := siteWith(t, func(o *Options) { o.Now = func() time.Time { return time.UnixMilli(now.Load()).UTC() } })
	clock := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		ms, err := strconv.ParseFloat(r.URL.Query().Get("ms"), 64)
		if err == nil {
			now.Store(int64(ms))
		}
	}))
	defer clock.Close()
	students := []string{}
	for i := range 40 {
		id := store.NewID()
		err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
			return tx.AddStudent(bg, store.Student{ID: id, Name: fmt.Sprint("Pupil ", i), Programme: "position-hold-first",
				CraftType: "poiana", StartedOn: time.Now()})
		})
		if err != nil {
			t.Fatal(err)
		}
		students = append(students, id.String())
	}
	people := []map[string]string{}
	for _, role := range []string{store.Chief, store.Instructor} {
		people = append(people, map[string]string{"email": s.emails[role], "id": s.person(role).ID.String()})
	}
	in, err := json.Marshal(map[string]any{"url": s.url, "clock": clock.URL, "days": days, "seed": seed, "people": people,
		"students": students})
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("node", "../../e2e/days.mjs", string(in)) //nolint:gosec // of this test
	cmd.Stderr = os.Stderr
	out, err := cmd.Output()
	var told toldDay
	if err == nil {
		err = json.Unmarshal(out, &told)
	}
	if err != nil {
		t.Fatalf("%v: %.2000s", err, out)
	}
	return s, told
}

// arrived is an attempt as the school has it.
type arrived struct {
	by    uuid.UUID
	began time.Time
	sure  bool
	marks []string
}

func (s *site) arrived() map[string]arrived {
	s.t.Helper()
	out := map[string]arrived{}
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		rows, err := tx.Query(bg, `SELECT o.id::text, o.opened_by, o.began_at, o.sure_s IS NOT NULL,
			(SELECT array_agg(m.id::text ORDER BY m.t_s, m.id) FROM marks m WHERE m.opening_id = o.id) FROM openings o`)
		if err != nil {
			return err
		}
		defer rows.Close()
		for rows.Next() {
			var id string
			var a arrived
			if err := rows.Scan(&id, &a.by, &a.began, &a.sure, &a.marks); err != nil {
				return err
			}
			out[id] = a
		}
		return rows.Err()
	})
	if err != nil {
		s.t.Fatal(err)
	}
	return out
}

// In simulated offline days of three devices, with a network, clocks, kills and sign-ins by chance, every mark arrives
// once, in order, under the right name, and dated within a second of the truth. What nothing on a device can tell, the
// moment of an attempt on a page that was opened after the clock was set and closed again without a network, is listed
// for a person.
func TestOfflineDays(t *testing.T) {
	days, seeds := 6, []int{11}
	if testing.Short() {
		days = 2
	}
	if os.Getenv("MAESTRALE_NIGHTLY") != "" {
		days, seeds = 50, []int{1, 2, 3, 4, 5, 6, 7, 8, 9, 10}
	}
	for _, seed := range seeds {
		t.Run(fmt.Sprint("seed ", seed), func(t *testing.T) {
			t.Parallel()
			s, told := offlineDays(t, days, seed)
			held := s.keepAllHeld(t)
			s.compare(t, told, days)
			t.Logf("%d days, %d attempts, %d deliveries held; %v", days, len(told.Told), held, told.Log)
		})
	}
}

// keepAllHeld lets the chief keep everything that waits for a decision, and says how much that was.
func (s *site) keepAllHeld(t *testing.T) (held int) {
	t.Helper()
	chief := s.as(store.Chief)
	for {
		var list []store.Held
		err := appStore.InSchool(bg, s.school, func(tx store.Tx) (err error) {
			list, err = tx.HeldFor(bg, nil)
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
		if len(list) == 0 {
			return held
		}
		held += len(list)
		for _, h := range list {
			if r := chief.form("/held/"+h.ID.String(), url.Values{"do": {"keep"}}); r.status != http.StatusSeeOther {
				t.Fatalf("%d %s", r.status, text(r.body))
			}
		}
	}
}

// compare lays what arrived beside what was marked.
func (s *site) compare(t *testing.T, told toldDay, days int) {
	t.Helper()
	has := s.arrived()
	marks, guesses := 0, 0
	for _, a := range told.Told {
		got, there := has[a.ID]
		if !there {
			t.Errorf("attempt %s of device %s did not arrive", a.ID, a.Device)
			continue
		}
		var want []string
		for _, m := range a.Marks {
			want = append(want, m.ID)
		}
		marks += len(want)
		if !slices.Equal(want, got.marks) { // in their order
			t.Errorf("attempt %s has the marks %v; made were %v", a.ID, got.marks, want)
		}
		if got.by.String() != a.By {
			t.Errorf("attempt %s is in the name of %s; %s made it", a.ID, got.by, a.By)
		}
		if off := got.began.Sub(time.UnixMilli(int64(a.Began))).Abs(); !got.sure {
			guesses++
		} else if off > time.Second {
			t.Errorf("attempt %s is dated %v off", a.ID, off)
		}
	}
	if n := s.count("marks"); n != marks {
		t.Errorf("%d marks are stored; %d were made", n, marks)
	}
	if n := len(told.Told); n < 2*days || guesses > 2+n/12 {
		t.Errorf("%d attempts, of which %d are dated by guess", n, guesses)
	}
	t.Logf("%d marks, %d dates guessed", marks, guesses)
}
