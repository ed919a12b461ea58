package today

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/core/units"
	"maestrale/internal/fieldday"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// setupModel is the form that makes a field day, filled in from the one before.
type setupModel struct {
	Date, From, To string
	Over           bool // it ends on the next date
	Boxes          int
	Turn           float64
	Chargers       string
	Wind           string
	People         []setupPerson
	Everybody      []named // of the school
	Unlisted       int     // students who are not among People, since there are many
	Craft          []setupThing
	Packs          []setupThing
	Teachers       []setupThing
	Spotters       []setupThing
}

// Missing is what the school needs before a day can be planned; empty where it has all.
func (m setupModel) Missing() string {
	what, _ := m.missing()
	return what
}

// MissingAt is where it is added.
func (m setupModel) MissingAt() string {
	_, at := m.missing()
	return at
}

func (m setupModel) missing() (what, at string) {
	switch {
	case len(m.Everybody) == 0:
		return "a student", "/students"
	case len(m.Craft) == 0:
		return "a craft", "/fleet#add-craft"
	case len(m.Packs) == 0:
		return "packs", "/fleet#add-packs"
	}
	return "", ""
}

type setupPerson struct {
	ID, Name, Flies string
	Flights         int
	Minutes, Rest   float64
	Spotter         bool
	WindMps         float64
	From, Until     string
	With            string
}

type setupThing struct {
	ID, Name, Says string
	In, Prove      bool
}

// A school of more students than mostListed lists those who are planned, and as many as fewListed of those who landed
// last. The others are said by name.
const (
	mostListed = 60
	fewListed  = 30
)

// listed are the students whom the form lists, by name.
func listed(b *fieldday.Board, was map[uuid.UUID]fieldday.Person, landed map[uuid.UUID]time.Time) []store.Student {
	all := slices.Collect(maps.Values(b.Students))
	if len(all) > mostListed {
		slices.SortFunc(all, func(a, b store.Student) int {
			return cmp.Or(landed[b.ID].Compare(landed[a.ID]), cmp.Compare(a.Name, b.Name))
		})
		rest := slices.DeleteFunc(slices.Clone(all), func(st store.Student) bool { _, is := was[st.ID]; return is })
		all = slices.DeleteFunc(all, func(st store.Student) bool { _, is := was[st.ID]; return !is })
		all = append(all, rest[:min(fewListed, len(rest))]...)
	}
	slices.SortFunc(all, func(a, b store.Student) int { return cmp.Compare(a.Name, b.Name) })
	return all
}

