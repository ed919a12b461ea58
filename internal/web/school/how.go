package school

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"maestrale/internal/guide"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// howModel is a page that says how a place works, or the list of them with the words of the school.
type howModel struct {
	Page  *guide.Page
	Pages []guide.Page
	Terms []guide.Term
}

// HowPage says how a place works, what the words mean, or lists both.
func (s Pages) HowPage(c *gin.Context) {
	m, title := howModel{}, msgHowThisWorks
	switch key := c.Param("page"); key {
	case "":
		m.Pages, m.Terms = guidesOf(frame.Person(c)), guide.Terms
	case "words":
		m.Terms, title = guide.Terms, msgWhatWordsMean
	default:
		p, known := guide.Of(key)
		if !known {
			s.Failed(c, store.ErrNotFound)
			return
		}
		m.Page, title = &p, p.Title
	}
	s.Render(c, http.StatusOK, "how", frame.Page{Title: title, Body: m})
}

// guidesOf are the pages on the places that a person has.
func guidesOf(p *store.Person) (out []guide.Page) {
	for _, g := range guide.Pages {
		if g.Students || p.Role != store.Learner {
			out = append(out, g)
		}
	}
	return out
}
