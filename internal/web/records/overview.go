package records

import (
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/internal/draw"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// schoolModel is all students by gate and rung.
type schoolModel struct {
	Gates   []schoolGate
	Rows    []schoolRow
	Close   []nearRow
	Soon    []nearRow
	Holding []holdingRow
	Differ  []differRow
	Hours   string
	Packs   string
	PerPass string
	Flown   int // attempts at the field
	Sim     int // in the simulator
	Grips   string
	// Onlookers says what people who look on do to the passes.
	Onlookers string
	IsChief   bool
	Headline  []headline
	Teaches   bool
	Count     int
	Page      frame.ListPage
}

// headline is a figure that says how the school does.
type headline struct{ Words, Figure, More string }

// headlines are what a chief asks first: who may fly alone, who soon may, who soon may not any more, and how many
// attempts pass.
func (m *schoolModel) headlines(shares map[string][]readiness.Share) {
	signed, judged, passes := 0, 0, 0
	for _, list := range shares {
		for _, s := range list {
			judged, passes = judged+s.Attempts, passes+s.Passes
		}
	}
	for _, g := range m.Gates {
		signed += g.Signed
	}
	m.Headline = []headline{
		{say.Say("head signed"), strconv.Itoa(signed), say.Say("of students", m.Count)},
		{say.Say("head close"), strconv.Itoa(len(m.Close)), say.Say("within attempts", readiness.NearAttempts)},
		{say.Say("head ending"), strconv.Itoa(len(m.Soon)), say.Say("within days", int(readiness.LapsesSoon.Hours()/24))},
	}
	if judged > 0 {
		m.Headline = append(m.Headline, headline{say.Say("head passed"), fmt.Sprintf("%.0f %%",
			100*float64(passes)/float64(judged)), say.Say("passed of", passes, judged)})
	}
}

type schoolGate struct {
	Key, Title string
	Signed     int
}

type schoolRow struct {
	ID, Name, Craft, Programme string
	Rungs                      template.HTML
	Held                       string
	Gates                      []schoolCell
	Next                       string
	Last                       string
	Hours                      string
}

type schoolCell struct{ Word, State, Says, Href string }

type nearRow struct{ Who, Href, Says string }

type holdingRow struct {
	Title, Href string
	Students    int
	Names       string
}

type differRow struct {
	Who, Href, What, Week string
	Says                  []string
	at                    time.Time
}

// RecordsPage shows the whole school: by gate and rung, who is near, what lapses soon,
// what holds most people up, and where verdicts differ.
func (s Pages) RecordsPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var students []store.Student
	var views map[uuid.UUID]knowledge.View
	var air map[uuid.UUID]store.Airtime
	var watched string
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		if students, err = tx.Students(ctx); err != nil {
			return err
		}
		if views, err = s.Students().Views(ctx, tx, students); err != nil {
			return err
		}
		if air, err = tx.Airtimes(ctx); err != nil {
			return err
		}
		watched, err = knowledge.Onlookers(ctx, tx, nil)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	m := s.schoolOf(students, views, air, p.Zone())
	m.Rows, m.Page = frame.PageOf(m.Rows, c.Query("page"), func(page string) string {
		return "/records?page=" + page + "#all-h"
	})
	m.IsChief, m.Onlookers = p.Role == store.Chief, watched
	m.Teaches = m.IsChief || p.Role == store.Instructor
	s.Render(c, http.StatusOK, "records", frame.Page{Title: "Records", Place: "Records", Body: m,
		Keys: []frame.Key{{Key: "↑ ↓ Enter", Does: msgWalkThroughStudents}}})
}