// setupOf fills in the form; landed is when students landed last, which only a school of many is asked for.
func (s Pages) setupOf(b *fieldday.Board, landed map[uuid.UUID]time.Time) setupModel {
	loc := b.Person.Zone()
	now := b.Now.In(loc)
	from, to := now.Truncate(30*time.Minute).Add(30*time.Minute),
		now.Truncate(30*time.Minute).Add(4*time.Hour+30*time.Minute)
	m := setupModel{Date: from.Format("2006-01-02"), From: from.Format("15:04"), To: to.Format("15:04"),
		Over: to.YearDay() != from.YearDay(), Boxes: 2, Turn: 3, Chargers: "C1 with 4, C2 with 4"}
	was := map[uuid.UUID]fieldday.Person{}
	if b.Is() {
		m.Boxes, m.Turn = b.Source.Boxes, b.Source.TurnMinutes
		var list []string
		for _, k := range b.Source.Chargers {
			list = append(list, fmt.Sprintf("%s with %d", k.ID, k.Slots))
		}
		m.Chargers = strings.Join(list, ", ")
		for _, x := range b.Source.People {
			was[x.Student] = x
		}
	}
	for _, st := range b.Students {
		m.Everybody = append(m.Everybody, named{st.ID.String(), st.Name})
	}
	slices.SortFunc(m.Everybody, func(a, b named) int { return cmp.Compare(a.Name, b.Name) })
	for _, st := range listed(b, was, landed) {
		x, ok := was[st.ID]
		if !ok {
			x = fieldday.Usual()
		}
		m.People = append(m.People, setupPersonOf(st, x, s.Cat.Craft[st.CraftType].Title, loc))
	}
	m.Unlisted = len(m.Everybody) - len(m.People)
	for _, k := range slices.SortedFunc(maps.Values(b.Craft), func(a, b store.Craft) int {
		return cmp.Compare(a.Name, b.Name)
	}) {
		m.Craft = append(m.Craft, setupThing{k.ID.String(), k.Name, s.Cat.Craft[k.Type].Title, !b.Is() ||
			slices.Contains(b.Source.Craft, k.ID), slices.Contains(b.Source.Proving, k.ID)})
	}
	for _, k := range slices.SortedFunc(maps.Values(b.Packs), func(a, b fieldday.Pack) int {
		return cmp.Or(cmp.Compare(a.TypeTitle, b.TypeTitle), cmp.Compare(len(a.Name), len(b.Name)), cmp.Compare(a.Name,
			b.Name))
	}) {
		m.Packs = append(m.Packs, setupThing{k.ID.String(), k.Name, k.TypeTitle + ", " + k.ChargePc, k.Fitness != pack.Retire,
			false})
	}
	for _, a := range slices.SortedFunc(maps.Values(b.Staff), func(a, b store.Account) int {
		return cmp.Compare(a.Name, b.Name)
	}) {
		thing := setupThing{a.ID.String(), a.Name, a.Role, true, false}
		if a.Role == store.Spotter {
			m.Spotters = append(m.Spotters, thing)
		} else {
			m.Teachers = append(m.Teachers, thing)
		}
	}
	return m
}

// setupPersonOf is the line of a student, with what was asked of them last.
func setupPersonOf(st store.Student, x fieldday.Person, flies string, loc *time.Location) setupPerson {
	sp := setupPerson{ID: st.ID.String(), Name: st.Name, Flies: flies, Flights: x.Flights,
		Minutes: x.Minutes, Rest: x.Rest, Spotter: x.Spotter, WindMps: x.WindMps}
	if x.From != nil {
		sp.From = x.From.In(loc).Format("15:04")
	}
	if x.Until != nil {
		sp.Until = x.Until.In(loc).Format("15:04")
	}
	if x.With != nil {
		sp.With = x.With.String()
	}
	return sp
}

// MakeDay makes a field day of what the form says, and plans it.
func (s Pages) MakeDay(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	src, starts, ends, err := s.dayForm(c, p.Zone())
	var others []fieldday.Other
	if err == nil {
		others, err = fieldday.ReadOthers(c.PostForm("others"))
	}
	if err == nil && len(src.People)+len(others) == 0 {
		err = errors.New(msgNobodyFlies)
	}
	if err != nil {
		s.ToBoard(c, refusal.Error(strings.ToUpper(err.Error()[:1])+err.Error()[1:]+"."))
		return
	}
	s.ToBoard(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b := &fieldday.Board{Now: s.Now(), Person: p, Students: map[uuid.UUID]store.Student{},
			Craft: map[uuid.UUID]store.Craft{}, Packs: map[uuid.UUID]fieldday.Pack{}, Staff: map[uuid.UUID]store.Account{}}
		if err := s.Days().ReadFleet(ctx, tx, b); err != nil {
			return err
		}
		b.Source = src
		if err := b.AddOthers(others); err != nil {
			return refusal.Error(strings.ToUpper(err.Error()[:1]) + err.Error()[1:] + ".")
		}
		return s.newDay(c, tx, b, b.Source, starts, ends)
	}))
}

func (s Pages) newDay(c *gin.Context, tx store.Tx, b *fieldday.Board, src fieldday.Source, starts,
	ends time.Time) error {
	ctx := c.Request.Context()
	b.Day = store.FieldDay{ID: store.NewID(), Starts: starts, Ends: ends, At: s.Now()}
	b.Source = src
	next, err := s.Days().Planned(ctx, tx, b)
	if err != nil {
		return err
	}
	if err := tx.AddDay(ctx, b.Day.ID, starts, ends); err != nil {
		return err
	}
	return tx.PlanDay(ctx, b.Day.ID, b.Person.ID, 0, b.Now, "made", src, next)
}

