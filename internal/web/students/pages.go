// Package students is what is known about each student: standing, gates, sign-offs, lessons, debriefs and the logs that
// are scored.
package students

import "maestrale/internal/web/frame"

// Pages answers one request.
type Pages struct {
	frame.Request
}

// New begins the place, and returns how the pages of a request are made.
func New() func(frame.Request) Pages {
	return func(r frame.Request) Pages { return Pages{Request: r} }
}
