package web

import (
	"net/http"
	"strings"
	"testing"

	"maestrale/internal/store"
)

// The four quarters can be turned without a script, and a heading that is none is refused.
func TestTheFourQuartersPage(t *testing.T) {
	c := newSite(t).as(store.Learner)
	for deg, want := range map[string]string{"0": "Tail in: push away",
		"180": "Nose in: push toward the side that it drifts to",
		"90":  "Side on", "-172": "Nose in"} {
		r := c.get("/fly/quarters?deg=" + deg)
		if r.status != http.StatusOK || !strings.Contains(r.body, want) {
			t.Errorf("%s: %d %.300s", deg, r.status, text(r.body))
		}
	}
	if body := c.get("/fly/quarters?deg=180").body; !strings.Contains(body, `href="?deg=-165"`) ||
		!strings.Contains(body, `href="?deg=165"`) {
		t.Error("from 180 it cannot be turned both ways")
	}
	for _, deg := range []string{"x", "181", "1e9"} {
		if r := c.get("/fly/quarters?deg=" + deg); r.status != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d", deg, r.status)
		}
	}
}
