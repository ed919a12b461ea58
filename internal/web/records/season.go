package records

import (
	"cmp"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// seasonModel is the school in two pictures: students by rungs, and drills by weeks.
type seasonModel struct {
	Programmes []seasonChoice
	Title      string
	Rungs      []mapRung
	Students   []mapStudent
	More       int // students of the programme who are not shown
	Spans      []seasonChoice
	Weeks      []string
	Drills     []seasonDrill
	Attempts   int
}

// seasonChoice is an entry of a list.
type seasonChoice struct {
	Value, Words string
	Is           bool
}

// mapRung is a column of the map: a rung, and the gates whose line lies above it.
type mapRung struct {
	N     int
	Title string
	Gates []string
}

// mapStudent is a row of the map.
type mapStudent struct {
	ID, Name string
	Rungs    []heat
}

// heat is a field of a picture: how dark it is from 0 to 4, and its figures.
type heat struct {
	Shade      int
	Text, Says string
	Line       bool // a gate's line lies beside it
}

// seasonDrill is a row of the picture of drills.
type seasonDrill struct {
	Key, Title string
	Weeks      []heat
	All        string
}

// spans are the lengths of a season, in weeks.
var spans = []int{13, 26, 52}

// mostOnMap is how many students stand on the map at most.
const mostOnMap = 100

// SeasonPage draws the school: its students by the rungs that they hold, and how often each drill was passed, week by
// week.
func (s Pages) SeasonPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	weeks := spans[1]
	if n, err := strconv.Atoi(c.Query("weeks")); err == nil && slices.Contains(spans, n) {
		weeks = n
	}
	monday := readiness.MondayOf(s.Now(), p.Zone()).AddDate(0, 0, -7*(weeks-1))
	var students []store.Student
	var views map[uuid.UUID]knowledge.View
	var flown []readiness.DrillWeek
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		if students, err = tx.Students(ctx); err != nil {
			return err
		}
		if views, err = s.Students().Views(ctx, tx, students); err != nil {
			return err
		}
		flown, err = tx.DrillWeeks(ctx, monday, p.Zone())
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	m := seasonModel{}
	for _, n := range spans {
		m.Spans = append(m.Spans, seasonChoice{strconv.Itoa(n), say.Say("weeks", n), n == weeks})
	}
	m.drills(s.Cat, flown, monday, weeks)
	m.mapOf(s.Cat, students, views, c.Query("programme"))
	s.Render(c, http.StatusOK, "season", frame.Page{Title: say.Say("season"), Place: "Records", Body: m})
}

// mapOf draws the students of a programme, by default of the one with most students: who holds most comes first.
func (m *seasonModel) mapOf(cat *drill.Catalogue, students []store.Student, views map[uuid.UUID]knowledge.View,
	asked string) {
	of := map[string][]store.Student{}
	for _, st := range students {
		of[st.Programme] = append(of[st.Programme], st)
	}
	if len(of[asked]) == 0 {
		for _, k := range cat.ProgrammeKeys() {
			if len(of[k]) > len(of[asked]) {
				asked = k
			}
		}
	}
	for _, k := range cat.ProgrammeKeys() {
		if len(of[k]) > 0 {
			m.Programmes = append(m.Programmes, seasonChoice{k, say.Say("programme", cat.Programmes[k].Title, len(of[k])),
				k == asked})
		}
	}
	programme, list := cat.Programmes[asked], of[asked]
	m.Title = programme.Title
	for i, r := range programme.Rungs {
		rung := mapRung{N: i + 1, Title: r.Title}
		for _, g := range programme.LinesAbove(i) {
			rung.Gates = append(rung.Gates, cat.Gates[g].Title)
		}
		m.Rungs = append(m.Rungs, rung)
	}
	slices.SortStableFunc(list, func(a, b store.Student) int {
		x, y := views[a.ID], views[b.ID]
		return cmp.Or(cmp.Compare(y.Rungs, x.Rungs), cmp.Compare(y.Held, x.Held))
	})
	m.More = max(0, len(list)-mostOnMap)
	for _, st := range list[:min(len(list), mostOnMap)] {
		row := mapStudent{ID: st.ID.String(), Name: st.Name}
		for i, held := range views[st.ID].ByRung {
			items := len(programme.Rungs[i].Cells)
			row.Rungs = append(row.Rungs, heat{shade(held, items), fmt.Sprintf("%d/%d", held, items),
				say.Say("rung held", programme.Rungs[i].Title, held, items), len(m.Rungs[i].Gates) > 0})
		}
		m.Students = append(m.Students, row)
	}
}

// drills draws how the drills went, in the order of the ladders.
func (m *seasonModel) drills(cat *drill.Catalogue, flown []readiness.DrillWeek, monday time.Time, weeks int) {
	var order []string
	for _, d := range cat.InOrder() {
		order = append(order, d.Key)
	}
	monday, weeks = readiness.SeasonStart(flown, monday, weeks)
	for n := range weeks {
		m.Weeks = append(m.Weeks, monday.AddDate(0, 0, 7*n).Format("2 Jan"))
	}
	for _, r := range readiness.Season(flown, order, monday, weeks) {
		row := seasonDrill{Key: r.Drill, Title: cat.TitleOf(r.Drill, field.NoSide),
			All: say.Say("passed-all", r.All.Passes, r.All.Attempts)}
		m.Attempts += r.All.Attempts
		for n, w := range r.Weeks {
			h := heat{}
			if _, ok := w.Rate(); ok {
				h = heat{Shade: shade(w.Passes, w.Attempts), Text: fmt.Sprintf("%d/%d", w.Passes, w.Attempts),
					Says: say.Say("week passed", m.Weeks[n], w.Passes, w.Attempts)}
			}
			row.Weeks = append(row.Weeks, h)
		}
		m.Drills = append(m.Drills, row)
	}
}

// shade is how dark a share is drawn: 0 for nothing of it, 4 for all, and three steps between.
func shade(part, of int) int {
	switch {
	case part <= 0 || of <= 0:
		return 0
	case part >= of:
		return 4
	}
	return 1 + min(2, 3*part/of)
}
