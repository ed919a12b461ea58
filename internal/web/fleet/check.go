package fleet

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/misread"
	"maestrale/core/pack"
	"maestrale/core/preflight"
	"maestrale/core/units"
	"maestrale/internal/fieldday"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

type checkModel struct {
	ID        string
	Craft     store.Craft
	Sub       string
	Stages    []stageRow
	Result    preflight.Result
	May       bool // override
	Said      string
	ClearedAt string
	ClearedBy string
	Next      string // item that is asked next
	Asked     int
	Of        int
	Aids      craft.Aids
	Retreat   string
	Proving   bool
	Student   *uuid.UUID
	Cautions  []string
}

type stageRow struct {
	Stage preflight.Stage
	Words string
	Lines []lineRow
	Left  int
}

type lineRow struct {
	preflight.Line
	Check string
	Feet  string
	Next  bool // the one to answer now
	May   bool
	When  string
	Fix   string // address where it is put right
	Offer string
}

// BeginCheck begins a check of a craft.
func (s Pages) BeginCheck(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "craft")
	if err != nil {
		s.Failed(c, err)
		return
	}
	minutes, err := frame.NeedNumber(c, "minutes", 1, 120)
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgCheckNotBegun, err.Error()), msgGiveMinutesFlown)
		return
	}
	k := store.Check{ID: store.NewID(), CraftID: id, Minutes: minutes, Goggles: c.PostForm("goggles") == "yes",
		Proving: c.PostForm("proving") == "yes", BegunBy: p.ID, BegunAt: s.Now()}
	optional := func(name string) *uuid.UUID {
		if v, err := uuid.Parse(c.PostForm(name)); err == nil {
			return &v
		}
		return nil
	}
	k.PackID, k.StudentID = optional("pack"), optional("student")
	var wrong error
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		one, err := tx.OneCraft(ctx, id)
		if err != nil {
			return err
		}
		t := s.Cat.Craft[one.Type]
		logs, err := tx.CraftLogs(ctx, &id)
		if err != nil {
			return err
		}
		aids := craft.Aids(c.PostForm("aids"))
		if !slices.Contains(aidsOf(t, craft.StateOf(logs[id])), aids) {
			wrong = misread.At(0, "one that it has", "%s does not fly with %q", one.Name, string(aids))
			return wrong
		}
		k.Aids = string(aids)
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		if _, k.Site, _, err = s.Days().SiteToday(c.Request.Context(), tx, set); err != nil {
			return err
		}
		k.CourseID = set.CourseID
		if k.StudentID != nil {
			days, _, err := tx.PilotFlown(ctx, *k.StudentID, string(t.Class()), p.TimeZone)
			if err != nil {
				return err
			}
			k.First = days < fieldday.FirstDays
		}
		return tx.BeginCheck(ctx, k)
	})
	if wrong != nil {
		s.WrongInput(c, fmt.Sprintf(msgCheckNotBegun, wrong.Error()), msgChooseAidsFrom)
		return
	}
	s.Done(c, err, "/checks/"+k.ID.String())
}

// opened is a check with everything that it is judged by.
type opened struct {
	check   store.Check
	craft   store.Craft
	student string
	entries store.Entries
	last    preflight.Last
	at      preflight.Situation
}

// openCheck reads a check and what it is judged by.
func (s Pages) openCheck(c *gin.Context, tx store.Tx, k store.Check) (o opened, err error) {
	ctx, p := c.Request.Context(), frame.Person(c)
	o.check = k
	if o.craft, err = tx.OneCraft(ctx, k.CraftID); err != nil {
		return o, err
	}
	logs, err := tx.CraftLogs(ctx, &k.CraftID)
	if err != nil {
		return o, err
	}
	t := s.Cat.Craft[o.craft.Type]
	o.at = preflight.Situation{Now: s.Now(), Zone: p.Zone(), Type: t, Craft: craft.StateOf(logs[k.CraftID]),
		CraftName: o.craft.Name, First: k.First, Goggles: k.Goggles, Proving: k.Proving,
		Wind: p.WindNow(s.Now()), Site: k.Site, Minutes: k.Minutes, Aids: craft.Aids(k.Aids)}
	set, err := tx.Settings(ctx)
	if err != nil {
		return o, err
	}
	o.at.Policy = frame.SchoolPolicy(set)
	set.CourseID = k.CourseID
	var laid *course.Course
	if o.at.Where, _, laid, err = s.Days().SiteToday(c.Request.Context(), tx, set); err != nil {
		return o, err
	}
	if err = s.ground(&o.at, laid, p); err != nil {
		return o, err
	}
	if err = s.packAndPilot(ctx, tx, &o, k, p); err != nil {
		return o, err
	}
	if o.entries, err = tx.Entries(ctx, k.ID); err != nil {
		return o, err
	}
	before, err := tx.LastCleared(ctx, k.CraftID, k.ID)
	if errors.Is(err, store.ErrNotFound) {
		return o, nil
	}
	if err != nil {
		return o, err
	}
	last, err := tx.Entries(ctx, before)
	o.last = preflight.Last{Answers: last.Answers, Facts: last.Facts}
	o.at.Noted(o.last)
	return o, err
}

