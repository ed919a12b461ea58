package today

import (
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"maestrale/internal/web/frame"
)

// heartbeat is how often an idle line says that it lives, so that a dead one is noticed.
const heartbeat = 15 * time.Second

// TodayLive tells a page each time the field day has changed, on whichever server that
// was (server-sent events).
func (s Pages) TodayLive(c *gin.Context) {
	changes, leave := s.Boards.Look(frame.Person(c).SchoolID)
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
		case <-s.Ended:
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
