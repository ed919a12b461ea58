package school

import (
	"fmt"
	"time"

	"github.com/gin-gonic/gin"

	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// GiveRight gives an instructor the right to sign until a day, or takes it away.
func (s Pages) GiveRight(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "account")
	if err != nil {
		s.Failed(c, err)
		return
	}
	var until *time.Time
	says := msgTookRightSign
	if c.PostForm("do") != "take" {
		day, perr := time.ParseInLocation("2006-01-02", c.PostForm("until"), p.Zone())
		end := day.AddDate(0, 0, 1)
		if perr != nil || !end.After(s.Now()) || end.After(s.Now().AddDate(3, 0, 0)) {
			s.WrongInput(c, msgRightSignNot,
				msgChooseDayFrom)
			return
		}
		until, says = &end, fmt.Sprintf(msgGaveRightSign, day.Format("2 January 2006"))
	}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if err := tx.MaySign(ctx, id, until); err != nil {
			return err
		}
		staff, err := tx.Staff(ctx)
		if err != nil {
			return err
		}
		for _, a := range staff {
			if a.ID == id {
				says += a.Name
			}
		}
		return tx.Did(ctx, p.ID, nil, says)
	})
	s.Done(c, err, "/school#rights")
}
