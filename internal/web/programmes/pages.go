// Package programmes is the drills, programmes and gates, and where a school writes its own.
package programmes

import "maestrale/internal/web/frame"

// Pages answers one request.
type Pages struct {
	frame.Request
}

// New begins the place, and returns how the pages of a request are made.
func New() func(frame.Request) Pages {
	return func(r frame.Request) Pages { return Pages{Request: r} }
}