// dayForm reads the form of a day.
func (s Pages) dayForm(c *gin.Context, loc *time.Location) (src fieldday.Source, starts, ends time.Time, err error) {
	date := c.PostForm("date")
	if starts, err = clockOn(date, "from", c.PostForm("from"), loc); err == nil {
		ends, err = clockOn(date, "to", c.PostForm("to"), loc)
	}
	if err != nil {
		return src, starts, ends, err
	}
	over := c.PostForm("over") == "yes"
	if over {
		ends = nextDate(ends)
	}
	switch {
	case !ends.After(starts):
		return src, starts, ends,
			fmt.Errorf("the day ends at %s and begins at %s; expected its end after its beginning, or on the next date with "+
				"the tick that says so", c.PostForm("to"), c.PostForm("from"))
	case ends.Sub(starts) > longestDay:
		return src, starts, ends, fmt.Errorf("the day lasts %.0f hours; expected %.0f at most", ends.Sub(starts).Hours(),
			longestDay.Hours())
	}
	boxes, err := frame.NeedNumber(c, "boxes", 1, 20)
	if err != nil {
		return src, starts, ends, err
	}
	if src.TurnMinutes, err = frame.NeedNumber(c, "turn", 0, 60); err != nil {
		return src, starts, ends, err
	}
	src.Boxes = int(boxes)
	if src.Chargers, err = readChargers(c.PostForm("chargers")); err != nil {
		return src, starts, ends, err
	}
	if src.Wind, err = readForecast(c.PostForm("wind"), starts, ends, loc); err != nil {
		return src, starts, ends, err
	}
	ids := func(name string) []uuid.UUID { return formIDs(c, name) }
	src.Craft, src.Packs, src.Instructors, src.Spotters, src.Proving = ids("craft"), ids("pack"), ids("teacher"),
		ids("watcher"), ids("proving")
	src.Grounded, src.Dead = []uuid.UUID{}, []uuid.UUID{}
	for _, id := range ids("student") {
		x, err := personOf(c, id, src.Instructors, starts, ends, loc)
		if err != nil {
			return src, starts, ends, err
		}
		if x != nil {
			src.People = append(src.People, *x)
		}
	}
	if len(src.Craft) == 0 {
		err = fmt.Errorf("there is no craft; choose what is at the field")
	}
	return src, starts, ends, err
}

// formIDs are the ids that are ticked under a name of a form.
func formIDs(c *gin.Context, name string) (out []uuid.UUID) {
	for _, t := range c.PostFormArray(name) {
		if id, perr := uuid.Parse(t); perr == nil {
			out = append(out, id)
		}
	}
	return out
}

// personOf reads what is asked for a student of the day; nil for one who does not fly.
func personOf(c *gin.Context, id uuid.UUID, teachers []uuid.UUID, starts, ends time.Time, loc *time.Location) (
	*fieldday.Person, error) {
	key := id.String()
	flights, ferr := frame.NeedNumber(c, "flights-"+key, 0, 20)
	minutes, merr := frame.NeedNumber(c, "minutes-"+key, 1, 60)
	rest, rerr := frame.NeedNumber(c, "rest-"+key, 0, 240)
	wind, werr := frame.FormMeasure(c, "wind-"+key, units.Speed, 0, 50)
	for _, e := range []error{ferr, merr, rerr, werr} {
		if e != nil {
			return nil, e
		}
	}
	if flights < 1 {
		return nil, nil //nolint:nilnil // does not fly
	}
	from, ferr := clockWithin(c.PostForm("from-"+key), starts, ends, loc)
	until, uerr := clockWithin(c.PostForm("until-"+key), starts, ends, loc)
	switch {
	case ferr != nil:
		return nil, ferr
	case uerr != nil:
		return nil, uerr
	case from != nil && until != nil && !until.After(*from):
		return nil, fmt.Errorf("a student is there from %s until %s; expected an end after the beginning",
			c.PostForm("from-"+key), c.PostForm("until-"+key))
	}
	x := fieldday.Person{From: from, Until: until, Student: id, Flights: int(flights), Minutes: minutes, Rest: rest,
		Spotter: c.PostForm("spotter-"+key) != ""}
	if wind != nil {
		x.WindMps = *wind
	}
	if with, perr := uuid.Parse(c.PostForm("with-" + key)); perr == nil {
		if !slices.Contains(teachers, with) {
			return nil, fmt.Errorf("a student flies with an instructor who is not there; expected one who is, or any")
		}
		x.With = &with
	}
	return &x, nil
}

