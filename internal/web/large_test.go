package web

import (
	"context"
	"fmt"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/internal/bigschool"
	"maestrale/internal/store"
)

const (
	manyRows = 500_000 // attempts in the table, of this and other schools
	ownRows  = 5_000   // of the one student
)

// fillLarge gives the site's student ownRows attempts among manyRows. The rows
// are laid in by the owner, without the checks that a single row has.
func fillLarge(tb testing.TB, s *site) {
	tb.Helper()
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, ownerURL)
	if err != nil {
		tb.Fatal(err)
	}
	defer func() { _ = conn.Close(ctx) }()
	var by uuid.UUID
	exec := func(sql string, args ...any) {
		tb.Helper()
		if _, err := conn.Exec(ctx, sql, args...); err != nil {
			tb.Fatal(err)
		}
	}
	exec("SET search_path = " + store.Schema)
	exec("SET session_replication_role = replica") // no triggers, no foreign keys
	if err := conn.QueryRow(ctx, "SELECT id FROM accounts WHERE school_id = $1 AND role = 'chief'",
		s.school).Scan(&by); err != nil {
		tb.Fatal(err)
	}
	insert := func(school uuid.UUID, n int, spread string) {
		exec(fmt.Sprintf(`INSERT INTO attempts (id, school_id, student_id, at, drill, side, level, aids, craft_type,
		craft_class, source, verdict, margin, wind_mps,
			counts, summary, aspect_s, result, drill_source, recorded_by)
			SELECT gen_random_uuid(), $1::uuid, %s, now() - (i * interval '37 minutes'), (ARRAY['hover-tail-in', 'landing-pad',
			'ground-effect-hover', 'yaw-quarter'])[i %% 4 + 1],
			CASE WHEN i %% 4 = 3 THEN (ARRAY['left', 'right'])[i / 4 %% 2 + 1] ELSE 'none' END, 1, (ARRAY['position-hold',
			'height-hold'])[i / 8 %% 2 + 1],
			'poiana', 'light', 'observed', (ARRAY['pass', 'pass', 'pass', 'fail'])[i %% 7 %% 4 + 1], 0.3, 3.1, true,
			'20 s inside, 0.4 m out at most; 0.2 m off', array_fill(1.5::real, ARRAY[16]), '{}', '', $2
			FROM generate_series(1, $3::int) i`, spread), school, by, n)
	}
	// Twenty other schools of a hundred students each.
	const schools = 20
	for range schools {
		insert(uuid.New(), (manyRows-ownRows)/schools, "md5((i % 100)::text || $1::uuid::text)::uuid")
	}
	insert(s.school, ownRows, "'"+s.student.String()+"'::uuid")
	exec("SET session_replication_role = DEFAULT")
	exec("CHECKPOINT") // what is not on disk yet is not taken as visible to all
	exec("VACUUM ANALYZE attempts")
}

// The student's page asks few questions, and finds its rows by their index
// among half a million.
func TestStudentPageAmongManyAttempts(t *testing.T) {
	if testing.Short() {
		t.Skip("half a million rows")
	}
	s := newSite(t)
	fillLarge(t, s)
	c := s.as(store.Chief)
	path := "/students/" + s.student.String()
	before := queries.n.Load()
	r := c.get(path)
	if n := queries.n.Load() - before; n > 8 { // one of them for what comes next, one for onlookers
		t.Errorf("the page asks %d questions, 8 at most", n)
	} else {
		t.Logf("%d queries", n)
	}
	if r.status != 200 || !strings.Contains(r.body, "5000 attempts") {
		t.Fatalf("%d, it does not say 5000 attempts", r.status)
	}
	for name, sql := range map[string]string{
		"whom people watched": "SELECT student_id FROM attempts WHERE watched AND student_id = '" + s.student.String() + "'",
		"the student's attempts": "SELECT id FROM attempts WHERE student_id = '" + s.student.String() +
			"' ORDER BY at DESC, id DESC",
		"one attempt":    "SELECT id FROM attempts WHERE id = '" + uuid.NewString() + "'",
		"the correction": "SELECT id FROM attempts WHERE corrects = '" + uuid.NewString() + "'",
		"the end of the chain": "SELECT seq FROM chain WHERE student_id = '" + s.student.String() +
			"' ORDER BY seq DESC LIMIT 1",
		"the evidence": "SELECT student_id, id, at, corrects, counts, level, drill, side, aids, craft_class, " +
			"source, verdict FROM attempts WHERE student_id = '" + s.student.String() + "'",
		"who did what": "SELECT recorded_at FROM attempts WHERE recorded_at < now() ORDER BY recorded_at DESC LIMIT 50",
		"the season's weeks": "SELECT drill, count(*) FROM attempts WHERE at >= now() - interval '26 weeks' " +
			"GROUP BY drill",
		"every attempt of school": "SELECT id FROM attempts ORDER BY student_id, at DESC",
	} {
		var plan strings.Builder
		err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
			rows, err := tx.Query(bg, "EXPLAIN "+sql)
			if err != nil {
				return err
			}
			var line string
			_, err = pgx.ForEachRow(rows, []any{&line}, func() error { plan.WriteString(line + "\n"); return nil })
			return err
		})
		if err != nil || strings.Contains(plan.String(), "Seq Scan on attempts") {
			t.Errorf("%s: %v\n%s", name, err, plan.String())
		}
	}
}

