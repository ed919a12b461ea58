package frame

import (
	"fmt"
	"io/fs"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
)

// lookEvery is how often a server that is being worked on looks for changed interface files.
const lookEvery = 150 * time.Millisecond

// reloads tells an open page when a template, a style or a script on disk has changed (server-sent events). It is
// served only while the program is being worked on.
func (s *Frame) reloads(c *gin.Context) {
	c.Writer.Header().Set("Content-Type", "text/event-stream")
	c.Writer.WriteHeader(http.StatusOK)
	out := http.NewResponseController(c.Writer)
	before := s.newest()
	_, _ = fmt.Fprint(c.Writer, "retry: 150\nevent: here\ndata: \n\n")
	_ = out.Flush()
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	for {
		select {
		case <-c.Request.Context().Done():
			return
		case <-s.Ended:
			return
		case <-tick.C:
		}
		if now := s.newest(); now.After(before) {
			before = now
			if _, err := fmt.Fprint(c.Writer, "event: changed\ndata: \n\n"); err != nil || out.Flush() != nil {
				return
			}
		}
	}
}

// newest is when an interface file was last changed.
func (s *Frame) newest() (t time.Time) {
	_ = fs.WalkDir(s.files, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil {
			return nil // a file that is being written is seen the next time
		}
		if name == "scripts" || name == "styles" || name == "fonts" {
			return fs.SkipDir // what is made of them is in dist
		}
		if info, err := d.Info(); err == nil && !d.IsDir() && info.ModTime().After(t) {
			t = info.ModTime()
		}
		return nil
	})
	return t
}
