package frame

import (
	"slices"
	"strconv"
	"testing"
)

// Who walks from page to page sees every row once, in order; what is no page is the first.
func TestPagesOfAListHaveEveryRowOnce(t *testing.T) {
	link := func(page string) string { return page }
	for _, n := range []int{0, 1, PerPage - 1, PerPage, PerPage + 1, 3*PerPage + 7} {
		var all, seen []int
		for i := range n {
			all = append(all, i)
		}
		for at, asked := 1, "1"; asked != ""; at++ {
			rows, p := PageOf(all, asked, link)
			seen = append(seen, rows...)
			if (p.Back == "") != (at == 1) || p.Back != "" && p.Back != strconv.Itoa(at-1) {
				t.Errorf("page %s of %d goes back to %q", asked, n, p.Back)
			}
			if p.Many() != (n > PerPage) || p.To-p.From+1 != len(rows) || p.Of != n {
				t.Errorf("page %s of %d: %+v", asked, n, p)
			}
			asked = p.On
		}
		if !slices.Equal(seen, all) {
			t.Errorf("%d of %d rows are seen", len(seen), n)
		}
		for _, asked := range []string{"", "0", "-1", "x", "99999999", "9223372036854775807"} {
			rows, p := PageOf(all, asked, link)
			if first := all[:min(n, PerPage)]; !slices.Equal(rows, first) || p.Back != "" {
				t.Errorf("page %q of %d has %d rows", asked, n, len(rows))
			}
		}
	}
}
