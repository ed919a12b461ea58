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
		s, told := offlineDays(t, days, seed)
		chief := s.as(store.Chief)
		held := 0
		for {
			var ids []uuid.UUID
			err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
				list, err := tx.HeldFor(bg, nil)
				for _, h := range list {
					ids = append(ids, h.ID)
				}
				return err
			})
			if err != nil {
				t.Fatal(err)
			}
			if len(ids) == 0 {
				break
			}
			held += len(ids)
			for _, id := range ids {
				if r := chief.form("/held/"+id.String(), url.Values{"do": {"keep"}}); r.status != http.StatusSeeOther {
					t.Fatalf("seed %d: %d %s", seed, r.status, text(r.body))
				}
			}
		}
		has := s.arrived()
		marks, guesses := 0, 0
		for _, a := range told.Told {
			got, there := has[a.ID]
			if !there {
				t.Errorf("seed %d: attempt %s of device %s did not arrive", seed, a.ID, a.Device)
				continue
			}
			var want []string
			for _, m := range a.Marks {
				want = append(want, m.ID)
			}
			marks += len(want)
			slices.Sort(want)
			sorted := slices.Clone(got.marks)
			slices.Sort(sorted)
			if !slices.Equal(want, sorted) {
				t.Errorf("seed %d: attempt %s has %d marks; %d were made", seed, a.ID, len(got.marks), len(want))
			}
			if got.by.String() != a.By {
				t.Errorf("seed %d: attempt %s is in the name of %s; %s made it", seed, a.ID, got.by, a.By)
			}
			if off := got.began.Sub(time.UnixMilli(int64(a.Began))).Abs(); !got.sure {
				guesses++
			} else if off > time.Second {
				t.Errorf("seed %d: attempt %s is dated %v off", seed, a.ID, off)
			}
		}
		if n := s.count("marks"); n != marks {
			t.Errorf("seed %d: %d marks are stored; %d were made", seed, n, marks)
		}
		if n := len(told.Told); n < 2*days || guesses > 2+n/12 {
			t.Errorf("seed %d: %d attempts, of which %d are dated by guess", seed, n, guesses)
		}
		t.Logf("seed %d: %d days, %d attempts, %d marks, %d deliveries held, %d dates guessed; %v", seed, days,
			len(told.Told),
			marks, held, guesses, told.Log)
	}
}
