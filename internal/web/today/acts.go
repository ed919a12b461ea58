package today

import (
	"cmp"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/core/score"
	"maestrale/core/units"
	"maestrale/internal/fieldday"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// BeginFlight begins a flight with one tap; what the tap does not say is in the form.
func (s Pages) BeginFlight(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	f := store.Flight{Kind: c.PostForm("kind"), Drill: c.PostForm("drill"), Side: c.DefaultPostForm("side", "none"),
		Aids: c.PostForm("aids"), BegunAt: s.Now(), BegunBy: p.ID}
	if f.Kind == "" {
		f.Kind = plan.Lesson
	}
	ids := map[string]*uuid.UUID{}
	for _, name := range []string{"id", "student", "craft", "pack", "instructor", "spotter"} {
		id, err := frame.FormID(c, name)
		if err != nil {
			s.ToBoard(c, err)
			return
		}
		ids[name] = id
	}
	minutes, err := frame.NeedNumber(c, "minutes", 0.5, 240)
	box, berr := strconv.Atoi(c.DefaultPostForm("box", "1"))
	switch {
	case err != nil:
		s.ToBoard(c, refusal.Error(err.Error()+"."))
		return
	case berr != nil || box < 1 || box > 50 || ids["craft"] == nil || ids["pack"] == nil || f.Kind == plan.Lesson &&
		ids["student"] == nil:
		s.ToBoard(c, refusal.Error(msgFlightWantsBox))
		return
	}
	f.Minutes, f.Box, f.StudentID, f.CraftID, f.PackID, f.InstructorID, f.SpotterID = minutes, box, ids["student"],
		*ids["craft"], *ids["pack"], ids["instructor"], ids["spotter"]
	if f.Kind != plan.Lesson {
		f.StudentID = nil
	}
	if f.ID = store.NewID(); ids["id"] != nil {
		f.ID = *ids["id"]
	}
	if w := p.WindNow(s.Now()); w != nil && w.Fresh {
		f.WindMps, f.GustMps = p.WindMps, p.GustMps
	}
	s.ToBoard(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.Days().BoardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		if err := s.Days().MayFly(b, &f); err != nil {
			return err
		}
		if _, err = tx.Begin(ctx, f); err != nil {
			return err
		}
		if mood := c.PostForm("before"); slices.Contains(fieldday.Moods, mood) {
			_, err = tx.NoteFlight(ctx, store.NewID(), f.ID, p.ID, f.BegunAt, "before", mood)
		}
		return err
	}))
}

// NoteFlight notes what happened to a flight: its end, which counts the pack; an
// incident, which goes into the craft's log; how the student felt; that it is void.
func (s Pages) NoteFlight(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "flight")
	if err != nil {
		s.Failed(c, err)
		return
	}
	kind, body := c.PostForm("kind"), frame.CleanName(c.PostForm("says"))
	entry, err := frame.FormID(c, "id")
	switch {
	case err != nil:
	case !slices.Contains([]string{"end", "void", "incident", "before", "after"}, kind):
		err = refusal.Error(msgWhatNotedFlight)
	case (kind == "before" || kind == "after") && !slices.Contains(fieldday.Moods, body):
		err = refusal.Error(msgStudentCalmTense)
	case (kind == "incident" || kind == "void") && body == "":
		err = refusal.Error(msgSayWordWhat)
	}
	if err != nil {
		s.ToBoard(c, err)
		return
	}
	if entry == nil {
		fresh := store.NewID()
		entry = &fresh
	}
	s.ToBoard(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		f, err := tx.OneFlight(ctx, id)
		if err != nil {
			return err
		}
		fresh, err := tx.NoteFlight(ctx, *entry, id, p.ID, s.Now(), kind, body)
		if err != nil || !fresh {
			return err
		}
		switch kind {
		case "end":
			return tx.AddPackEvent(ctx, store.NewID(), f.PackID, p.ID, pack.Event{At: s.Now(), Kind: pack.Used,
				Minutes: s.Now().Sub(f.BegunAt).Minutes(), Says: msgCountedLanding})
		case "incident":
			crash := c.PostForm("crash") == "yes"
			return tx.AddCraftEvent(ctx, store.NewID(), f.CraftID, p.ID, craft.Event{At: s.Now(), Kind: craft.Incident,
				Cause: causeOf(body), Says: body, Crash: crash, Damage: crash})
		}
		return nil
	}))
}

func causeOf(says string) string {
	if slices.Contains(craft.Causes, says) {
		return says
	}
	return "other"
}