// BenchmarkStudentPage5000 reports the median time in the server, without the
// client and the network.
func BenchmarkStudentPage5000(b *testing.B) {
	s := newSite(b)
	fillLarge(b, s)
	c := s.as(store.Chief)
	req := httptest.NewRequest("GET", "/students/"+s.student.String(), nil)
	for _, cookie := range c.Jar.Cookies(mustURL(s.url)) {
		req.AddCookie(cookie)
	}
	req.Header.Set("Accept-Encoding", "gzip")
	var took []time.Duration
	for b.Loop() {
		w, begin := httptest.NewRecorder(), time.Now()
		s.app.ServeHTTP(w, req)
		took = append(took, time.Since(begin))
		if w.Code != 200 {
			b.Fatal(w.Code)
		}
	}
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "ms-median")
}

// BenchmarkSchoolView reports the median time in the server of the view of a school of 500
// students with 500,000 attempts: as it is when nothing has changed, and once when nothing
// was worked out yet.
func BenchmarkSchoolView(b *testing.B) {
	s := newSite(b)
	grow(b, s, bigschool.Size{Students: 500, Attempts: 1000, Days: 20})
	c := s.as(store.Chief)
	cold := inServer(b, s, c, "/records")
	var times []time.Duration
	for b.Loop() {
		times = append(times, inServer(b, s, c, "/records"))
	}
	slices.Sort(times)
	b.ReportMetric(float64(times[len(times)/2])/1e6, "ms/median")
	b.ReportMetric(float64(cold)/1e6, "ms/first")
}

// inServer is how long the server takes for a page.
func inServer(tb testing.TB, s *site, c *client, path string) time.Duration {
	tb.Helper()
	req := httptest.NewRequest("GET", s.url+path, nil)
	for _, k := range c.Jar.Cookies(req.URL) {
		req.AddCookie(k)
	}
	w := httptest.NewRecorder()
	begun := time.Now()
	s.app.ServeHTTP(w, req)
	took := time.Since(begun)
	if w.Code != 200 {
		tb.Fatalf("%d %s", w.Code, w.Body)
	}
	return took
}

// largeSchools are what the large pages are measured with.
var largeSchools = []bigschool.Size{{Students: 20, Attempts: 200, Days: 20}, {Students: 500, Attempts: 1000, Days: 60},
	{Students: 2000, Attempts: 25, Days: 60}}

// BenchmarkLargePages reports the median time in the server, the queries and the bytes of the pages of schools of
// 20, 500 and 2,000 students.
func BenchmarkLargePages(b *testing.B) {
	for _, size := range largeSchools {
		b.Run(fmt.Sprintf("%d×%d", size.Students, size.Attempts), func(b *testing.B) {
			s := newSite(b)
			grow(b, s, size)
			c := s.as(store.Chief)
			for _, path := range []string{"/students", "/pad/day", "/fleet", "/records/audit", "/records", "/today",
				"/records/everything.zip"} {
				b.Run(path, func(b *testing.B) { benchPage(b, s, c, path) })
			}
		})
	}
}

func benchPage(b *testing.B, s *site, c *client, path string) {
	cold := inServer(b, s, c, path)
	var times []time.Duration
	before := queries.n.Load()
	for b.Loop() {
		times = append(times, inServer(b, s, c, path))
	}
	slices.Sort(times)
	b.ReportMetric(float64(times[len(times)/2])/1e6, "ms/median")
	b.ReportMetric(float64(cold)/1e6, "ms/first")
	b.ReportMetric(float64(queries.n.Load()-before)/float64(len(times)), "queries")
}
