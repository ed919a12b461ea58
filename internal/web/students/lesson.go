package students

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/plan"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/units"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// lessonModel is the lesson that is planned, and how the one before went.
type lessonModel struct {
	Student     store.Student
	Ask         lessonForm
	Blocks      []blockRow
	Toward      string
	TowardHref  string
	Says        string
	Minutes     string
	CanMark     bool
	Id          string
	Before      *lessonBefore
	Families    []readiness.Family
	Aids        []craft.Aids
	Never       []string
	MinutesEach float64
	TooFar      []string // left out: farther than the nose is told
	Dusk        bool     // the sun has set, or is about to rise
}

// lessonForm is what is asked, as the form has it.
type lessonForm struct {
	Packs   int     `json:"packs"`
	Minutes float64 `json:"minutes"`
	Aids    string  `json:"aids"`
	Wind    string  `json:"wind"`
	Tense   bool    `json:"tense"`
}

type blockRow struct {
	Index     int
	Pack      int
	NewPack   bool
	Title     string
	Aids      craft.Aids
	Minutes   string
	Enough    string
	Rest      string
	Why       string
	Fallback  string
	Mark      string
	Kept      bool
	Answer    bool
	Key, Side string
	Min       float64
}

// lessonBefore compares a lesson as it was planned with what was flown on its date.
type lessonBefore struct {
	When, By string
	Rows     []plan.Flown
	Others   []string
}

// LessonPage plans the next lesson; what the instructor has changed stands in the form.
func (s Pages) LessonPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var past []store.Lesson
	var list []store.Flown
	var facts map[uuid.UUID]store.NextFacts
	j, err := s.Theirs(c, func(tx store.Tx, id uuid.UUID) (err error) {
		if facts, err = s.Students().Facts(ctx, tx, id); err != nil {
			return err
		}
		if past, err = tx.Lessons(ctx, id, 5); err != nil {
			return err
		}
		list, err = tx.Latest(ctx, id, 60)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	loc := p.Zone()
	t := s.Cat.Craft[j.Student.CraftType]
	m := lessonModel{Student: j.Student, CanMark: p.Role == store.Chief || p.Role == store.Instructor,
		Dusk: p.LightAt(s.Now()) == orient.Dusk,
		Id:   store.NewID().String(), Aids: t.Aids}
	usual, practice, err := s.Students().Ask(j, facts[j.Student.ID], knowledge.AirNow(p, s.Now()))
	if err != nil {
		s.Failed(c, err)
		return
	}
	ask, form, err := s.lessonAsk(c, j, usual)
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgLessonCouldNot, err.Error()), msgPutRightPlan)
		return
	}
	m.Ask, m.Never = form, ask.Never
	l, err := plan.PlanLesson(ask, j.Known, practice)
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgLessonCouldNot, frame.FirstLine(err)), msgPutRightPlan)
		return
	}
	s.showLesson(&m, l, j)
	for _, x := range past {
		// The newest one that has been flown: on its date something was.
		if b := s.flownLesson(x, list, loc); b != nil {
			m.Before = b
			break
		}
	}
	if c.Request.Method == http.MethodPost && c.PostForm("do") == "keep" {
		s.keepLesson(c, j, form, l)
		return
	}
	s.Render(c, http.StatusOK, "lesson", frame.Page{Title: "Lesson of " + j.Student.Name, Place: "Students", Body: m})
}

func (s Pages) showLesson(m *lessonModel, l plan.LessonPlan, j *knowledge.Student) {
	m.Says, m.Toward = l.Says, l.Toward
	for _, k := range l.TooFar {
		m.TooFar = append(m.TooFar, s.Cat.Drills[k].Title)
	}
	if g, ok := s.Cat.Gates[l.Toward]; ok {
		m.Toward, m.TowardHref = g.Title, "/students/"+j.Student.ID.String()+"/gates/"+g.Key
	} else if pr, ok := s.Cat.Programmes[l.Toward]; ok {
		m.Toward = "the ladder: " + pr.Title
	}
	total, pack := 0.0, 0
	for i, b := range l.Blocks {
		row := blockRow{Index: i, Pack: b.Pack, NewPack: b.Pack != pack, Title: s.Cat.TitleOf(b.Cell.Drill, b.Cell.Side),
			Aids: b.Cell.Aids, Minutes: fmt.Sprintf("%.0f min", b.Minutes), Why: b.Why, Kept: b.Kept, Answer: b.Answer,
			Key: b.Cell.Drill, Side: string(b.Cell.Side), Min: b.Minutes, Mark: s.cellRow(j.Student.ID,
				readiness.Cell{Cell: b.Cell}).Mark}
		if pack = b.Pack; b.Rest > 0 {
			row.Rest = fmt.Sprintf(msgMinRestFirst, b.Rest)
		}
		if b.Passes > 0 {
			row.Enough = words.Counted(b.Passes, "pass")
			if b.Passes > 1 {
				row.Enough = fmt.Sprintf("%d passes", b.Passes)
			}
		}
		row.Fallback = msgLandTalkThrough
		if b.Fallback != "" {
			row.Fallback = s.Cat.TitleOf(b.Fallback, field.NoSide)
		}
		total += b.Minutes
		m.Blocks = append(m.Blocks, row)
	}
	m.Minutes = fmt.Sprintf(msgMinAir, total)
	m.Families = readiness.ByFamily(j.Drills(true))
}