// longestDay is how long a field day may last: nobody flies from one morning to the next.
const longestDay = 20 * time.Hour

// clockOn reads a time of a date.
func clockOn(date, name, text string, loc *time.Location) (time.Time, error) {
	t, err := time.ParseInLocation("2006-01-02 15:04", date+" "+text, loc)
	if err != nil {
		return t, fmt.Errorf("the %s is %.20q on %.20q; expected a date and a time as 09:00", name, text, date)
	}
	return t, nil
}

// nextDate is the same time on the clock a date later.
func nextDate(t time.Time) time.Time { return t.AddDate(0, 0, 1) }

// clockWithin reads a time on the clock that falls within a day; nil where none is said.
func clockWithin(text string, starts, ends time.Time, loc *time.Location) (*time.Time, error) {
	if text = strings.TrimSpace(text); text == "" {
		return nil, nil //nolint:nilnil // nothing was said
	}
	t, err := clockOn(starts.In(loc).Format("2006-01-02"), "time", text, loc)
	if err != nil {
		return nil, err
	}
	if next := nextDate(t); t.Before(starts) && !next.After(ends) {
		t = next
	}
	if t.Before(starts) || t.After(ends) {
		return nil, fmt.Errorf("the time %s is not within the day; expected from %s to %s", text,
			starts.In(loc).Format("15:04"), ends.In(loc).Format("15:04"))
	}
	return &t, nil
}

// readChargers reads "C1 with 4, C2 with 2".
func readChargers(text string) (out []plan.Charger, err error) {
	for part := range strings.SplitSeq(text, ",") {
		if part = strings.TrimSpace(part); part == "" {
			continue
		}
		name, slots, _ := strings.Cut(part, " with ")
		n, perr := strconv.Atoi(strings.TrimSpace(slots))
		if slots == "" {
			n, perr = 1, nil
		}
		name = frame.CleanName(name)
		if perr != nil || n < 1 || n > 50 || name == "" || slices.ContainsFunc(out,
			func(k plan.Charger) bool { return k.ID == name }) {
			return nil, fmt.Errorf("the charger %.40q is not clear; expected each once, with its slots, as: C1 with 4, C2 "+
				"with 2", part)
		}
		out = append(out, plan.Charger{ID: name, Slots: n})
	}
	return out, nil
}

// readForecast reads "09:00 3, 11:00 6": the mean wind from a time on.
func readForecast(text string, day, ends time.Time, loc *time.Location) (out []plan.Wind, err error) {
	y, month, d := day.In(loc).Date()
	for part := range strings.SplitSeq(text, ",") {
		if part = strings.TrimSpace(part); part == "" {
			continue
		}
		at, speed, _ := strings.Cut(part, " ")
		t, terr := time.Parse("15:04", at)
		v, _, verr := units.Parse(units.Speed, speed, units.MetrePerSec)
		if terr != nil || verr != nil || !(v >= 0 && v <= 80) {
			return nil, fmt.Errorf("the wind %.40q is not clear; expected a time and m/s or a unit, as: 09:00 3, 11:00 12 kn",
				part)
		}
		from := time.Date(y, month, d, t.Hour(), t.Minute(), 0, 0, loc)
		if next := nextDate(from); from.Before(day) && next.Before(ends) {
			from = next // after midnight
		}
		out = append(out, plan.Wind{From: from, Mps: v})
	}
	slices.SortFunc(out, func(a, b plan.Wind) int { return a.From.Compare(b.From) })
	return out, nil
}
