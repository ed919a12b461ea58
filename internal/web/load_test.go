package web

import (
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/internal/bigschool"
	"maestrale/internal/store"
)

// BenchmarkFiftyInstructors reports how many requests a second fifty instructors get answered, who ask for pages and
// send marks without a pause, at a school of 500 students with 12,500 attempts, and how long they wait.
func BenchmarkFiftyInstructors(b *testing.B) {
	s := newSite(b)
	grow(b, s, bigschool.Size{Students: 500, Attempts: 25, Days: 20})
	const instructors = 50
	clients := make([]*client, instructors)
	for i := range clients {
		clients[i] = s.as(store.Instructor)
	}
	clients[0].get("/students") // what is worked out once
	var students []uuid.UUID
	if err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		list, err := tx.Students(bg)
		for _, st := range list {
			students = append(students, st.ID)
		}
		return err
	}); err != nil {
		b.Fatal(err)
	}
	pages := []string{"/today", "/students", "/students/" + s.student.String(), "/fleet", "/programmes", "/pad/day",
		"/students?page=4", "/records"}
	for b.Loop() {
		var mu sync.Mutex
		var wg sync.WaitGroup
		var all, marks []time.Duration
		begun := time.Now()
		const each = 20
		for i, c := range clients {
			wg.Add(1)
			go func() {
				defer wg.Done()
				r := rand.New(rand.NewPCG(50, uint64(i)))
				for n := range each {
					at, mark := time.Now(), n%4 == 0
					if mark {
						body := hoverMarks(store.NewID().String())
						if got := c.json("/students/"+students[i].String()+"/marks", body); got.status >= 500 {
							b.Errorf("a mark: %d", got.status)
						}
					} else {
						got, err := c.Get(s.url + pages[r.IntN(len(pages))])
						if err != nil {
							b.Error(err)
							return
						}
						_, _ = io.Copy(io.Discard, got.Body)
						_ = got.Body.Close()
						if got.StatusCode != http.StatusOK {
							b.Errorf("a page: %d", got.StatusCode)
						}
					}
					mu.Lock()
					all = append(all, time.Since(at))
					if mark {
						marks = append(marks, time.Since(at))
					}
					mu.Unlock()
				}
			}()
		}
		wg.Wait()
		slices.Sort(all)
		slices.Sort(marks)
		ms := func(list []time.Duration, share float64) float64 {
			return float64(list[int(share*float64(len(list)-1))].Microseconds()) / 1000
		}
		b.ReportMetric(float64(len(all))/time.Since(begun).Seconds(), "requests/s")
		b.ReportMetric(ms(all, 0.5), "ms/p50")
		b.ReportMetric(ms(all, 0.95), "ms/p95")
		b.ReportMetric(ms(marks, 0.95), "ms/marks-p95")
	}
}

// BenchmarkRowSecurity reports how much longer the same question takes with the filter of the own school than without,
// on 150,000 rows that are all of the school.
func BenchmarkRowSecurity(b *testing.B) {
	s := newSite(b)
	grow(b, s, bigschool.Size{Students: 150, Attempts: 1000})
	const ask = "SELECT count(*), max(at) FROM attempts WHERE school_id = '%s' AND verdict = 'pass' AND margin > 0.1"
	owner, err := pgx.Connect(bg, ownerURL)
	if err != nil {
		b.Fatal(err)
	}
	defer func() { _ = owner.Close(bg) }()
	if _, err := owner.Exec(bg, "SET search_path = "+store.Schema); err != nil {
		b.Fatal(err)
	}
	timed := func(q interface {
		QueryRow(ctx context.Context, sql string, args ...any) pgx.Row
	}) time.Duration {
		begun := time.Now()
		var n int
		var at time.Time
		if err := q.QueryRow(bg, fmt.Sprintf(ask, s.school)).Scan(&n, &at); err != nil || n == 0 {
			b.Fatal(n, err)
		}
		return time.Since(begun)
	}
	var with, without []time.Duration
	for b.Loop() {
		without = append(without, timed(owner))
		if err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
			with = append(with, timed(tx))
			return nil
		}); err != nil {
			b.Fatal(err)
		}
	}
	slices.Sort(with)
	slices.Sort(without)
	b.ReportMetric(float64(with[len(with)/2])/float64(without[len(without)/2]), "ratio")
}