func (s Pages) schoolOf(students []store.Student, views map[uuid.UUID]knowledge.View, air map[uuid.UUID]store.Airtime,
	loc *time.Location) schoolModel {
	m := schoolModel{Count: len(students)}
	signed := map[string]int{}
	holding := map[string][]string{}
	grips := map[string][]readiness.Share{}
	hours, packs, passes := 0.0, 0, 0
	for _, st := range students {
		o, t := views[st.ID], air[st.ID]
		href := "/students/" + st.ID.String()
		pr := s.Cat.Programmes[st.Programme]
		row := schoolRow{ID: st.ID.String(), Name: st.Name, Craft: s.Cat.Craft[st.CraftType].Title, Programme: pr.Title,
			Held: fmt.Sprintf("%d of %d", o.Held, o.Cells), Last: "never", Rungs: draw.Share(o.Held, o.Cells)}
		if last := store.LastFlew(t.Last, o.Last); !last.IsZero() {
			row.Last = last.In(loc).Format("2 Jan")
		}
		if t.Packs > 0 {
			row.Hours = fmt.Sprintf("%.1f h, %s", t.Hours, words.Counted(t.Packs, "pack"))
		}
		hours, packs, passes = hours+t.Hours, packs+t.Packs, passes+t.Passes
		grips[st.Grip] = append(grips[st.Grip], readiness.Share{Attempts: o.Judged, Passes: o.Passes})
		m.Flown, m.Sim = m.Flown+o.Flown-o.Sim, m.Sim+o.Sim
		for _, g := range o.Gates {
			if g.State == readiness.GateSigned && !g.NotFor {
				signed[g.Key]++
			}
			row.Gates = append(row.Gates, s.gateOf(&m, st.Name, href, g, loc))
		}
		if o.Next != nil {
			row.Next = s.Cat.TitleOf(o.Next.Drill, o.Next.Side) + ", " + o.Next.Aids.Words()
			if o.Tries > 0 {
				holding[o.Next.Drill] = append(holding[o.Next.Drill], st.Name)
			}
		}
		for _, d := range o.Differ {
			if d.Week.After(s.Now().Add(-knowledge.DifferSince)) {
				m.Differ = append(m.Differ, differRow{st.Name, href, s.Cat.TitleOf(d.Drill, field.Side(d.Side)),
					d.Week.Format(msgWeekJanuary), d.Says, d.Week})
			}
		}
		m.Rows = append(m.Rows, row)
	}
	slices.SortStableFunc(m.Differ, func(a, b differRow) int { return b.at.Compare(a.at) })
	m.Differ = m.Differ[:min(len(m.Differ), 6)]
	for _, k := range s.Cat.GateKeys() {
		m.Gates = append(m.Gates, schoolGate{k, s.Cat.Gates[k].Title, signed[k]})
	}
	m.headlines(grips)
	m.Holding = s.holdingOf(holding)
	m.Grips = readiness.CompareGrips(grips["thumb"], grips["pinch"])
	m.Close, m.Soon = m.Close[:min(len(m.Close), 12)], m.Soon[:min(len(m.Soon), 12)]
	m.Hours, m.Packs = fmt.Sprintf("%.1f h", hours), strconv.Itoa(packs)
	if m.PerPass = msgNoPassMarked; passes > 0 && packs > 0 {
		m.PerPass = fmt.Sprintf(msgPacksMinAir,
			float64(packs)/float64(passes),
			60*hours/float64(passes))
	}
	return m
}

// holdingOf lists the drills that hold most students up, by their names.
func (s Pages) holdingOf(holding map[string][]string) (out []holdingRow) {
	for d, names := range holding {
		out = append(out, holdingRow{s.Cat.TitleOf(d, field.NoSide), "/programmes/drills/" + d, len(names),
			frame.Listed(names, 5)})
	}
	slices.SortFunc(out, func(a, b holdingRow) int {
		if a.Students != b.Students {
			return b.Students - a.Students
		}
		return compareText(a.Title, b.Title)
	})
	out = out[:min(len(out), 6)]
	return out
}

// gateOf is a student's gate in the table of the school; it is noted if it is close, or lapses soon.
func (s Pages) gateOf(m *schoolModel, name, href string, g readiness.OverviewGate, loc *time.Location) schoolCell {
	cell := schoolCell{State: string(g.State), Word: frame.GateWords[g.State], Href: href + "/gates/" + g.Key}
	switch {
	case g.NotFor:
		cell = schoolCell{Word: "—", State: "not-for", Says: msgNotCraft}
	case g.State == readiness.GateSigned:
		cell.Says = "until " + g.SignedTo.In(loc).Format("2 Jan")
	case g.Attempts > 0:
		cell.Says = words.Counted(g.Attempts, "attempt") + " at least"
	case g.Missing > 0:
		cell.Says = words.Counted(g.Missing, "thing") + " missing"
	}
	title := s.Cat.Gates[g.Key].Title
	if !g.NotFor && (g.State == readiness.GateReady || g.State != readiness.GateSigned && g.Attempts > 0 &&
		g.Attempts <= readiness.NearAttempts) {
		says := fmt.Sprintf(msgReadySigned, title)
		if g.State != readiness.GateReady {
			says = fmt.Sprintf("%s: %s at least", title, words.Counted(g.Attempts, "attempt"))
		}
		m.Close = append(m.Close, nearRow{name, cell.Href, says})
	}
	if !g.NotFor && g.State == readiness.GateSigned && !g.Ends.IsZero() &&
		g.Ends.Before(s.Now().Add(readiness.LapsesSoon)) {
		what := g.What
		if d, ok := s.Cat.Drills[what]; ok {
			what = d.Title
		}
		m.Soon = append(m.Soon, nearRow{name, cell.Href, fmt.Sprintf("%s, on %s: %s", title,
			g.Ends.In(loc).Format("2 Jan"), what)})
	}
	return cell
}

func compareText(a, b string) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}
