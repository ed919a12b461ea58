package school

import (
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"maestrale/internal/guide"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

type jumpModel struct {
	Query string
	Hits  []jumpHit
}

type jumpHit struct{ Name, Kind, Href string }

// Jump finds students, drills and places by name.
func (s Pages) Jump(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := jumpModel{Query: frame.CleanName(c.Query("q"))}
	q := strings.ToLower(m.Query)
	add := func(name, kind, href string) {
		if len(m.Hits) < 12 && strings.Contains(strings.ToLower(name), q) {
			m.Hits = append(m.Hits, jumpHit{name, kind, href})
		}
	}
	if p.Role != store.Learner {
		err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			list, err := tx.Students(ctx)
			for _, st := range list {
				add(st.Name, "student", "/students/"+st.ID.String())
			}
			if err != nil {
				return err
			}
			fleet, err := tx.Fleet(ctx)
			for _, k := range fleet {
				add(k.Name, "craft", "/fleet/craft/"+k.ID.String())
			}
			if err != nil {
				return err
			}
			packs, err := tx.Packs(ctx)
			for _, k := range packs {
				add("pack "+k.Name, "pack", "/fleet/packs/"+k.ID.String())
			}
			return err
		})
		if err != nil {
			s.Failed(c, err)
			return
		}
		add("Students", "place", "/students")
		add("Course", "place", "/course")
		add(msgSitesWind, "place", "/sites")
		add("Fleet", "place", "/fleet")
		add("Records", "place", "/records")
		add("School", "place", "/school")
	}
	if p.Role == store.Chief {
		add(msgPeopleInvitations, "place", "/people")
		add(msgBringTables, "place", "/import")
		add("First steps", "place", "/start")
	}
	add(msgYourAccountUnits, "place", "/account")
	for _, d := range s.Cat.InOrder() {
		add(d.Title, "drill", "/programmes/drills/"+d.Key)
	}
	add("Programmes", "place", "/programmes")
	for _, g := range guidesOf(p) {
		add(g.Title, msgHowItWorks, "/how/"+g.Key)
	}
	for _, t := range guide.Terms {
		add(t.Word, "word", "/how/words#"+t.Key)
	}
	s.Render(c, http.StatusOK, "jump", frame.Page{Title: "Jump", Body: m})
}
