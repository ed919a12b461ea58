// Package students is what is known about each student: standing, gates, sign-offs, lessons, debriefs and the logs that
// are scored.
package students

import (
	lru "github.com/hashicorp/golang-lru/v2"

	"maestrale/internal/web/frame"
)

// rowsHeld is how many rows of the list of students are held; each is about two kilobytes.
const rowsHeld = 4096

// Pages answers one request.
type Pages struct {
	frame.Request
	rows *lru.Cache[rowKey, heldRow]
}

// New begins the place, and returns how the pages of a request are made.
func New() func(frame.Request) Pages {
	rows, err := lru.New[rowKey, heldRow](rowsHeld)
	if err != nil {
		panic(err) // its size is wrong
	}
	return func(r frame.Request) Pages { return Pages{r, rows} }
}