// CallHold holds everybody: what is being marked becomes void, and nothing begins until
// somebody says go on.
func (s Pages) CallHold(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	on := c.PostForm("on") == "yes"
	why := frame.CleanName(c.PostForm("why"))
	s.ToBoard(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.Days().BoardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		if !b.Is() {
			return refusal.Error(msgNoFieldDay)
		}
		if err := tx.CallHold(ctx, store.NewID(), b.Day.ID, p.ID, on, why); err != nil || !on {
			return err
		}
		return s.voidRunning(c, tx, b, why)
	}))
}

// voidRunning voids every attempt that is being marked in a flight that goes on.
func (s Pages) voidRunning(c *gin.Context, tx store.Tx, b *fieldday.Board, why string) error {
	ctx, p := c.Request.Context(), frame.Person(c)
	for i := range b.Flown {
		f := &b.Flown[i]
		if !f.InAir() {
			continue
		}
		open, err := tx.Running(ctx, f.ID)
		if err != nil {
			return err
		}
		for _, o := range open {
			t := max(0, s.Now().Sub(o.OpenedAt).Seconds())
			mark := score.Mark{ID: store.NewID().String(), TS: t, Mark: "void", Reason: cmp.Or(why, "everyone holds")}
			if err := tx.AddMarks(ctx, o.ID, p.ID, []score.Mark{mark}); err != nil {
				return err
			}
			if _, err := s.Attempts().EndIfOver(c.Request.Context(), tx, o, t); err != nil {
				return err
			}
		}
	}
	return nil
}

// PackAct puts a pack of the day on a charger, or says that it is full, or out.
func (s Pages) PackAct(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "pack")
	if err != nil {
		s.Failed(c, err)
		return
	}
	act := c.PostForm("do")
	e := pack.Event{At: s.Now()}
	switch act {
	case "plug":
		e.Kind, e.Says = pack.Plugged, frame.CleanName(c.PostForm("charger"))
	case "full":
		e.Kind = pack.Charged
	case "dead":
		s.changeDay(c, func(b *fieldday.Board, src *fieldday.Source) (string, error) {
			if !slices.Contains(src.Packs, id) || slices.Contains(src.Dead, id) {
				return "", refusal.Error(msgPackNotUse)
			}
			src.Dead = append(src.Dead, id)
			return fmt.Sprintf(msgTakenOut, b.Packs[id].Name), nil
		})
		return
	default:
		s.ToBoard(c, refusal.Error(msgPackPutCharger))
		return
	}
	s.ToBoard(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.Days().BoardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		if act == "plug" {
			if err := roomOn(b, id, e.Says); err != nil {
				return err
			}
		}
		if err := tx.AddPackEvent(ctx, store.NewID(), id, p.ID, e); err != nil {
			return err
		}
		return tx.Changed(ctx)
	}))
}

// roomOn refuses a charger that is not there, or whose slots are taken.
func roomOn(b *fieldday.Board, pack uuid.UUID, charger string) error {
	for _, k := range b.Source.Chargers {
		if k.ID != charger {
			continue
		}
		used := 0
		for id, row := range b.Packs {
			if row.OnCharger == charger && id != pack {
				used++
			}
		}
		if used >= k.Slots {
			return refusal.Error(fmt.Sprintf(msgEverySlotTaken, charger))
		}
		return nil
	}
	return refusal.Error(msgChargerNotField)
}

// ChangeToday changes who or what is there, and plans the rest of the day again.
func (s Pages) ChangeToday(c *gin.Context) {
	id, err := frame.FormID(c, "what")
	if err != nil {
		s.ToBoard(c, err)
		return
	}
	now := s.Now()
	late, lerr := frame.FormNumber(c, "minutes", 0, 600)
	wind, werr := frame.FormMeasure(c, "mps", units.Speed, 0, 60)
	if lerr != nil || werr != nil {
		s.ToBoard(c, refusal.Error(msgMinutesWindNumbers))
		return
	}
	s.changeDay(c, func(b *fieldday.Board, src *fieldday.Source) (string, error) {
		at := -1
		if id != nil {
			at = slices.IndexFunc(src.People, func(x fieldday.Person) bool { return x.Student == *id })
		}
		switch do := c.PostForm("do"); {
		case do == "plan":
			return "planned again", nil
		case do == "wind" && wind != nil:
			src.Wind = append(slices.DeleteFunc(src.Wind, func(w plan.Wind) bool { return !w.From.Before(now) }),
				plan.Wind{From: now, Mps: *wind, Said: true})
			return fmt.Sprintf(msgWindExpectedFrom, *wind), nil
		case do == "ground" && id != nil && slices.Contains(src.Craft, *id):
			src.Grounded = append(src.Grounded, *id)
			return b.Craft[*id].Name + " is grounded", nil
		case do == "release" && id != nil:
			src.Grounded = slices.DeleteFunc(src.Grounded, func(x uuid.UUID) bool { return x == *id })
			return b.Craft[*id].Name + " flies again", nil
		case do == "late" && at >= 0 && late != nil:
			from := now.Add(time.Duration(*late * float64(time.Minute)))
			src.People[at].From = &from
			return b.Students[*id].Name + " comes later", nil
		case do == "leaves" && at >= 0:
			src.People[at].Until = &now
			return b.Students[*id].Name + " leaves", nil
		}
		return "", refusal.Error(msgChangeNotKnown)
	})
}

