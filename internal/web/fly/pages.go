// Package fly is the simulator and the trainers: flying, watching, reflexes, the lost craft, visual range and planned
// yaw.
package fly

import (
	"maestrale/core/orient"
	"maestrale/internal/web/frame"
)

// Pages answers one request.
type Pages struct {
	frame.Request
	schools *Comparisons // of bringing a lost craft home
}

// New begins the place, and returns how the pages of a request are made.
func New() func(frame.Request) Pages {
	schools := &Comparisons{By: map[string][][]orient.Compared{}}
	return func(r frame.Request) Pages { return Pages{Request: r, schools: schools} }
}
