package fly

import (
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/score"
	"maestrale/core/units"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// yawModel is the page on which the nose's turn past a subject is planned.
type yawModel struct {
	Drills  []frame.DrillChoice
	Drill   string
	Craft   []craft.Type
	Type    string
	Speed   float64
	Offset  float64
	Orbit   bool
	Plan    orient.YawPlan
	Way     template.HTML
	Curve   template.HTML
	Says    []string
	Fly     string
	Rows    []yawRow
	Problem string
}

type yawRow struct{ T, Way, Rate, Nose, Stick string }

// subjectDrills are those whose nose is kept on a subject.
func subjectDrills(cat *drill.Catalogue) (out []frame.DrillChoice) {
	for _, d := range cat.InOrder() {
		if slices.ContainsFunc(d.Steps, func(s drill.Step) bool {
			return s.Kind == drill.Path &&
				s.Heading.Kind == drill.Subject
		}) {
			out = append(out, frame.DrillChoice{Key: d.Key, Title: d.Title})
		}
	}
	return out
}

// runsPast tells whether a drill passes its subject straight, and does not go round it.
func runsPast(d drill.Drill) bool {
	return slices.ContainsFunc(d.Steps, func(s drill.Step) bool {
		return s.Kind == drill.Path && s.Heading.Kind == drill.Subject && s.Figure != nil && s.Figure.Shape == drill.Line
	})
}

// YawPage plans a run past a subject or an orbit: of a drill, or with figures of one's own.
func (s Pages) YawPage(c *gin.Context) {
	p := frame.Person(c)
	m := yawModel{Drills: subjectDrills(s.Cat), Drill: c.Query("drill"), Type: c.Query("craft"),
		Orbit: c.Query("shape") == "orbit"}
	var own *store.Student
	if p.StudentID != nil {
		err := s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
			st, err := tx.Student(c.Request.Context(), *p.StudentID)
			own = &st
			return err
		})
		if err != nil {
			s.Failed(c, err)
			return
		}
	}
	for _, k := range s.Cat.Craft.Keys() {
		m.Craft = append(m.Craft, s.Cat.Craft[k])
	}
	if _, ok := s.Cat.Craft[m.Type]; !ok && own != nil {
		m.Type = own.CraftType
	}
	kind, ok := s.Cat.Craft[m.Type]
	if !ok {
		kind = m.Craft[max(0, slices.IndexFunc(m.Craft, func(t craft.Type) bool { return t.Gimbal }))]
		m.Type = kind.Key
	}
	fastest := field.Degrees(kind.Limits[kind.Aids[0]].YawDps)
	if m.Drill == "" && c.Query("offset") == "" && len(m.Drills) > 0 {
		m.Drill = m.Drills[max(0, slices.IndexFunc(m.Drills,
			func(d frame.DrillChoice) bool { return runsPast(s.Cat.Drills[d.Key]) }))].Key
	}
	speed, err := queryNumber(c, "speed", units.Speed, 0.1, 60)
	if err == nil && m.Drill != "" && m.Drill != "own" {
		err = s.yawOfDrill(&m, kind, speed, fastest)
		if own != nil {
			m.Fly = "/students/" + own.ID.String() + "/fly?drill=" + m.Drill
		}
	} else if err == nil {
		m.Drill, m.Speed = "own", firstNumber(speed, 2)
		var offset float64
		if offset, err = queryNumber(c, "offset", units.Length, 0.5, 1000); err == nil {
			m.Offset = firstNumber(offset, 10)
			if m.Orbit {
				m.Plan, err = orient.Orbit(m.Speed, m.Offset, fastest)
			} else {
				m.Plan, err = orient.PastSubject(m.Speed, m.Offset, fastest)
			}
		}
	}
	status := http.StatusOK
	if err != nil {
		m.Problem, status = err.Error(), http.StatusUnprocessableEntity
	} else {
		m.show(kind, fastest)
	}
	s.Render(c, status, "yaw", frame.Page{Title: "Planned yaw", Place: "Fly", Body: m})
}

// queryNumber reads a measure of the address, in SI and in bounds; 0 where none is given.
func queryNumber(c *gin.Context, name string, kind units.Kind, low, high float64) (float64, error) {
	v, err := frame.NumberOf("the "+name, frame.InSI(c, name, kind, ""), low, high)
	if v == nil {
		return 0, err
	}
	return *v, err
}

func firstNumber(a, b float64) float64 {
	if a > 0 {
		return a
	}
	return b
}

// yawOfDrill plans a drill's own way, at its usual speed unless another is asked for.
func (s Pages) yawOfDrill(m *yawModel, kind craft.Type, speed float64, fastest field.Angle) error {
	d, err := s.Cat.Drill(m.Drill)
	if err != nil {
		return err
	}
	task, err := d.Lay(d.Sides()[0], 1, kind.Class(), nil)
	if err != nil {
		return err
	}
	usual := 1.0
	for _, st := range task.Steps {
		if st.Kind == drill.Path && st.SpeedMps[1] > 0 {
			usual = math.Round(5*(st.SpeedMps[0]+st.SpeedMps[1])) / 10
		}
	}
	m.Speed = firstNumber(speed, usual)
	m.Plan, m.Orbit, err = score.PlannedYaw(task, m.Speed, fastest)
	m.Offset = math.Round(10*m.Plan.OffsetM) / 10
	return err
}

// show draws the plan and says what it comes to.
func (m *yawModel) show(kind craft.Type, fastest field.Angle) {
	p := m.Plan
	m.Way, m.Curve = draw.YawWay(p, m.Orbit), draw.YawCurve(p, fastest)
	m.Says = append(m.Says, fmt.Sprintf(msgMostStickIf, p.Peak.Deg(), 100*float64(p.Peak)/float64(fastest),
		kind.Title, fastest.Deg()))
	if p.Can {
		m.Says = append(m.Says, fmt.Sprintf(msgCraftCanDo, p.MostSpeedMps, p.LeastOffsetM))
	} else {
		m.Says = append(m.Says, fmt.Sprintf(msgTooFastCraft,
			p.MostSpeedMps, p.LeastOffsetM))
	}
	switch {
	case m.Orbit:
		m.Says = append(m.Says, fmt.Sprintf(msgOnceRoundTakes,
			2*math.Pi*p.OffsetM/p.SpeedMps))
	case p.LeadIn > 0:
		m.Says = append(m.Says, fmt.Sprintf(msgNoseBeginsTurn, p.LeadIn))
	default:
		m.Says = append(m.Says, msgNoseNeverTurns)
	}
	for i, a := range p.Curve {
		if m.Orbit || i%(orient.Half/5) != 0 {
			continue
		}
		m.Rows = append(m.Rows, yawRow{fmt.Sprintf("%+.1f s", a.T), fmt.Sprintf("%+.1f m", a.T*p.SpeedMps),
			fmt.Sprintf("%.1f °/s", a.Rate.Deg()), fmt.Sprintf("%.0f°", a.Nose.Deg()), fmt.Sprintf("%.0f %%",
				100*float64(a.Rate)/float64(fastest))})
	}
}
