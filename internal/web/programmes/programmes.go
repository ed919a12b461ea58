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
	Choices []programmeChoice
	Shown   programmeRow
	Rest    []drillRow // drills on no rung of it
	Gates   []gateInForce
}

// programmeChoice is a programme that can be shown.
type programmeChoice struct {
	Key, Title string
	Is         bool
}

// drillRow is a drill that is on no rung of the programme that is shown.
type drillRow struct{ Key, Title, Purpose, VersionOf string }

// gateInForce is a gate of the school, with what it asks less strictly than as it ships.
type gateInForce struct {
	drill.Gate
	Loosened []string
	May      bool
}

type programmeRow struct {
	drill.Programme
	Rungs []rungRow // from the first up
	May   bool      // change it
}

// programmeRowOf is a programme from its first rung up. drawn says whether each rung has its small drawing.
func programmeRowOf(p drill.Programme, cat *drill.Catalogue, drawn bool) programmeRow {
	row := programmeRow{Programme: p}
	for i, r := range p.Rungs {
		first := r.Cells[0]
		var parts []string
		if !strings.Contains(r.Title, first.Aids.Words()) {
			parts = append(parts, first.Aids.Words())
		}
		if first.Side != field.NoSide {
			parts = append(parts, say.Say("both sides"))
		}
		if r.Packs[1] > 0 {
			parts = append(parts, say.Say("usual packs", r.Packs[0], r.Packs[1]))
		}
		x := rungRow{Number: i + 1, Title: r.Title, Drill: first.Drill, How: strings.Join(parts, " · "), Why: r.Why}
		if drawn {
			if task, err := cat.Drills[first.Drill].Lay(first.Side, max(1, first.Level), craft.Light, nil); err == nil {
				x.Drawn = draw.Thumb(task)
			}
		}
		for _, key := range p.LinesAbove(i) {
			x.Gates = append(x.Gates, gateLine{key, cat.Gates[key].Title})
		}
		row.Rungs = append(row.Rungs, x)
	}
	return row
}

type rungRow struct {
	Number                 int
	Title, Drill, How, Why string
	Drawn                  template.HTML
	Gates                  []gateLine // drawn above it
}

// gateLine is a gate as a line across the ladder.
type gateLine struct{ Key, Title string }

func (s Pages) ProgrammesPage(c *gin.Context) {
	var m programmesModel
	chief := frame.Person(c).Role == store.Chief
	keys := s.Cat.ProgrammeKeys()
	shown := c.Query("programme")
	if _, ok := s.Cat.Programmes[shown]; !ok && len(keys) > 0 {
		shown = keys[0]
	}
	for _, k := range keys {
		m.Choices = append(m.Choices, programmeChoice{k, s.Cat.Programmes[k].Title, k == shown})
	}
	m.Shown = programmeRowOf(s.Cat.Programmes[shown], s.Cat, true)
	m.Shown.May = chief
	on := map[string]bool{}
	for _, r := range m.Shown.Programme.Rungs {
		for _, cell := range r.Cells {
			on[cell.Drill] = true
		}
	}
	for _, d := range s.Cat.InOrder() {
		if !on[d.Key] {
			m.Rest = append(m.Rest, drillRow{d.Key, d.Title, d.Purpose, d.Version.Words(s.Cat)})
		}
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
		m.Wind += fmt.Sprintf(msgUpKn, d.Wind.MaxMps, d.Wind.MaxMps*3600/1852)
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