// lessonAsk reads what the lesson has: from the form, or from what every screen takes for usual.
func (s Pages) lessonAsk(c *gin.Context, j *knowledge.Student, usual plan.LessonAsk) (ask plan.LessonAsk,
	form lessonForm,
	err error) {
	ask = plan.Usual(j.Known, usual)
	get := func(name, or string) string {
		if v, ok := c.GetPostForm(name); ok {
			return strings.TrimSpace(v)
		}
		return or
	}
	wind, tense := "", ""
	if usual.WindMps >= 0 {
		wind = fmt.Sprintf("%.1f", usual.WindMps)
	}
	if usual.Tense && c.Request.Method == http.MethodGet {
		tense = "yes"
	}
	form = lessonForm{Aids: get("aids", string(ask.Aids)), Wind: frame.InSI(c, "wind", units.Speed, wind),
		Tense: get("tense", tense) == "yes"}
	if form.Packs, err = strconv.Atoi(get("packs", fmt.Sprint(ask.Packs))); err != nil {
		return ask, form, fmt.Errorf("the packs are %.20q; expected a number", get("packs", ""))
	}
	if form.Minutes, err = strconv.ParseFloat(strings.Replace(get("minutes", fmt.Sprint(ask.PackMinutes)), ",", ".", 1),
		64); err != nil {
		return ask, form, fmt.Errorf("the minutes of a pack are %.20q; expected a number", get("minutes", ""))
	}
	ask.Aids, ask.Packs, ask.PackMinutes, ask.Tense = craft.Aids(form.Aids), form.Packs, form.Minutes, form.Tense
	if c.Request.Method == http.MethodGet {
		return ask, form, nil // as the other screens say it
	}
	if ask.WindMps = -1; form.Wind != "" {
		if ask.WindMps, err = strconv.ParseFloat(strings.Replace(form.Wind, ",", ".", 1), 64); err != nil || ask.WindMps < 0 {
			return ask, form, fmt.Errorf("the wind is %.20q; expected metres a second", form.Wind)
		}
	}
	for _, k := range c.PostFormArray("never") {
		if _, known := s.Cat.Drills[k]; known && !slices.Contains(ask.Never, k) {
			ask.Never = append(ask.Never, k)
		}
	}
	for _, text := range c.PostFormArray("keep") {
		if b, ok := s.keptBlock(text, ask); ok {
			ask.Keep = append(ask.Keep, b)
		}
	}
	if add := c.PostForm("add"); add != "" {
		d, known := s.Cat.Drills[add]
		pack, perr := strconv.Atoi(get("add_pack", "1"))
		if !known || perr != nil || pack < 1 || pack > form.Packs {
			return ask, form, fmt.Errorf("the block to add has a drill of the list, and a pack from 1 to %d", form.Packs)
		}
		for _, side := range d.Sides() {
			ask.Keep = append(ask.Keep, plan.Block{Pack: pack, Cell: drill.Cell{Drill: add, Side: side, Aids: ask.Aids,
				Level: 1}, Minutes: 3})
		}
	}
	return ask, form, nil
}

// keptBlock reads "PACK DRILL SIDE AIDS MINUTES".
func (s Pages) keptBlock(text string, ask plan.LessonAsk) (plan.Block, bool) {
	f := strings.Fields(text)
	if len(f) != 5 {
		return plan.Block{}, false
	}
	pack, err1 := strconv.Atoi(f[0])
	minutes, err2 := strconv.ParseFloat(f[4], 64)
	d, known := s.Cat.Drills[f[1]]
	aids, side := craft.Aids(f[3]), field.Side(f[2])
	if err1 != nil || err2 != nil || !known || !slices.Contains(d.Sides(), side) || aids.Rank() < 0 || pack < 1 ||
		pack > ask.Packs || !(minutes > 0 && minutes <= 60) {
		return plan.Block{}, false
	}
	return plan.Block{Pack: pack, Cell: drill.Cell{Drill: f[1], Side: side, Aids: aids, Level: 1}, Minutes: minutes}, true
}

// keepLesson keeps the lesson as it was planned, to be compared with what is flown.
func (s Pages) keepLesson(c *gin.Context, j *knowledge.Student, form lessonForm, l plan.LessonPlan) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := uuid.Parse(c.PostForm("id"))
	if err != nil {
		id = store.NewID()
	}
	ask, err := json.Marshal(form)
	var body []byte
	if err == nil {
		body, err = json.Marshal(l.Document())
	}
	if err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			return tx.AddLesson(ctx, j.Student.ID, p.ID, store.Lesson{ID: id, At: s.Now(), Ask: ask, Plan: body})
		})
	}
	s.BackTo(c, "/students/"+j.Student.ID.String()+"/lesson", err)
}

// flownLesson compares a lesson with what was flown on its date; nil where nothing was.
func (s Pages) flownLesson(x store.Lesson, list []store.Flown, loc *time.Location) *lessonBefore {
	var doc plan.LessonDocument
	if json.Unmarshal(x.Plan, &doc) != nil {
		return nil
	}
	var flown []record.Attempt
	for _, f := range list {
		if f.Source != "sim" && f.At.In(loc).Format(time.DateOnly) == x.At.In(loc).Format(time.DateOnly) &&
			!f.At.Before(x.At) {
			flown = append(flown, f.Attempt)
		}
	}
	if len(flown) == 0 {
		return nil
	}
	b := &lessonBefore{When: x.At.In(loc).Format("Monday 2 January"), By: x.By}
	rows, others := plan.Compare(doc, flown)
	for i := range rows {
		rows[i].Title = s.Cat.TitleOf(rows[i].Drill, rows[i].Side)
	}
	b.Rows = rows
	for _, o := range others {
		b.Others = append(b.Others, s.Cat.TitleOf(o.Drill, o.Side))
	}
	b.Others = slices.Compact(b.Others)
	return b
}
