package web

import (
	"cmp"
	"fmt"
	"maps"
	"os"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"maestrale/internal/store"
)

// statement is one that a page sent, with what was filled in.
type statement struct {
	sql  string
	args []any
}

// statementsOf are the questions that something asks, one after another; what it writes is not done twice.
func statementsOf(do func()) (list []statement) {
	var mu sync.Mutex
	said := func(d pgx.TraceQueryStartData) {
		mu.Lock()
		defer mu.Unlock()
		if sql := strings.TrimSpace(d.SQL); strings.HasPrefix(sql, "SELECT") || strings.HasPrefix(sql, "WITH") {
			list = append(list, statement{d.SQL, d.Args})
		}
	}
	queries.said.Store(&said)
	defer queries.said.Store(nil)
	do()
	return list
}

var link = regexp.MustCompile(`(?:href|hx-get)="(/[^"#]*)"`)

// addresses walks the links of the site from where somebody arrives, and returns one address of each route that answers
// with a page.
func addresses(tb testing.TB, s *site, c *client) map[string]string {
	tb.Helper()
	fits := func(route, path []string) bool {
		for i := range route {
			if !strings.HasPrefix(route[i], ":") && route[i] != path[i] {
				return false
			}
		}
		return true
	}
	routeOf := func(path string) string {
		parts := strings.Split(strings.SplitN(path, "?", 2)[0], "/")
		for _, rt := range s.app.Table() {
			of := strings.Split(rt.Path, "/")
			if rt.Method == "GET" && len(of) == len(parts) && fits(of, parts) {
				return rt.Path
			}
		}
		return ""
	}
	out, tried := map[string]string{}, map[string]int{}
	for list := []string{"/today"}; len(list) > 0; list = list[1:] {
		path := strings.ReplaceAll(list[0], "&amp;", "&")
		route := routeOf(path)
		if route == "" || out[route] != "" || tried[route] > 2 {
			continue
		}
		tried[route]++
		r := c.get(path)
		if r.status != 200 || !strings.HasPrefix(r.header.Get("Content-Type"), "text/html") {
			continue
		}
		out[route] = path
		for _, m := range link.FindAllStringSubmatch(r.body, -1) {
			list = append(list, m[1])
		}
	}
	return out
}

// median is the middle of several runs.
func median(times int, do func() time.Duration) time.Duration {
	var list []time.Duration
	for range times {
		list = append(list, do())
	}
	slices.Sort(list)
	return list[len(list)/2]
}

// BenchmarkPagesOverSQL reports how long the pages of the sample school take over what their SQL takes alone: the
// median of all addresses, and all together. With PAGES_SQL it writes down what each page asks the database.
func BenchmarkPagesOverSQL(b *testing.B) {
	s, c := sampleSchool(b)
	pages := addresses(b, s, c)
	if len(pages) < 40 {
		b.Fatalf("%d addresses are reached", len(pages))
	}
	var file strings.Builder
	for b.Loop() {
		file.Reset()
		type measured struct {
			path      string
			page, sql time.Duration
		}
		var list []measured
		for _, route := range slices.Sorted(maps.Keys(pages)) {
			path := pages[route]
			inServer(b, s, c, path) // what is worked out once
			said := statementsOf(func() { inServer(b, s, c, path) })
			page := median(9, func() time.Duration { return inServer(b, s, c, path) })
			list = append(list, measured{path, page, median(9, func() time.Duration { return alone(b, said) })})
			fmt.Fprintf(&file, "-- %s\n", route)
			for _, q := range said {
				fmt.Fprintf(&file, "%s;\n", strings.Join(strings.Fields(q.sql), " "))
			}
		}
		var all, sql time.Duration
		var ratios []float64
		slices.SortFunc(list, func(a, b measured) int {
			return cmp.Compare(float64(b.page)/float64(b.sql), float64(a.page)/float64(a.sql))
		})
		for _, m := range list {
			all, sql = all+m.page, sql+m.sql
			ratios = append(ratios, float64(m.page)/float64(m.sql))
			b.Logf("%.1f %s: %v, its SQL %v", float64(m.page)/float64(m.sql), m.path, m.page, m.sql)
		}
		b.ReportMetric(ratios[len(ratios)/2], "median-ratio")
		b.ReportMetric(float64(all)/float64(sql), "total-ratio")
		b.ReportMetric(float64(len(list)), "addresses")
	}
	if to := os.Getenv("PAGES_SQL"); to != "" {
		const head = "-- What each page of the sample school asks the database. Written by make bench-all.\n"
		if err := os.WriteFile(to, []byte(head+file.String()), 0o600); err != nil {
			b.Fatal(err)
		}
	}
}

// alone is how long statements take in one transaction of the school that they are about.
func alone(tb testing.TB, list []statement) time.Duration {
	tb.Helper()
	school := sampleID(tb)
	begun := time.Now()
	err := appStore.InSchool(bg, school, func(tx store.Tx) error {
		for _, q := range list {
			rows, err := tx.Query(bg, q.sql, q.args...)
			if err != nil {
				return err
			}
			for rows.Next() {
				_ = rows.RawValues()
			}
			if rows.Close(); rows.Err() != nil {
				return fmt.Errorf("%s: %w", q.sql, rows.Err())
			}
		}
		return nil
	})
	if err != nil {
		tb.Fatal(err)
	}
	return time.Since(begun)
}
