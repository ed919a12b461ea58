package web

import (
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
	"maestrale/internal/store"
)

// formID reads an id of a form; nil where the field is empty.
func formID(c *gin.Context, name string) (*uuid.UUID, error) {
	t := strings.TrimSpace(c.PostForm(name))
	if t == "" {
		return nil, nil //nolint:nilnil // nothing was said
	}
	id, err := uuid.Parse(t)
	if err != nil {
		return nil, inputError(fmt.Sprintf("The %s is not known.", strings.ReplaceAll(name, "_", " ")))
	}
	return &id, nil
}

// beginFlight begins a flight with one tap; what the tap does not say is in the form.
func (s *Server) beginFlight(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	f := store.Flight{Kind: c.PostForm("kind"), Drill: c.PostForm("drill"), Side: c.DefaultPostForm("side", "none"), Aids: c.PostForm("aids"), BegunAt: s.now(), BegunBy: p.ID}
	if f.Kind == "" {
		f.Kind = plan.Lesson
	}
	ids := map[string]*uuid.UUID{}
	for _, name := range []string{"id", "student", "craft", "pack", "instructor", "spotter"} {
		id, err := formID(c, name)
		if err != nil {
			s.toBoard(c, err)
			return
		}
		ids[name] = id
	}
	minutes, err := needNumber(c, "minutes", 0.5, 240)
	box, berr := strconv.Atoi(c.DefaultPostForm("box", "1"))
	switch {
	case err != nil:
		s.toBoard(c, inputError(err.Error()+"."))
		return
	case berr != nil || box < 1 || box > 50 || ids["craft"] == nil || ids["pack"] == nil || f.Kind == plan.Lesson && ids["student"] == nil:
		s.toBoard(c, inputError("A flight wants a box, a craft, a pack, and for a lesson a student."))
		return
	}
	f.Minutes, f.Box, f.StudentID, f.CraftID, f.PackID, f.InstructorID, f.SpotterID = minutes, box, ids["student"], *ids["craft"], *ids["pack"], ids["instructor"], ids["spotter"]
	if f.Kind != plan.Lesson {
		f.StudentID = nil
	}
	if f.ID = store.NewID(); ids["id"] != nil {
		f.ID = *ids["id"]
	}
	if w := s.windNow(p); w != nil && w.Fresh {
		f.WindMps, f.GustMps = p.WindMps, p.GustMps
	}
	s.toBoard(c, s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.boardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		if err := s.mayFly(b, &f); err != nil {
			return err
		}
		if _, err = tx.Begin(ctx, f); err != nil {
			return err
		}
		if mood := c.PostForm("before"); slices.Contains(moods, mood) {
			_, err = tx.NoteFlight(ctx, store.NewID(), f.ID, p.ID, f.BegunAt, "before", mood)
		}
		return err
	}))
}

// mayFly refuses a flight whose craft or pack is out, or that does not belong together,
// and every flight while everybody holds.
func (s *Server) mayFly(b *board, f *store.Flight) error {
	k, ok := b.craft[f.CraftID]
	row, has := b.packs[f.PackID]
	switch {
	case !ok || !has:
		return inputError("That craft or pack is not the school's.")
	case row.Type != k.Type:
		return inputError(fmt.Sprintf("%s does not fit %s.", row.Name, k.Name))
	case row.Fitness == pack.Retire:
		return inputError(fmt.Sprintf("%s is not to be flown: %s.", row.Name, row.Says))
	case slices.Contains(b.source.Grounded, f.CraftID):
		return inputError(k.Name + " is grounded today.")
	case b.hold.On:
		return inputError("Everyone holds: " + firstText(b.hold.Why, "no flight begins until somebody says go on") + ".")
	}
	if t := s.cat.Craft[k.Type]; !t.Has(craft.Aids(f.Aids)) {
		f.Aids = string(t.Aids[0])
	}
	if b.is() {
		f.DayID = &b.day.ID
	}
	return nil
}

