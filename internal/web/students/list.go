package students

import (
	"cmp"
	"context"
	"crypto/sha256"
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/plan"
	"maestrale/core/readiness"
	"maestrale/internal/draw"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

type studentsModel struct {
	Students   []studentRow
	Count      int // in training
	Found      int // of those that are asked for
	Query      string
	Show       string // which need; empty = everybody
	Sort       string // name, or who needs attention
	Needs      []needChoice
	Page       frame.ListPage
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
		var page []attended
		page, m.Page = frame.PageOf(list, c.Query("page"), func(n string) string {
			return m.address(func(v url.Values) { v.Set("page", n) })
		})
		m.Found = len(list)
		held, err := s.heldRows(ctx, tx, page, air)
		if err != nil {
			return err
		}
		for i, st := range page {
			m.Students = append(m.Students, s.studentRow(st, held[i], zone))
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
	landed, err := tx.LastLandings(ctx)
	if err != nil {
		return nil, err
	}
	m.Count = len(here)
	count := map[string]int{}
	var out []attended
	for _, st := range here {
		k := attended{Student: st, view: views[st.ID]}
		k.last = store.LastFlew(landed[st.ID], k.view.Last)
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

// rowKey is what a held row was made of. It holds the catalogue itself, so that no other one ever stands at its place.
type rowKey struct {
	cat  *drill.Catalogue
	made [sha256.Size]byte
}

// heldRow is what takes long to work out of a row of the list.
type heldRow struct {
	Mini template.HTML
	Next string
}

// heldRows gives the ladder and what comes next of the students of a page, by the places of the list. What was worked
// out before is held under everything that it was made of: the record and the rules, the school's files, how its
// students learn, what else decides what comes next, the air, and the step of time in which a list is worked out.
func (s Pages) heldRows(ctx context.Context, tx store.Tx, list []attended, air knowledge.Air) ([]heldRow, error) {
	out := make([]heldRow, len(list))
	if len(list) == 0 {
		return out, nil
	}
	fit, err := tx.LearningFit(ctx)
	if err != nil {
		return nil, err
	}
	var ids []uuid.UUID
	for _, st := range list {
		ids = append(ids, st.ID)
	}
	facts, err := s.Students().Facts(ctx, tx, ids...)
	if err != nil {
		return nil, err
	}
	keys := make([]rowKey, len(list))
	missing := map[uuid.UUID]*readiness.Evidence{}
	for i, st := range list {
		made := fmt.Sprintf("%s|%s|%d|%+v|%v|%s|%d", st.ID, st.view.Of, fit.FittedAt.UnixMicro(), facts[st.ID],
			air.WindMps, windAndLight(air), s.Now().Truncate(plan.Steps).Unix())
		keys[i] = rowKey{s.Cat, sha256.Sum256([]byte(made))}
		row, ok := s.rows.Get(keys[i])
		if ok {
			out[i] = row
			continue
		}
		missing[st.ID] = s.Students().NoEvidence()
		missing[st.ID].Expect(fit.Prior)
	}
	if len(missing) == 0 {
		return out, nil
	}
	decided, err := tx.DecisionsOf(ctx, slices.Collect(maps.Keys(missing)))
	if err != nil {
		return nil, err
	}
	if err := s.Students().EvidenceOf(ctx, tx, missing); err != nil {
		return nil, err
	}
	for i, st := range list {
		if missing[st.ID] == nil {
			continue
		}
		j := s.Students().Judge(st.Student, missing[st.ID])
		j.Seen, j.Signs = decided[st.ID].Seen, decided[st.ID].Signs
		next, err := s.Students().NextFrom(j, facts[st.ID], air)
		if err != nil {
			return nil, err
		}
		out[i] = heldRow{Mini: draw.MiniLadder(j.Programme, j.Ladder()), Next: next.Says}
		if len(next.Blocks) > 0 {
			out[i].Next = s.Cat.CellWords(next.First())
		}
		s.rows.Add(keys[i], out[i])
	}
	return out, nil
}

// windAndLight says where the wind comes from, and the light.
func windAndLight(air knowledge.Air) string {
	if air.From == nil {
		return string(air.Light)
	}
	return fmt.Sprintf("%v %s", *air.From, air.Light)
}

func (s Pages) studentRow(st attended, held heldRow, zone *time.Location) studentRow {
	row := studentRow{Student: st.Student, Programme: s.Cat.Programmes[st.Programme].Title,
		Craft: s.Cat.Craft[st.CraftType].Title, Mini: held.Mini, Next: held.Next, Last: say.Say("never"),
		Need: st.needs.Words, Class: needKeys[st.needs.Need], Held: fmt.Sprintf("%d of %d", st.view.Held, st.view.Cells)}
	if !st.last.IsZero() {
		row.Last = st.last.In(zone).Format("Mon 2 Jan")
	}
	return row
}