// ground fills in what the site and the course say: the air, the sun, and what is on the course; laid is nil for none.
func (s Pages) ground(at *preflight.Situation, laid *course.Course, p *store.Person) (err error) {
	alt := 0.0
	if at.Where != nil {
		alt = at.Where.AltM
	}
	if at.Density, err = pack.StandardDensity(alt, nil); err != nil {
		return err
	}
	if laid != nil && laid.Plane != nil {
		if sun, err := course.SunAt(s.Now(), laid.Plane.Origin()); err == nil {
			deg := sun.Elevation.Deg()
			at.SunDeg = &deg
		}
	}
	if laid != nil {
		at.Indoors = laid.Surface == "indoors"
		if err := s.courseFor(at, laid, p); err != nil {
			return err
		}
	}
	return nil
}

// packAndPilot fills in the pack that is flown, and the wind that the pilot has flown in.
func (s Pages) packAndPilot(ctx context.Context, tx store.Tx, o *opened, k store.Check, p *store.Person) error {
	t := o.at.Type
	if k.PackID != nil {
		one, err := tx.OnePack(ctx, *k.PackID)
		if err != nil {
			return err
		}
		log, err := tx.PackLogs(ctx, k.PackID)
		if err != nil {
			return err
		}
		o.at.Pack = &one.Record
		o.at.PackState = pack.StateOf(one.Record, log[one.ID], s.Now())
	}
	if k.StudentID != nil {
		st, err := tx.Student(ctx, *k.StudentID)
		if err != nil {
			return err
		}
		_, best, err := tx.PilotFlown(ctx, *k.StudentID, string(t.Class()), p.TimeZone)
		if err != nil {
			return err
		}
		o.student, o.at.Learner = st.Name, st.Name
		o.at.PilotMps = preflight.PilotWind(t.WindMps, best, k.First)
	}
	return nil
}

// courseFor puts what the course of the day asks for into a check.
func (s Pages) courseFor(at *preflight.Situation, laid *course.Course, p *store.Person) error {
	ask := s.Days().Ask(laid, at.Type, at.Aids, p, at.Density)
	survey, err := laid.SurveyOf(ask)
	if err != nil {
		return err
	}
	at.ReturnM, at.Tallest = survey.Return.HeightM, survey.Return.Tallest
	at.DrillM = course.Reach(ask.Envelopes, survey.HomeAt)
	at.PeopleM = laid.PeopleFrom(survey.HomeAt)
	return nil
}

func (s Pages) CheckPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var o opened
	_, ok := s.About(c, "check", func(tx store.Tx, id uuid.UUID) (err error) {
		k, err := tx.Check(ctx, id)
		if err != nil {
			return err
		}
		o, err = s.openCheck(c, tx, k)
		return err
	})
	if !ok {
		return
	}
	m := s.checkModel(o, p, "")
	s.Render(c, http.StatusOK, "check", frame.Page{Title: "Check " + o.craft.Name, Place: "Fleet", Body: m,
		Keys: []frame.Key{{Key: "Tab Enter", Does: msgFromAnswerAnswer}}})
}

// fixes are where a failed item is put right, below the craft's page.
var fixes = map[string]string{"compass": "#compass", "proven": "#proving", "firmware": "#firmware",
	"propellers": "#propellers", "craft-fit": "#log", "inertial": "#inertial"}

func (s Pages) checkModel(o opened, p *store.Person, said string) checkModel {
	r := preflight.Shipped().Judge(o.at, o.entries.Check, o.last)
	m := checkModel{ID: o.check.ID.String(), Craft: o.craft, Result: r, Said: said, May: p.Role == store.Chief ||
		p.Role == store.Instructor, Aids: o.at.Aids, Retreat: o.at.Aids.Retreat(), Proving: o.check.Proving,
		Student: o.check.StudentID, Cautions: preflight.Cautions(o.at)}
	parts := []string{o.at.Aids.Words()}
	if o.student != "" {
		parts = append(parts, o.student)
	}
	if o.at.Pack != nil {
		parts = append(parts, "pack "+o.at.Pack.Name)
	}
	parts = append(parts, fmt.Sprintf("%.0f min", o.check.Minutes))
	if o.check.Site != "" {
		parts = append(parts, o.check.Site)
	}
	if o.check.First {
		parts = append(parts, msgAmongFirstFlights)
	}
	if o.check.Goggles {
		parts = append(parts, "on goggles")
	}
	if o.check.Proving {
		parts = append(parts, "proving flight")
	}
	m.Sub = strings.Join(parts, " · ")
	if o.entries.ClearedAt != nil {
		m.ClearedAt, m.ClearedBy = o.entries.ClearedAt.In(o.at.Zone).Format("15:04:05"), o.entries.ClearedBy
	}
	next := ""
	for _, l := range r.Lines {
		m.Of++
		if l.State != preflight.Open && l.State != preflight.Waiting {
			m.Asked++
		}
		if next == "" && l.State == preflight.Open && (l.Stage != preflight.AirStage || m.ClearedAt != "") {
			next = l.Key
		}
		if len(m.Stages) == 0 || m.Stages[len(m.Stages)-1].Stage != l.Stage {
			m.Stages = append(m.Stages, stageRow{Stage: l.Stage, Words: l.Stage.Words()})
		}
		st := &m.Stages[len(m.Stages)-1]
		row := lineRow{Line: l, Check: m.ID, Next: l.Key == next, May: m.May, Offer: l.Offer}
		if !l.At.IsZero() {
			row.When = l.At.In(o.at.Zone).Format("15:04")
		}
		if f, ok := fixes[l.Key]; ok && l.State == preflight.Failed {
			row.Fix = "/fleet/craft/" + o.craft.ID.String() + f
		}
		if l.State == preflight.Open || l.State == preflight.Waiting {
			st.Left++
		}
		st.Lines = append(st.Lines, row)
	}
	m.Next = next
	return m
}

