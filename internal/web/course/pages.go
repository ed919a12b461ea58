// Package course is the courses of the school and their sites, and everything that is measured on them.
package course

import "maestrale/internal/web/frame"

// Pages answers one request.
type Pages struct {
	frame.Request
}

// New begins the place, and returns how the pages of a request are made.
func New() func(frame.Request) Pages {
	return func(r frame.Request) Pages { return Pages{Request: r} }
}
