package pad

import (
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"maestrale/internal/refusal"
)

// PadPage brings whoever wants to mark an item to the one pad. What is not chosen is chosen here, so that a wrong
// choice is said before the pad opens.
func (s Pages) PadPage(c *gin.Context) {
	j, err := s.Theirs(c, nil)
	if err != nil {
		s.Failed(c, err)
		return
	}
	cell, err := s.Chosen(c, j)
	var wrong refusal.Error
	if errors.As(err, &wrong) {
		s.WrongInput(c, err.Error(), msgChooseAnotherDrill)
		return
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/pad#student=%s&drill=%s&side=%s&aids=%s&level=%d", j.Student.ID,
		cell.Drill,
		cell.Side, cell.Aids, cell.Level))
}
