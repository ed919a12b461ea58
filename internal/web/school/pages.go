// Package school is the settings of the school, its devices, its rights to sign, and the jump to anything by name.
package school

import "maestrale/internal/web/frame"

// Pages answers one request.
type Pages struct {
	frame.Request
}

// New begins the place, and returns how the pages of a request are made.
func New() func(frame.Request) Pages {
	return func(r frame.Request) Pages { return Pages{Request: r} }
}
