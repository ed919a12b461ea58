package school

import (
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// CutDevice cuts a lost device off: nothing more is taken from it, and its sign-in ends.
func (s Pages) CutDevice(c *gin.Context) {
	p := frame.Person(c)
	_, ok := s.About(c, "device", func(tx store.Tx, id uuid.UUID) error {
		return tx.CutOff(c.Request.Context(), id,
			p.ID)
	})
	if ok {
		c.Redirect(http.StatusSeeOther, "/today")
	}
}
