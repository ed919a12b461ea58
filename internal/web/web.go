// Package web puts the school's screens together: the frame around every page, one package for each place, and the
// table of addresses. The places never import one another.
package web

import "maestrale/internal/web/frame"

// Options say how the server runs.
type Options = frame.Options

// DayRunner flies the rest of a sample day by itself.
type DayRunner = frame.DayRunner

// LogHandler adds the request's id to every line that is logged for it.
type LogHandler = frame.LogHandler

// Server is the web application.
type Server struct{ *frame.Frame }

// New makes the application.
func New(o Options) (*Server, error) {
	f, err := frame.New(o, table)
	if err != nil {
		return nil, err
	}
	return &Server{f}, nil
}
