package web

import (
	"fmt"
	"html/template"
	"net/http"
	"strings"
	"unicode"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/score"
	"maestrale/internal/draw"
	"maestrale/internal/store"
)

// cleanName takes line breaks and the like out of a name and cuts it at 120
// letters.
func cleanName(s string) string {
	s = strings.TrimSpace(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, strings.ToValidUTF8(s, "")))
	if r := []rune(s); len(r) > 120 {
		return string(r[:120])
	}
	return s
}

type programmesModel struct {
	Programmes []programmeRow
	Drills     []drill.Drill
	Gates      []gateInForce
}

// gateInForce is a gate of the school, with what it asks less strictly than as it ships.
type gateInForce struct {
	drill.Gate
	Loosened []string
	May      bool
}

type programmeRow struct {
	drill.Programme
	Rungs []rungRow // from the top down, as a ladder hangs
	May   bool      // change it
}

// programmeRowOf is a programme from the top down, as a ladder hangs.
func programmeRowOf(p drill.Programme) programmeRow {
	row := programmeRow{Programme: p}
	for i := len(p.Rungs) - 1; i >= 0; i-- {
		r := p.Rungs[i]
		first := r.Cells[0]
		var parts []string
		if !strings.Contains(r.Title, first.Aids.Words()) {
			parts = append(parts, first.Aids.Words())
		}
		if first.Side != field.NoSide {
			parts = append(parts, "left and right")
		}
		if r.Packs[1] > 0 {
			parts = append(parts, fmt.Sprintf("usually %d to %d packs", r.Packs[0], r.Packs[1]))
		}
		row.Rungs = append(row.Rungs, rungRow{r.Title, first.Drill, strings.Join(parts, " · ")})
	}
	return row
}

type rungRow struct{ Title, Drill, How string }

func (s *Server) programmesPage(c *gin.Context) {
	m := programmesModel{Drills: s.cat.InOrder()}
	for _, k := range s.cat.ProgrammeKeys() {
		p := s.cat.Programmes[k]
		row := programmeRowOf(p)
		row.May = person(c).Role == store.Chief
		m.Programmes = append(m.Programmes, row)
	}
	for _, k := range s.cat.GateKeys() {
		g := gateInForce{Gate: s.cat.Gates[k], May: person(c).Role == store.Chief}
		if shipped, ok := s.shipped.Gates[k]; ok {
			g.Loosened = drill.Loosened(shipped, g.Gate)
		}
		m.Gates = append(m.Gates, g)
	}
	s.render(c, http.StatusOK, "programmes", page{Title: "Programmes", Place: "Programmes", Body: m})
}

type drillModel struct {
	Shut  string // why it is closed at first
	May   bool   // change it
	Plans []planRow
	drill.Drill
	Levels []levelRow
	Wind   string
}

// planRow is the drill drawn to scale, for one side.
type planRow struct {
	Side string
	Plan template.HTML
}

type levelRow struct {
	Number  int
	Classes []classRow
}

type classRow struct {
	Class string
	Steps []string
}

func (s *Server) drillPage(c *gin.Context) {
	d, err := s.cat.Drill(c.Param("drill"))
	if err != nil {
		s.notFound(c)
		return
	}
	m := drillModel{Drill: d, Wind: "any direction", Shut: d.Shut(false, false), May: person(c).Role == store.Chief}
	if d.Wind.From != "any" {
		m.Wind = "from " + d.Wind.From + " the pilot"
	}
	if d.Wind.MaxMps > 0 {
		m.Wind += fmt.Sprintf(", up to %.0f m/s (%.0f kn)", d.Wind.MaxMps, d.Wind.MaxMps*3600/1852)
	}
	for i := range d.Levels {
		row := levelRow{Number: i + 1}
		for _, k := range s.cat.Craft.Keys() {
			class := s.cat.Craft[k].Class()
			if len(row.Classes) > 0 && row.Classes[len(row.Classes)-1].Class == string(class) {
				continue
			}
			task, err := d.Lay(d.Sides()[0], i+1, class, nil)
			if err != nil {
				continue // the drill is not for this class
			}
			cr := classRow{Class: string(class)}
			for _, st := range task.Steps {
				cr.Steps = append(cr.Steps, st.Words())
			}
			row.Classes = append(row.Classes, cr)
		}
		m.Levels = append(m.Levels, row)
	}
	for _, side := range d.Sides() {
		if task, err := d.Lay(side, 1, craft.Light, nil); err == nil {
			words := ""
			if side != field.NoSide {
				words = string(side)
			}
			m.Plans = append(m.Plans, planRow{words, draw.Plan(draw.Flight{Task: task, Result: &score.Result{}})})
		}
	}
	s.render(c, http.StatusOK, "drill", page{Title: d.Title, Place: "Programmes", Body: m})
}

type jumpModel struct {
	Query string
	Hits  []jumpHit
}

type jumpHit struct{ Name, Kind, Href string }

// jump finds students, drills and places by name.
func (s *Server) jump(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	m := jumpModel{Query: cleanName(c.Query("q"))}
	q := strings.ToLower(m.Query)
	add := func(name, kind, href string) {
		if len(m.Hits) < 12 && strings.Contains(strings.ToLower(name), q) {
			m.Hits = append(m.Hits, jumpHit{name, kind, href})
		}
	}
	if p.Role != store.Learner {
		err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
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
			s.failed(c, err)
			return
		}
		add("Students", "place", "/students")
		add("Course", "place", "/course")
		add("Sites and wind", "place", "/sites")
		add("Fleet", "place", "/fleet")
		add("Records", "place", "/records")
	}
	for _, d := range s.cat.InOrder() {
		add(d.Title, "drill", "/programmes/drills/"+d.Key)
	}
	add("Programmes", "place", "/programmes")
	s.render(c, http.StatusOK, "jump", page{Title: "Jump", Body: m})
}
