// Package today is the board of the field day: what is planned, what flies, what it needs, and the calendar that people
// subscribe to.
package today

import "maestrale/internal/web/frame"

// Pages answers one request.
type Pages struct {
	frame.Request
}

// New begins the place, and returns how the pages of a request are made.
func New() func(frame.Request) Pages {
	return func(r frame.Request) Pages { return Pages{Request: r} }
}
