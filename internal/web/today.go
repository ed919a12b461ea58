package web

import (
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/internal/draw"
	"maestrale/internal/store"
)

// todayModel is the field day as it runs.
type todayModel struct {
	Is        bool
	May       bool // change the plan
	Day       string
	Hours     string
	Seq       int
	Says      string
	Calls     []plan.Call
	Aloft     []aloftFlight
	Next      []nextFlight
	Landed    []landedFlight
	Strip     template.HTML
	PerMinute float64
	Hold      *holdModel
	Counts    packCounts
	Packs     []packAtField
	Left      []leftOut
	Fits      []string
	Bound     string
	Setup     setupModel
	Chargers  []string
	Moods     []string
	Incidents []string
	Moves     []moveRow
	CraftList []named
	PackList  []named
	Boxes     []int
	Twice     []conflictRow
	Devices   []deviceRow
}

type named struct{ ID, Name string }

// aloftFlight is a flight that goes on.
type aloftFlight struct {
	ID, Who, Student, Craft, Pack, What, Pad string
	Since                                    string
	Due                                      string
	Over                                     bool
	Limit                                    string
	Reach                                    string
	Retreat                                  string
	Before                                   string
	Advice                                   []string // quiet lines: stuck, tired, tense
}

// nextFlight is a flight that is planned, with the form that begins it.
type nextFlight struct {
	Fresh                              string // the id that it will have
	Index                              int
	At, Who, Craft, Pack, What, Full   string
	Student, CraftID, PackID           string
	Box                                int
	Instructor, Spotter, With, Watches string
	Cell                               drill.Cell
	Kind                               string
	Minutes                            float64
	Late                               bool
	Ready                              bool
}

type landedFlight struct {
	ID, Who, Craft, When, Minutes, Before, After, Void string
	Incidents                                          []string
}

type holdModel struct {
	Why, By, Since string
	Retreats       []string
}

type packCounts struct{ Full, Charging, Cooling, Empty int }

// packAtField is a pack of the day and what is to be done with it.
type packAtField struct {
	ID, Name, Type, State, Says string
	Plug, Full                  bool
}

type leftOut struct{ Who, Why string }

// moveRow is a planned flight as the form that moves it offers it.
type moveRow struct {
	Index int
	Says  string
}

func (s *Server) todayPage(c *gin.Context) {
	m, err := s.todayModel(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	pg := page{Title: "Today", Place: "Today", Body: m, Script: "today.js", Keys: []key{{"← →", "a planned flight a minute earlier, later"}, {"↑ ↓", "to the box above, below"}, {"Enter", "what that breaks"}}}
	s.render(c, http.StatusOK, "today", pg)
}

// todayBoard is the board alone, asked for whenever something has changed.
func (s *Server) todayBoard(c *gin.Context) {
	m, err := s.todayModel(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	s.part(c, "board", m)
}

func (s *Server) todayModel(c *gin.Context) (todayModel, error) {
	ctx, p := c.Request.Context(), person(c)
	var b *board
	var twice []conflictRow
	var advice map[string][]string
	var devices []store.Device
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		if b, err = s.boardOf(ctx, tx, p); err != nil {
			return err
		}
		if p.Role == store.Chief {
			if devices, err = tx.Devices(ctx); err != nil {
				return err
			}
		}
		if advice, err = s.adviceAloft(ctx, tx, b); err != nil {
			return err
		}
		twice, err = s.conflictRows(ctx, tx, zone(p))
		return err
	})
	if err != nil {
		return todayModel{}, err
	}
	m, err := s.todayOf(b)
	m.Twice = twice
	for i := range m.Aloft {
		m.Aloft[i].Advice = advice[m.Aloft[i].Student]
	}
	for _, d := range devices {
		row := deviceRow{ID: d.ID.String(), Name: firstText(d.Name, "a device"), By: d.By, Last: ago(s.now().Sub(d.LastAt))}
		if d.CutAt != nil {
			row.Cut = d.CutAt.In(zone(p)).Format("2 Jan 15:04")
		}
		m.Devices = append(m.Devices, row)
	}
	return m, err
}

// adviceAloft are the quiet lines of those who are in the air, by their id.
func (s *Server) adviceAloft(ctx context.Context, tx store.Tx, b *board) (map[string][]string, error) {
	out := map[string][]string{}
	for i := range b.flown {
		f := &b.flown[i]
		if f.EndedAt != nil || f.StudentID == nil || f.Void != "" {
			continue
		}
		lines, err := s.advice(ctx, tx, *f.StudentID, zone(b.person))
		if err != nil {
			return nil, err
		}
		out[f.StudentID.String()] = lines
	}
	return out, nil
}

