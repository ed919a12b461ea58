package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
)

// heartbeat is how often an idle line says that it lives, so that a dead one is noticed.
const heartbeat = 15 * time.Second

// todayLive tells a page each time the field day has changed, on whichever server that
// was (server-sent events).
func (s *Server) todayLive(c *gin.Context) {
	changes, leave := s.boards.Look(person(c).SchoolID)
	defer leave()
	h := c.Writer.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("X-Accel-Buffering", "no")
	c.Writer.WriteHeader(http.StatusOK)
	out := http.NewResponseController(c.Writer)
	if err := out.SetWriteDeadline(time.Time{}); err != nil && !errors.Is(err, http.ErrNotSupported) {
		return
	}
	say := func(text string) bool {
		if _, err := fmt.Fprint(c.Writer, text); err != nil {
			return false
		}
		return out.Flush() == nil
	}
	if !say("retry: 1000\nevent: open\ndata: open\n\n") {
		return
	}
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for {
		select {
		case <-c.Request.Context().Done():
			return
		case <-s.ended:
			return
		case <-beat.C:
			if !say(": \n\n") {
				return
			}
		case <-changes:
			if !say("event: board\ndata: changed\n\n") {
				return
			}
		}
	}
}

// listen follows the database's own word of changes, and begins again where the line
// breaks; whoever looks is told once it stands again, since something may have been
// missed.
func (s *Server) listen() {
	ctx, cancel := context.WithCancel(context.Background())
	go func() { <-s.ended; cancel() }()
	for ctx.Err() == nil {
		err := s.store.Listen(ctx, func() { s.boards.Changed(uuid.Nil) }, s.boards.Changed)
		if ctx.Err() != nil {
			return
		}
		s.log.Warn("the line for the boards broke", "error", err)
		select {
		case <-ctx.Done():
		case <-time.After(time.Second):
		}
	}
}