// NoteCheck keeps an answer, an override, or that the craft is clear, and shows
// the check as it then stands.
func (s Pages) NoteCheck(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "check")
	if err != nil {
		s.Failed(c, err)
		return
	}
	var o opened
	var wrong error
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		k, err := tx.LockCheck(ctx, id)
		if err != nil {
			return err
		}
		if o, err = s.openCheck(c, tx, k); err != nil {
			return err
		}
		kind, value, body, noteErr := s.entryOf(c, o)
		if noteErr != nil {
			wrong = noteErr
			return nil
		}
		if err := tx.Note(ctx, id, p.ID, o.entries.Seq, s.Now(), kind, c.PostForm("item"), value, body); err != nil {
			return err
		}
		o.entries, err = tx.Entries(ctx, id)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	said := ""
	if wrong != nil {
		said = frame.FirstLine(wrong)
	}
	if c.GetHeader("HX-Request") == "" {
		if wrong != nil {
			s.WrongInput(c, fmt.Sprintf(msgNotNoted, said), msgGoBackCheck)
			return
		}
		c.Redirect(http.StatusSeeOther, "/checks/"+id.String())
		return
	}
	s.Render(c, http.StatusOK, "check", frame.Page{Body: s.checkModel(o, p, said)})
}

// entryOf reads what is to be noted, and refuses what cannot be.
func (s Pages) entryOf(c *gin.Context, o opened) (kind, value string, body any, err error) {
	t, p := preflight.Shipped(), frame.Person(c)
	item := c.PostForm("item")
	after := s.Now()
	switch kind = c.PostForm("kind"); kind {
	case "answer":
		value = frame.CleanName(c.PostForm("value"))
		if it, ok := t.Item(item); ok && strings.HasPrefix(it.Unit, "m") && it.Ask == preflight.AskNumber {
			value = frame.InSI(c, "value", units.Length, value)
		}
		if offer := c.PostForm("offer"); offer != "" { // as last time
			value = frame.CleanName(offer)
		}
		if it, ok := t.Item(item); ok && o.entries.ClearedAt != nil && it.Stage != preflight.AirStage {
			return "", "", nil, misread.At(0, "a new check", "the craft was cleared at %s and the check is closed",
				o.entries.ClearedAt.In(o.at.Zone).Format("15:04"))
		}
		return kind, value, nil, t.CheckAnswer(o.at, o.entries.Check, preflight.Answer{Item: item, Value: value, At: after})
	case "override":
		if p.Role != store.Chief && p.Role != store.Instructor {
			return "", "", nil, misread.At(0, "an instructor", "a %s does not override a check", p.Role)
		}
		value = frame.CleanName(c.PostForm("reason"))
		return kind, value, nil, t.CheckOverride(o.at, o.entries.Check, preflight.Override{Item: item, Reason: value,
			At: after})
	case "cleared":
		r := t.Judge(o.at, o.entries.Check, o.last)
		if !r.Clear {
			return "", "", nil, misread.At(0, "every item answered and none failed",
				"%s is not clear to fly: %s to answer, %d failed", o.craft.Name, words.Counted(r.Open, "item"), len(r.Blocking))
		}
		if o.entries.ClearedAt != nil {
			return "", "", nil, misread.At(0, "a new check for the next flight", "the craft was cleared already")
		}
		kept := store.Cleared{Facts: o.at.Facts(o.entries.Check)}
		for _, l := range r.Lines {
			line := store.ClearedLine{Item: l.Key, State: string(l.State), Value: l.Value, Says: l.Says, By: l.By}
			if l.Override != nil {
				line.Reason, line.By = l.Override.Reason, l.Override.By
			}
			kept.Lines = append(kept.Lines, line)
		}
		return kind, "", kept, nil
	}
	return "", "", nil, misread.At(0, "answer, override or cleared", "the entry %q", kind)
}
