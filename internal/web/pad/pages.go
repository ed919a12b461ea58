// Package pad is where attempts are marked: the marking pad, the same pad on a device without a network, and a craft
// that is followed by its position.
package pad

import (
	"github.com/google/uuid"

	"maestrale/internal/web/frame"
)

// Pages answers one request.
type Pages struct {
	frame.Request
	follows *Follows
	desks   *Desks
}

// New begins the place, and returns how the pages of a request are made.
func New() func(frame.Request) Pages {
	follows, desks := &Follows{By: map[uuid.UUID]*Follow{}}, &Desks{by: map[uuid.UUID]*lentDesk{}}
	return func(r frame.Request) Pages { return Pages{Request: r, follows: follows, desks: desks} }
}