// noteFlight notes what happened to a flight: its end, which counts the pack; an
// incident, which goes into the craft's log; how the student felt; that it is void.
func (s *Server) noteFlight(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	id, err := param(c, "flight")
	if err != nil {
		s.failed(c, err)
		return
	}
	kind, body := c.PostForm("kind"), cleanName(c.PostForm("says"))
	entry, err := formID(c, "id")
	switch {
	case err != nil:
	case !slices.Contains([]string{"end", "void", "incident", "before", "after"}, kind):
		err = inputError("What is noted of a flight is its end, an incident, how the student feels, or that it is void.")
	case (kind == "before" || kind == "after") && !slices.Contains(moods, body):
		err = inputError("A student is calm, tense or shaken.")
	case (kind == "incident" || kind == "void") && body == "":
		err = inputError("Say in a word what it was.")
	}
	if err != nil {
		s.toBoard(c, err)
		return
	}
	if entry == nil {
		fresh := store.NewID()
		entry = &fresh
	}
	s.toBoard(c, s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		f, err := tx.OneFlight(ctx, id)
		if err != nil {
			return err
		}
		fresh, err := tx.NoteFlight(ctx, *entry, id, p.ID, s.now(), kind, body)
		if err != nil || !fresh {
			return err
		}
		switch kind {
		case "end":
			return tx.AddPackEvent(ctx, store.NewID(), f.PackID, p.ID, pack.Event{At: s.now(), Kind: pack.Used, Minutes: s.now().Sub(f.BegunAt).Minutes(), Says: "counted by the landing"})
		case "incident":
			crash := c.PostForm("crash") == "yes"
			return tx.AddCraftEvent(ctx, store.NewID(), f.CraftID, p.ID, craft.Event{At: s.now(), Kind: craft.Incident, Cause: causeOf(body), Says: body, Crash: crash, Damage: crash})
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

// callHold holds everybody: what is being marked becomes void, and nothing begins until
// somebody says go on.
func (s *Server) callHold(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	on := c.PostForm("on") == "yes"
	why := cleanName(c.PostForm("why"))
	s.toBoard(c, s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.boardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		if !b.is() {
			return inputError("There is no field day to hold.")
		}
		if err := tx.CallHold(ctx, store.NewID(), b.day.ID, p.ID, on, why); err != nil || !on {
			return err
		}
		return s.voidRunning(c, tx, b, why)
	}))
}

// voidRunning voids every attempt that is being marked in a flight that goes on.
func (s *Server) voidRunning(c *gin.Context, tx store.Tx, b *board, why string) error {
	ctx, p := c.Request.Context(), person(c)
	for i := range b.flown {
		f := &b.flown[i]
		if !f.InAir() {
			continue
		}
		open, err := tx.Running(ctx, f.ID)
		if err != nil {
			return err
		}
		for _, o := range open {
			t := max(0, s.now().Sub(o.OpenedAt).Seconds())
			mark := score.Mark{ID: store.NewID().String(), TS: t, Mark: "void", Reason: firstText(why, "everyone holds")}
			if err := tx.AddMarks(ctx, o.ID, p.ID, []score.Mark{mark}); err != nil {
				return err
			}
			if _, err := s.endIfOver(c, tx, o, t); err != nil {
				return err
			}
		}
	}
	return nil
}

// packAct puts a pack of the day on a charger, or says that it is full, or out.
func (s *Server) packAct(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	id, err := param(c, "pack")
	if err != nil {
		s.failed(c, err)
		return
	}
	act := c.PostForm("do")
	e := pack.Event{At: s.now()}
	switch act {
	case "plug":
		e.Kind, e.Says = pack.Plugged, cleanName(c.PostForm("charger"))
	case "full":
		e.Kind = pack.Charged
	case "dead":
		s.changeDay(c, func(src *daySource) (string, error) {
			if !slices.Contains(src.Packs, id) || slices.Contains(src.Dead, id) {
				return "", inputError("That pack is not in use today.")
			}
			src.Dead = append(src.Dead, id)
			return "a pack is out", nil
		})
		return
	default:
		s.toBoard(c, inputError("A pack is put on a charger, is full, or is out."))
		return
	}
	s.toBoard(c, s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.boardOf(ctx, tx, p)
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
func roomOn(b *board, pack uuid.UUID, charger string) error {
	for _, k := range b.source.Chargers {
		if k.ID != charger {
			continue
		}
		used := 0
		for id, row := range b.packs {
			if row.OnCharger == charger && id != pack {
				used++
			}
		}
		if used >= k.Slots {
			return inputError(fmt.Sprintf("Every slot of %s is taken.", charger))
		}
		return nil
	}
	return inputError("That charger is not at the field.")
}

// changeToday changes who or what is there, and plans the rest of the day again.
func (s *Server) changeToday(c *gin.Context) {
	id, err := formID(c, "what")
	if err != nil {
		s.toBoard(c, err)
		return
	}
	now := s.now()
	late, lerr := formNumber(c, "minutes", 0, 600)
	wind, werr := formNumber(c, "mps", 0, 60)
	if lerr != nil || werr != nil {
		s.toBoard(c, inputError("Minutes and wind are numbers."))
		return
	}
	s.changeDay(c, func(src *daySource) (string, error) {
		at := -1
		if id != nil {
			at = slices.IndexFunc(src.People, func(x dayPerson) bool { return x.Student == *id })
		}
		switch do := c.PostForm("do"); {
		case do == "plan":
			return "planned again", nil
		case do == "wind" && wind != nil:
			src.Wind = append(slices.DeleteFunc(src.Wind, func(w plan.Wind) bool { return !w.From.Before(now) }), plan.Wind{From: now, Mps: *wind})
			return fmt.Sprintf("wind expected at %.0f m/s from now on", *wind), nil
		case do == "ground" && id != nil && slices.Contains(src.Craft, *id):
			src.Grounded = append(src.Grounded, *id)
			return "a craft is grounded", nil
		case do == "release" && id != nil:
			src.Grounded = slices.DeleteFunc(src.Grounded, func(x uuid.UUID) bool { return x == *id })
			return "a craft flies again", nil
		case do == "late" && at >= 0 && late != nil:
			from := now.Add(time.Duration(*late * float64(time.Minute)))
			src.People[at].From = &from
			return "a student comes later", nil
		case do == "leaves" && at >= 0:
			src.People[at].Until = &now
			return "a student leaves", nil
		}
		return "", inputError("That change is not known.")
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

// moveFlight moves a planned flight by hand: it says what that breaks, or keeps it.
func (s *Server) moveFlight(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var m moved
	if wantsJSON(c) {
		if err := c.ShouldBindJSON(&m); err != nil {
			s.toBoard(c, inputError("The move could not be read."))
			return
		}
	} else {
		var err error
		if m, err = movedForm(c); err != nil {
			s.toBoard(c, err)
			return
		}
	}
	keep := c.Query("keep") != "" || c.PostForm("keep") != ""
	var broken []string
	var says string
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.boardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		list, _ := b.toCome()
		if m.Index < 0 || m.Index >= len(list) || m.Key != "" && list[m.Index].Student != m.Key {
			return store.ErrElsewhere
		}
		d := s.asked(b)
		check := func() []plan.Broken {
			return plan.Check(d, append(slices.Clone(list), d.Flown...), b.chargesToCome())
		}
		before := check() // a plan that is behind the day breaks rules as it is
		f := &list[m.Index]
		by := time.Duration(m.Minutes * float64(time.Minute)).Round(time.Second)
		f.Start, f.End = f.Start.Add(by), f.End.Add(by)
		if m.Box > 0 {
			f.Box = m.Box
		}
		f.Craft, f.Pack = firstText(m.Craft, f.Craft), firstText(m.Pack, f.Pack)
		for _, x := range check() {
			if !slices.ContainsFunc(before, func(y plan.Broken) bool { return y.Says == x.Says }) {
				broken = append(broken, b.named(x.Says))
			}
		}
		says = fmt.Sprintf("%s at %s in box %d", b.name(f.Student), f.Start.In(zone(p)).Format("15:04"), f.Box)
		if !keep || len(broken) > 0 {
			return nil
		}
		_, cells := b.toCome()
		next := withCells(b.plan, list, cells)
		next.Flights = slices.Clone(list)
		slices.SortStableFunc(next.Flights, func(a, b plan.Flight) int { return a.Start.Compare(b.Start) })
		return tx.PlanDay(ctx, b.day.ID, p.ID, b.day.Seq, b.now, "moved by hand: "+says, b.source, next)
	})
	switch {
	case err != nil:
		s.toBoard(c, err)
	case keep && len(broken) > 0:
		s.problem(c, http.StatusUnprocessableEntity, problem{What: "That breaks: " + strings.Join(broken, "; ") + ".", Kept: "The plan stays as it was.", Do: "Move it elsewhere, or change who and what is there and plan again."})
	case keep:
		s.toBoard(c, nil)
	case wantsJSON(c):
		if broken == nil {
			broken = []string{}
		}
		c.JSON(http.StatusOK, gin.H{"says": says, "breaks": broken})
	default:
		s.problem(c, http.StatusOK, problem{What: says + ". " + breaksWords(broken), Kept: "The plan stays as it was.", Do: "Go back to keep it or to move it elsewhere."})
	}
}

func breaksWords(broken []string) string {
	if len(broken) == 0 {
		return "That breaks nothing."
	}
	return "That breaks: " + strings.Join(broken, "; ") + "."
}

func movedForm(c *gin.Context) (moved, error) {
	m := moved{Key: c.PostForm("key"), Craft: c.PostForm("craft"), Pack: c.PostForm("pack")}
	index, err := strconv.Atoi(c.PostForm("index"))
	minutes, merr := formNumber(c, "minutes", -600, 600)
	box, berr := strconv.Atoi(c.DefaultPostForm("box", "0"))
	if err != nil || merr != nil || berr != nil {
		return m, inputError("Say which flight, and how many minutes later.")
	}
	if m.Index, m.Box = index, box; minutes != nil {
		m.Minutes = *minutes
	}
	return m, nil
}

// chargesToCome are the planned chargings that have not begun, as far as packs are not on
// a charger already.
func (b *board) chargesToCome() (out []plan.Charging) {
	for _, g := range b.plan.Charges {
		id, err := uuid.Parse(g.Pack)
		if err == nil && b.packs[id].OnCharger == "" && g.Start.After(b.now.Add(-time.Minute)) {
			out = append(out, g)
		}
	}
	return out
}
