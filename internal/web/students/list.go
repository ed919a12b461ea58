package students

import (
	"cmp"
	"context"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/readiness"
	"maestrale/internal/draw"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// perPage is how many students stand on a page.
const perPage = 50

type studentsModel struct {
	Students   []studentRow
	Count      int // in training
	Found      int // of those that are asked for
	Query      string
	Show       string // which need; empty = everybody
	Sort       string // name, or who needs attention
	Needs      []needChoice
	Says       string // which of them stand here
	Back, On   string // addresses of the pages before and after; empty = none
	Left       []store.Student
	CanAdd     bool
	Programmes []drill.Programme
	Craft      []craft.Type
}

// needChoice is a need by which the list can be cut down, with how many have it.
type needChoice struct {
	Key, Words string
	Count      int
	Href       string
	Is         bool
}

type studentRow struct {
	store.Student
	Programme string
	Craft     string
	Mini      template.HTML
	Held      string
	Need      string
	Class     string // of the need
	Next      string
	Last      string
}

// needKeys are the needs by the words that addresses have for them.
var needKeys = map[readiness.Need]string{readiness.NeedLapsing: "lapsing", readiness.NeedStuck: "stuck",
	readiness.NeedReady: "ready", readiness.NeedAbsent: "absent", readiness.NeedFirst: "new"}

// attended is a student with what the whole record comes to.
type attended struct {
	store.Student
	view  knowledge.View
	last  time.Time
	needs readiness.Attention
}

// StudentsPage lists the students, those first who need attention, each with the ladder, what comes next and when
// they last flew.
func (s Pages) StudentsPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := studentsModel{CanAdd: p.Role != store.Spotter, Query: frame.CleanName(c.Query("q")), Show: c.Query("show"),
		Sort: c.Query("sort")}
	m.Programmes, m.Craft = s.choices()
	air, zone := knowledge.AirNow(p, s.Now()), p.Zone()
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := s.attendedOf(ctx, tx, &m, zone)
		if err != nil {
			return err
		}
		r, err := s.rollOf(ctx, tx, m.pageOf(list, c.Query("page")))
		if err != nil {
			return err
		}
		for _, st := range r.students {
			row, err := s.studentRow(&r, st, air, zone)
			if err != nil {
				return err
			}
			m.Students = append(m.Students, row)
		}
		return nil
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	pg := frame.Page{Title: "Students", Place: "Students", Body: m, Keys: []frame.Key{{Key: "↑ ↓ Enter",
		Does: msgWalkThroughStudents}, {Key: "/", Does: msgJumpStudentName}}}
	s.Render(c, http.StatusOK, "students", pg)
}

// attendedOf are the students that are asked for, in the order that is asked for; it fills in how many have which
// need.
func (s Pages) attendedOf(ctx context.Context, tx store.Tx, m *studentsModel, zone *time.Location) ([]attended,
	error) {
	all, err := tx.AllStudents(ctx)
	if err != nil {
		return nil, err
	}
	var here []store.Student
	for _, st := range all {
		if st.LeftOn != nil {
			m.Left = append(m.Left, st)
		} else {
			here = append(here, st)
		}
	}
	views, err := s.Students().Views(ctx, tx, here)
	if err != nil {
		return nil, err
	}
	flew, err := tx.Airtimes(ctx)
	if err != nil {
		return nil, err
	}
	m.Count = len(here)
	count := map[string]int{}
	var out []attended
	for _, st := range here {
		k := attended{Student: st, view: views[st.ID]}
		k.last = flew[st.ID].LastFlew(k.view.Last)
		k.needs = k.view.Attend(s.Cat, k.last, s.Now().In(zone))
		key := needKeys[k.needs.Need]
		count[key]++
		if s.asked(st, m.Query) && (m.Show == "" || m.Show == key) {
			out = append(out, k)
		}
	}
	for _, n := range []readiness.Need{readiness.NeedLapsing, readiness.NeedStuck, readiness.NeedReady,
		readiness.NeedAbsent,
		readiness.NeedFirst} {
		key := needKeys[n]
		if count[key] > 0 {
			m.Needs = append(m.Needs, needChoice{key, say.Say("need " + key), count[key],
				m.address(func(v url.Values) { v.Set("show", key) }), m.Show == key})
		}
	}
	if m.Sort != "name" {
		slices.SortStableFunc(out, func(a, b attended) int {
			return cmp.Or(cmp.Compare(a.needs.Need, b.needs.Need), a.needs.By.Compare(b.needs.By))
		})
	}
	return out, nil
}