// moved is a planned flight as a hand has moved it.
type moved struct {
	Index   int     `json:"index"`
	Key     string  `json:"key"`     // its student, so that a plan that has changed is noticed
	Minutes float64 `json:"minutes"` // later than it was
	Box     int     `json:"box"`
	Craft   string  `json:"craft"`
	Pack    string  `json:"pack"`
}

// MoveFlight moves a planned flight by hand: it says what that breaks, or keeps it.
func (s Pages) MoveFlight(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m, err := readMove(c)
	if err != nil {
		s.ToBoard(c, err)
		return
	}
	keep := c.Query("keep") != "" || c.PostForm("keep") != ""
	var broken []string
	var says string
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.Days().BoardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		list, _ := b.ToCome()
		if m.Index < 0 || m.Index >= len(list) || m.Key != "" && list[m.Index].Student != m.Key {
			return store.ErrElsewhere
		}
		d := s.Days().Asked(b)
		check := func() []plan.Broken {
			return plan.Check(d, append(slices.Clone(list), d.Flown...), b.ChargesToCome())
		}
		before := check() // a plan that is behind the day breaks rules as it is
		f := &list[m.Index]
		m.apply(f)
		for _, x := range check() {
			if !slices.ContainsFunc(before, func(y plan.Broken) bool { return y.Says == x.Says }) {
				broken = append(broken, b.Named(x.Says))
			}
		}
		says = fmt.Sprintf(msgAtInBox, b.Name(f.Student), f.Start.In(p.Zone()).Format("15:04"), f.Box)
		if !keep || len(broken) > 0 {
			return nil
		}
		_, cells := b.ToCome()
		next := fieldday.WithCells(b.Plan, list, cells)
		next.Flights = slices.Clone(list)
		slices.SortStableFunc(next.Flights, func(a, b plan.Flight) int { return a.Start.Compare(b.Start) })
		return tx.PlanDay(ctx, b.Day.ID, p.ID, b.Day.Seq, b.Now, fmt.Sprintf(msgMovedHand, says), b.Source, next)
	})
	switch {
	case err != nil:
		s.ToBoard(c, err)
	case keep && len(broken) > 0:
		s.Problem(c, http.StatusUnprocessableEntity, frame.Problem{What: "That breaks: " + strings.Join(broken, "; ") + ".",
			Kept: msgPlanStays, Do: msgMoveElsewhereOr})
	case keep:
		s.ToBoard(c, nil)
	case frame.WantsJSON(c):
		if broken == nil {
			broken = []string{}
		}
		s.JSON(c, http.StatusOK, gin.H{"says": says, "breaks": broken})
	default:
		s.Problem(c, http.StatusOK, frame.Problem{What: says + ". " + breaksWords(broken), Kept: msgPlanStays,
			Do: msgGoBackKeep})
	}
}

// readMove reads a move that a script or a form asks for.
func readMove(c *gin.Context) (m moved, err error) {
	if !frame.WantsJSON(c) {
		return movedForm(c)
	}
	if c.ShouldBindJSON(&m) != nil {
		return m, refusal.Error(msgMoveCouldNot)
	}
	return m, nil
}

// apply moves a flight.
func (m moved) apply(f *plan.Flight) {
	by := time.Duration(m.Minutes * float64(time.Minute)).Round(time.Second)
	f.Start, f.End = f.Start.Add(by), f.End.Add(by)
	if m.Box > 0 {
		f.Box = m.Box
	}
	f.Craft, f.Pack = cmp.Or(m.Craft, f.Craft), cmp.Or(m.Pack, f.Pack)
}

func breaksWords(broken []string) string {
	if len(broken) == 0 {
		return msgBreaksNothing
	}
	return "That breaks: " + strings.Join(broken, "; ") + "."
}

func movedForm(c *gin.Context) (moved, error) {
	m := moved{Key: c.PostForm("key"), Craft: c.PostForm("craft"), Pack: c.PostForm("pack")}
	index, err := strconv.Atoi(c.PostForm("index"))
	minutes, merr := frame.FormNumber(c, "minutes", -600, 600)
	box, berr := strconv.Atoi(c.DefaultPostForm("box", "0"))
	if err != nil || merr != nil || berr != nil {
		return m, refusal.Error(msgSayWhichFlight)
	}
	if m.Index, m.Box = index, box; minutes != nil {
		m.Minutes = *minutes
	}
	return m, nil
}