func (s *Server) todayOf(b *board) (todayModel, error) {
	p := b.person
	m := todayModel{Is: b.is(), May: p.Role == store.Chief || p.Role == store.Instructor, Moods: moods, Incidents: craft.Causes}
	m.Setup = s.setupOf(b)
	if !m.Is {
		return m, nil
	}
	loc := zone(p)
	clock := func(t time.Time) string { return t.In(loc).Format("15:04") }
	m.Day, m.Hours, m.Seq = b.day.Starts.In(loc).Format("Monday 2 January"), clock(b.day.Starts)+" to "+clock(b.day.Ends), b.day.Seq
	m.Says = b.day.Says + ", " + b.day.By + ", " + clock(b.day.At)
	var aloft []plan.Aloft
	for i := range b.flown {
		f := &b.flown[i]
		switch {
		case f.InAir():
			m.Aloft = append(m.Aloft, s.aloftOf(b, f, clock))
			aloft = append(aloft, plan.Aloft{Student: b.who(f), Craft: b.craft[f.CraftID].Name, Begun: f.BegunAt, Flight: time.Duration(f.Minutes * float64(time.Minute)), LimitMps: s.limit(b, f.StudentID, f.CraftID)})
		default:
			m.Landed = append(m.Landed, landedFlight{f.ID.String(), b.who(f), b.craft[f.CraftID].Name, clock(f.BegunAt), fmt.Sprintf("%.0f min", f.EndedAt.Sub(f.BegunAt).Minutes()), f.Before, f.After, f.Void, f.Incidents})
		}
	}
	slices.Reverse(m.Landed)
	list, cells := b.toCome()
	var next []plan.Next
	for i, f := range list {
		n := s.nextOf(b, i, f, cells[i], clock)
		m.Moves = append(m.Moves, moveRow{i, fmt.Sprintf("%s %s on %s with %s", n.At, n.Who, n.Craft, n.Pack)})
		next = append(next, plan.Next{Student: n.Who, Craft: n.Craft, Pack: n.Pack, Start: f.Start, PackFull: n.Ready, LimitMps: s.limitOf(b, f)})
		if len(m.Next) < 3 {
			m.Next = append(m.Next, n)
		}
	}
	wind, gust := 0.0, 0.0
	if w := s.windNow(p); w != nil && w.Fresh {
		wind, gust = w.Mean, w.Gust
	}
	m.Calls = plan.Calls(b.now, aloft, next, wind, gust)
	if b.hold.On {
		m.Hold = s.holdOf(b, clock)
	}
	strip := s.stripOf(b, list, cells, loc)
	m.Strip, m.PerMinute = draw.DayStrip(strip), strip.PerMinute()
	s.packsAtField(b, &m, clock)
	for _, u := range b.plan.Unplaced {
		m.Left = append(m.Left, leftOut{fmt.Sprintf("%s, %s", b.name(u.Student), counted(u.Flights, "flight")), u.Why})
	}
	m.Fits = b.plan.Fits
	if b.plan.MakespanMinutes > 0 {
		m.Bound = fmt.Sprintf("The last landing is planned for %s; it cannot be before %s, for the %s.", clock(b.day.Starts.Add(time.Duration(b.plan.MakespanMinutes*float64(time.Minute)))), clock(b.day.Starts.Add(time.Duration(b.plan.LowerBoundMinutes*float64(time.Minute)))), b.plan.Bound)
	}
	for _, id := range b.source.Craft {
		m.CraftList = append(m.CraftList, named{id.String(), b.craft[id].Name})
	}
	for _, id := range b.source.Packs {
		m.PackList = append(m.PackList, named{id.String(), b.packs[id].Name})
	}
	for i := range b.source.Boxes {
		m.Boxes = append(m.Boxes, i+1)
	}
	for _, k := range b.source.Chargers {
		m.Chargers = append(m.Chargers, k.ID)
	}
	return m, nil
}

// moods are what a student says of himself or herself with one tap.
var moods = []string{"calm", "tense", "shaken"}

func (b *board) who(f *store.FlownFlight) string {
	if f.StudentID != nil {
		return b.students[*f.StudentID].Name
	}
	by := f.BegunBy
	if f.InstructorID != nil {
		by = *f.InstructorID
	}
	return b.staff[by].Name + ", " + f.Kind
}

func (s *Server) limitOf(b *board, f plan.Flight) float64 {
	id, err := uuid.Parse(f.Craft)
	if err != nil {
		return 0
	}
	if student, err := uuid.Parse(f.Student); err == nil {
		return s.limit(b, &student, id)
	}
	return s.limit(b, nil, id)
}

