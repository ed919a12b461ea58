package records

import (
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"maestrale/core/daylogs"
	"maestrale/core/field"
	"maestrale/internal/logfolder"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// agreementModel is how instructors judge compared with the logs.
type agreementModel struct {
	IsChief bool
	Rows    []agreementRow
}

type agreementRow struct {
	By, Drill, Same, Interval, Bias, Words string
	Lenient, Strict                        int
	Leans                                  daylogs.Leaning
}

// AgreementPage shows an instructor how their verdicts compare with the logs, and the chief everybody's.
func (s Pages) AgreementPage(c *gin.Context) {
	p := s.Who
	m := agreementModel{IsChief: p.Role == store.Chief}
	err := s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
		list, names, err := logfolder.Agreements(c.Request.Context(), tx)
		for _, a := range list {
			if !m.IsChief && a.By != p.ID.String() {
				continue
			}
			r := agreementRow{By: names[a.By], Drill: s.Cat.TitleOf(a.Drill, field.NoSide), Lenient: a.Lenient,
				Strict: a.Strict, Words: a.Words(), Leans: a.Leans,
				Same:     fmt.Sprintf("%d of %d", a.Same, a.N),
				Interval: fmt.Sprintf("%.0f to %.0f %%", 100*a.Low, 100*a.High)}
			if b := a.Bias; b != nil {
				r.Bias = fmt.Sprintf("%+.2f m (%+.2f to %+.2f m)", b.M, b.Low, b.High)
			}
			m.Rows = append(m.Rows, r)
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, http.StatusOK, "agreement", frame.Page{Title: msgEyeLog, Place: "Records", Body: m})
}
