package programmes

import (
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

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
func programmeRowOf(p drill.Programme, gates map[string]drill.Gate) programmeRow {
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
		x := rungRow{Title: r.Title, Drill: first.Drill, How: strings.Join(parts, " · "), Why: r.Why}
		for _, key := range p.LinesAbove(i) {
			x.Gates = append(x.Gates, gates[key].Title)
		}
		row.Rungs = append(row.Rungs, x)
	}
	return row
}

type rungRow struct {
	Title, Drill, How, Why string
	Gates                  []string // drawn above it
}

func (s Pages) ProgrammesPage(c *gin.Context) {
	m := programmesModel{Drills: s.Cat.InOrder()}
	for _, k := range s.Cat.ProgrammeKeys() {
		p := s.Cat.Programmes[k]
		row := programmeRowOf(p, s.Cat.Gates)
		row.May = frame.Person(c).Role == store.Chief
		m.Programmes = append(m.Programmes, row)
	}
	for _, k := range s.Cat.GateKeys() {
		g := gateInForce{Gate: s.Cat.Gates[k], May: frame.Person(c).Role == store.Chief}
		if shipped, ok := s.Catalogues.Shipped.Gates[k]; ok {
			g.Loosened = drill.Loosened(shipped, g.Gate)
		}
		m.Gates = append(m.Gates, g)
	}
	s.Render(c, http.StatusOK, "programmes", frame.Page{Title: "Programmes", Place: "Programmes", Body: m})
}

type drillModel struct {
	Shut  string // why it is closed at first
	May   bool   // change it
	Plans []planRow
	drill.Drill
	Levels []levelRow
	Wind   string
	// VersionOf is which drill on a ladder it is a version of, in words; empty for none.
	VersionOf string
}

// planRow is the drill drawn to scale, for one side.
type planRow struct {
	Side  string
	Plan  template.HTML
	Steps []string
}

type levelRow struct {
	Number  int
	Classes []classRow
}

type classRow struct {
	Class string
	Steps []string
}

func (s Pages) DrillPage(c *gin.Context) {
	d, err := s.Cat.Drill(c.Param("drill"))
	if err != nil {
		s.NotFound(c)
		return
	}
	m := drillModel{Drill: d, Wind: "any direction", Shut: d.Shut(false, false), May: frame.Person(c).Role == store.Chief,
		VersionOf: d.Version.Words(s.Cat)}
	if d.Wind.From != "any" {
		m.Wind = "from " + d.Wind.From + " the pilot"
	}
	if d.Wind.MaxMps > 0 {
		m.Wind += fmt.Sprintf(", up to %.0f m/s (%.0f kn)", d.Wind.MaxMps, d.Wind.MaxMps*3600/1852)
	}
	for i := range d.Levels {
		row := levelRow{Number: i + 1}
		for _, k := range s.Cat.Craft.Keys() {
			class := s.Cat.Craft[k].Class()
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
			row := planRow{Plan: draw.Teach(task, d.Wind.On(side).From)}
			if side != field.NoSide {
				row.Side = say.Say("side " + string(side))
			}
			for _, st := range task.Steps {
				row.Steps = append(row.Steps, st.Words())
			}
			m.Plans = append(m.Plans, row)
		}
	}
	s.Render(c, http.StatusOK, "drill", frame.Page{Title: d.Title, Place: "Programmes", Body: m,
		Script: "teach.js"})
}