func (s *Server) aloftOf(b *board, f *store.FlownFlight, clock func(time.Time) string) aloftFlight {
	due := f.BegunAt.Add(time.Duration(f.Minutes * float64(time.Minute)))
	cell := drill.Cell{Drill: f.Drill, Aids: craft.Aids(f.Aids), Level: 1}
	cell.Side = field.Side(f.Side)
	out := aloftFlight{ID: f.ID.String(), Who: b.who(f), Craft: b.craft[f.CraftID].Name, Pack: b.packs[f.PackID].Name, What: s.cellWords(cell), Since: fmt.Sprintf("%.0f min", b.now.Sub(f.BegunAt).Minutes()), Due: clock(due),
		Over: b.now.After(due), Retreat: craft.Aids(f.Aids).Retreat(), Before: f.Before}
	if f.StudentID != nil {
		out.Student = f.StudentID.String()
		if cell.Drill != "" {
			out.Pad = padAddress(out.Student, cell)
		}
	}
	if limit := s.limit(b, f.StudentID, f.CraftID); limit > 0 {
		out.Limit = fmt.Sprintf("limit %.0f m/s", limit)
	}
	row := b.packs[f.PackID]
	if x := s.sumOf(b.person, s.cat.Craft[b.craft[f.CraftID].Type], row, b.alt); x.err == nil {
		// What is left of the pack: what it had, less the minutes so far.
		flown := min(1, b.now.Sub(f.BegunAt).Seconds()/max(1, x.seconds))
		x.filling.Charge -= max(0, x.filling.Charge-pack.Reserve) * flown
		out.Reach = reachWords(pack.Farthest(x.lifter, x.filling, x.trip).WorstM, b.tell[f.ID])
	}
	return out
}

func (s *Server) nextOf(b *board, i int, f plan.Flight, cell drill.Cell, clock func(time.Time) string) nextFlight {
	n := nextFlight{Fresh: store.NewID().String(), Index: i, At: clock(f.Start), Who: b.name(f.Student), Craft: b.name(f.Craft), Pack: b.name(f.Pack), What: s.cellWords(cell), Student: f.Student, CraftID: f.Craft, PackID: f.Pack, Box: f.Box,
		Instructor: f.Instructor, Spotter: f.Spotter, With: b.name(f.Instructor), Watches: b.name(f.Spotter), Cell: cell, Kind: f.Kind, Minutes: f.End.Sub(f.Start).Minutes(), Late: b.now.Sub(f.Start) > 3*time.Minute}
	if n.Kind == "" {
		n.Kind = plan.Lesson
	}
	if n.Cell.Aids == "" {
		if id, err := uuid.Parse(f.Craft); err == nil {
			if t := s.cat.Craft[b.craft[id].Type]; len(t.Aids) > 0 {
				n.Cell.Aids = t.Aids[0]
			}
		}
	}
	if id, err := uuid.Parse(f.Pack); err == nil {
		row := b.packs[id]
		n.Ready = row.Full()
		n.Full = row.ChargePc
		if row.OnCharger != "" {
			n.Full = "on " + row.OnCharger
		}
	}
	return n
}

// holdOf is a hold, and what each craft in the air does.
func (s *Server) holdOf(b *board, clock func(time.Time) string) *holdModel {
	h := &holdModel{Why: b.hold.Why, By: b.hold.By, Since: clock(b.hold.At)}
	for i := range b.flown {
		if f := &b.flown[i]; f.InAir() {
			h.Retreats = append(h.Retreats, fmt.Sprintf("%s on %s: %s, and land", b.who(f), b.craft[f.CraftID].Name, craft.Aids(f.Aids).Retreat()))
		}
	}
	return h
}

// dayChange changes what a day is made of; says tells what it did.
type dayChange func(src *daySource) (says string, err error)

// changeDay changes the field day that is on and plans it again.
func (s *Server) changeDay(c *gin.Context, change dayChange) {
	ctx, p := c.Request.Context(), person(c)
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.boardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		if !b.is() {
			return store.ErrNotFound
		}
		says, err := change(&b.source)
		if err != nil {
			return err
		}
		next, err := s.planned(ctx, tx, b)
		if err != nil {
			return err
		}
		if ch := next.Changed; ch != nil && ch.Moved+ch.Swaps+ch.Gone > 0 {
			says += fmt.Sprintf(": %s stay, %d moved", counted(ch.Same, "flight"), ch.Moved+ch.Swaps)
		}
		return tx.PlanDay(ctx, b.day.ID, p.ID, b.day.Seq, b.now, says, b.source, next)
	})
	s.toBoard(c, err)
}

// toBoard goes back to the board, or says what was wrong.
func (s *Server) toBoard(c *gin.Context, err error) {
	var wrong inputError
	switch {
	case errors.As(err, &wrong):
		s.wrongInput(c, string(wrong), "Go back to the board and put it right.")
	case errors.Is(err, store.ErrElsewhere):
		s.problem(c, http.StatusConflict, problem{What: "Somebody else changed the day just now.", Do: "Look at the board again and make your change once more."})
	case errors.Is(err, store.ErrBusy):
		s.problem(c, http.StatusConflict, problem{What: err.Error() + ".", Do: "Land the flight that goes on first, or choose another."})
	case err != nil:
		s.failed(c, err)
	case wantsJSON(c):
		c.JSON(http.StatusOK, gin.H{"kept": true})
	default:
		c.Redirect(http.StatusSeeOther, "/today")
	}
}