// asked tells whether a student is among those that were searched for: by name, programme, craft or aim.
func (s Pages) asked(st store.Student, query string) bool {
	text := strings.ToLower(strings.Join([]string{st.Name, s.Cat.Programmes[st.Programme].Title,
		s.Cat.Craft[st.CraftType].Title, st.TrainsFor}, " "))
	for _, word := range strings.Fields(strings.ToLower(query)) {
		if !strings.Contains(text, word) {
			return false
		}
	}
	return true
}

// address is that of the list as it is, with a change.
func (m *studentsModel) address(change func(url.Values)) string {
	v := url.Values{}
	for key, is := range map[string]string{"q": m.Query, "show": m.Show, "sort": m.Sort} {
		if is != "" {
			v.Set(key, is)
		}
	}
	change(v)
	if len(v) == 0 {
		return "/students"
	}
	return "/students?" + v.Encode()
}

// Everybody is the address of the list without a need.
func (m studentsModel) Everybody() string { return m.address(func(v url.Values) { v.Del("show") }) }

// Otherwise is the address of the list in the other order.
func (m studentsModel) Otherwise() string {
	return m.address(func(v url.Values) {
		v.Del("sort")
		if m.Sort != "name" {
			v.Set("sort", "name")
		}
	})
}

// pageOf cuts the page that is asked for out of a list, and says which it is.
func (m *studentsModel) pageOf(list []attended, page string) []attended {
	m.Found = len(list)
	at, err := strconv.Atoi(page)
	if err != nil || at < 1 || (at-1)*perPage >= len(list) {
		at = 1
	}
	from, to := (at-1)*perPage, min(at*perPage, len(list))
	link := func(n int) string { return m.address(func(v url.Values) { v.Set("page", strconv.Itoa(n)) }) }
	if at > 1 {
		m.Back = link(at - 1)
	}
	if to < len(list) {
		m.On = link(at + 1)
	}
	if len(list) > perPage {
		m.Says = say.Say("page", from+1, to, len(list))
	}
	return list[from:to]
}

// roll is the students of a page, with what decides where they stand and what they fly next.
type roll struct {
	students []attended
	evidence map[uuid.UUID]*readiness.Evidence
	facts    map[uuid.UUID]store.NextFacts
	decided  map[uuid.UUID]store.Decision
}

// rollOf reads what is known of some students.
func (s Pages) rollOf(ctx context.Context, tx store.Tx, list []attended) (r roll, err error) {
	r.students, r.evidence = list, map[uuid.UUID]*readiness.Evidence{}
	if len(list) == 0 {
		return r, nil
	}
	fit, err := tx.LearningFit(ctx)
	if err != nil {
		return r, err
	}
	var ids []uuid.UUID
	for _, st := range list {
		ids = append(ids, st.ID)
		r.evidence[st.ID] = s.Students().NoEvidence()
		r.evidence[st.ID].Expect(fit.Prior)
	}
	if r.facts, err = s.Students().Facts(ctx, tx, ids...); err != nil {
		return r, err
	}
	if r.decided, err = tx.AllDecisions(ctx); err != nil {
		return r, err
	}
	return r, s.Students().EvidenceOf(ctx, tx, r.evidence)
}

func (s Pages) studentRow(r *roll, st attended, air knowledge.Air, zone *time.Location) (studentRow, error) {
	j := s.Students().Judge(st.Student, r.evidence[st.ID])
	j.Seen, j.Signs = r.decided[st.ID].Seen, r.decided[st.ID].Signs
	row := studentRow{Student: st.Student, Programme: j.Programme.Title, Craft: s.Cat.Craft[st.CraftType].Title,
		Mini: draw.MiniLadder(j.Programme, j.Ladder()), Last: say.Say("never"), Need: st.needs.Words,
		Class: needKeys[st.needs.Need], Held: fmt.Sprintf("%d of %d", st.view.Held, st.view.Cells)}
	next, err := s.Students().NextFrom(j, r.facts[st.ID], air)
	if err != nil {
		return row, err
	}
	if row.Next = next.Says; len(next.Blocks) > 0 {
		row.Next = s.Cat.CellWords(next.First())
	}
	if !st.last.IsZero() {
		row.Last = st.last.In(zone).Format("Mon 2 Jan")
	}
	return row, nil
}
