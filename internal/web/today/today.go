package today

import (
	"cmp"
	"context"
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
	"maestrale/core/marking"
	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/internal/draw"
	"maestrale/internal/fieldday"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// todayModel is the field day as it runs.
type todayModel struct {
	Is        bool
	May       bool // change the plan
	Day       string
	Hours     string
	Runs      bool // the sample day runs by itself
	CanRun    bool
	Seq       int
	Says      string
	Phase     plan.Phase
	PhaseSays string
	PhaseDo   string    // what its one button does: close, plan, or nothing
	Need      *needRow  // what needs attention first
	Calls     []needRow // what else is to be called out
	More      string
	Later     []nextFlight // after Next
	LaterSays string
	CraftSays string
	Aloft     []aloftFlight
	Next      []nextFlight
	Landed    []landedFlight
	Strip     template.HTML
	PerMinute float64
	Hold      *holdModel
	Counts    packCounts
	Packs     []packAtField
	Craft     []craftToday
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
	Waits     int // what waits for a decision
	Twice     []conflictRow
	Devices   []deviceRow
	Marked    []markedRow
	Voids     []marking.Choice // what an attempt is made void for, as on the pad
}

type named struct{ ID, Name string }

// needRow is a call, with the flight that its button ends; empty where it ends none.
type needRow struct {
	plan.Call
	Flight string
}

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
	Moods                              []string
	Ready                              bool
	Not                                string // why it cannot be begun; empty where it can
	Check                              string // where that is put right
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

func (s Pages) TodayPage(c *gin.Context) {
	m, err := s.todayModel(c, true)
	if err != nil {
		s.Failed(c, err)
		return
	}
	pg := frame.Page{Title: "Today", Place: "Today", Body: m, Script: "today.js",
		Keys: []frame.Key{{Key: "← →", Does: msgPlannedFlightMinute},
			{Key: "↑ ↓", Does: msgBoxAboveBelow}, {Key: "Enter", Does: msgWhatBreaks}}}
	s.Render(c, http.StatusOK, "today", pg)
}

// TodayBoard is the board alone, asked for whenever something has changed.
func (s Pages) TodayBoard(c *gin.Context) {
	m, err := s.todayModel(c, false)
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Part(c, "board", m)
}

// todayModel is the field day; whole with what only the page has, and not the board that is asked for again and again.
func (s Pages) todayModel(c *gin.Context, whole bool) (todayModel, error) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var b *fieldday.Board
	var twice []conflictRow
	var advice map[string][]string
	var devices []store.Device
	var marked []markedRow
	var landed map[uuid.UUID]time.Time
	waits := 0
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		if b, err = s.Days().BoardOf(ctx, tx, p); err != nil {
			return err
		}
		if whole && len(b.Students) > mostListed {
			if landed, err = tx.LastLandings(ctx); err != nil {
				return err
			}
		}
		if p.Role == store.Chief {
			if devices, err = tx.Devices(ctx); err != nil {
				return err
			}
		}
		if p.Role == store.Chief || p.Role == store.Instructor {
			if marked, err = s.markedRows(ctx, tx, p.Zone()); err != nil {
				return err
			}
		}
		if advice, err = s.adviceAloft(ctx, tx, b); err != nil {
			return err
		}
		of := &p.ID
		if p.Role == store.Chief {
			of = nil
		}
		if waits, err = tx.Waiting(ctx, of); err != nil {
			return err
		}
		twice, err = s.conflictRows(ctx, tx, p.Zone())
		return err
	})
	if err != nil {
		return todayModel{}, err
	}
	m, err := s.todayOf(b, landed)
	m.CanRun = s.Runner != nil && m.May && m.Phase == plan.Running
	m.Runs = m.CanRun && s.Runner.Running()
	m.Twice, m.Waits, m.Marked, m.Voids = twice, waits, marked, marking.Voids
	for i := range m.Aloft {
		m.Aloft[i].Advice = advice[m.Aloft[i].Student]
	}
	for _, d := range devices {
		row := deviceRow{ID: d.ID.String(), Name: cmp.Or(d.Name, "a device"), By: d.By,
			Last: words.Ago(s.Now().Sub(d.LastAt))}
		if d.CutAt != nil {
			row.Cut = d.CutAt.In(p.Zone()).Format("2 Jan 15:04")
		}
		m.Devices = append(m.Devices, row)
	}
	return m, err
}

// adviceAloft are the quiet lines of those who are in the air, by their id.
func (s Pages) adviceAloft(ctx context.Context, tx store.Tx, b *fieldday.Board) (map[string][]string, error) {
	out := map[string][]string{}
	for i := range b.Flown {
		f := &b.Flown[i]
		if f.EndedAt != nil || f.StudentID == nil || f.Void != "" {
			continue
		}
		lines, err := s.Students().Advice(ctx, tx, *f.StudentID)
		if err != nil {
			return nil, err
		}
		out[f.StudentID.String()] = lines
	}
	return out, nil
}

// callsOf is a flight that goes on, as calls are made about it.
func (s Pages) callsOf(b *fieldday.Board, f *store.FlownFlight) plan.Aloft {
	return plan.Aloft{Student: b.Who(f), Craft: b.Craft[f.CraftID].Name, Begun: f.BegunAt,
		Flight: time.Duration(f.Minutes * float64(time.Minute)), LimitMps: s.Days().Limit(b, f.StudentID, f.CraftID),
		GustLimitMps: s.Cat.Craft[b.Craft[f.CraftID].Type].GustMps}
}

func (s Pages) todayOf(b *fieldday.Board, landed map[uuid.UUID]time.Time) (todayModel, error) {
	p := b.Person
	m := todayModel{Is: b.Is(), May: p.Role == store.Chief || p.Role == store.Instructor, Moods: fieldday.Moods,
		Incidents: craft.Causes}
	m.Setup = s.setupOf(b, landed)
	if !m.Is {
		return m, nil
	}
	loc := p.Zone()
	clock := func(t time.Time) string { return t.In(loc).Format("15:04") }
	m.Day, m.Hours, m.Seq = b.Day.Starts.In(loc).Format("Monday 2 January"),
		clock(b.Day.Starts)+" to "+clock(b.Day.Ends),
		b.Day.Seq
	m.Says = b.Day.Says + ", " + b.Day.By + ", " + clock(b.Day.At)
	var aloft []plan.Aloft
	for i := range b.Flown {
		f := &b.Flown[i]
		switch {
		case f.InAir():
			m.Aloft = append(m.Aloft, s.aloftOf(b, f, clock))
			aloft = append(aloft, s.callsOf(b, f))
		default:
			m.Landed = append(m.Landed, landedFlight{f.ID.String(), b.Who(f), b.Craft[f.CraftID].Name, clock(f.BegunAt),
				fmt.Sprintf("%.0f min", f.EndedAt.Sub(f.BegunAt).Minutes()), f.Before, f.After, f.Void, f.Incidents})
		}
	}
	slices.Reverse(m.Landed)
	list, cells := b.ToCome()
	s.comes(b, &m, list, cells, aloft, clock)
	if b.Hold.On {
		m.Hold = s.holdOf(b, clock)
	}
	strip := s.stripOf(b, list, cells, loc)
	m.Strip, m.PerMinute = draw.DayStrip(strip), strip.PerMinute()
	s.packsAtField(b, &m, clock)
	m.Left = leftOutOf(b)
	m.Fits = b.Plan.Fits
	if b.Plan.MakespanMinutes > 0 {
		m.Bound = fmt.Sprintf(msgLastLandingPlanned,
			clock(b.Day.Starts.Add(time.Duration(b.Plan.MakespanMinutes*float64(time.Minute)))),
			clock(b.Day.Starts.Add(time.Duration(b.Plan.LowerBoundMinutes*float64(time.Minute)))), b.Plan.Bound)
	}
	m.Craft = s.craftOf(b, clock)
	m.CraftSays = craftSays(m.Craft)
	m.lists(b)
	return m, nil
}

// leftOutOf says who is left out of the plan: those with the same reason in one line.
func leftOutOf(b *fieldday.Board) (out []leftOut) {
	for _, u := range b.Plan.Unplaced {
		who := fmt.Sprintf("%s, %s", b.Name(u.Student), words.Counted(u.Flights, "flight"))
		i := slices.IndexFunc(out, func(l leftOut) bool { return l.Why == u.Why })
		if i < 0 {
			out = append(out, leftOut{who, u.Why})
			continue
		}
		out[i].Who += "; " + who
	}
	return out
}

// comes sets what is planned still, how the day stands, and what is to be called out.
func (s Pages) comes(b *fieldday.Board, m *todayModel, list []plan.Flight, cells []drill.Cell, aloft []plan.Aloft,
	clock func(time.Time) string) {
	var next []plan.Next
	for i, f := range list {
		n := s.nextOf(b, i, f, cells[i], clock)
		m.Moves = append(m.Moves, moveRow{i, fmt.Sprintf("%s %s on %s with %s", n.At, n.Who, n.Craft, n.Pack)})
		next = append(next, plan.Next{Student: n.Who, Craft: n.Craft, Pack: n.Pack, Start: f.Start, PackFull: n.Ready,
			LimitMps: s.limitOf(b, f)})
		if len(m.Next) < max(1, b.Source.Boxes) {
			m.Next = append(m.Next, n)
		} else {
			m.Later = append(m.Later, n)
		}
	}
	m.LaterSays = laterSays(m.Later)
	wind, gust := 0.0, 0.0
	if w := b.Person.WindNow(s.Now()); w != nil && w.Fresh {
		wind, gust = w.Mean, w.Gust
	}
	m.phase(b, next, clock)
	if m.Phase != plan.Running {
		aloft, next = nil, nil // that its flights are late is said once
	}
	m.needs(plan.Calls(b.Now, aloft, next, wind, gust))
}

// lists sets what a form of the day can choose from.
func (m *todayModel) lists(b *fieldday.Board) {
	for _, id := range b.Source.Craft {
		m.CraftList = append(m.CraftList, named{id.String(), b.Craft[id].Name})
	}
	for _, id := range b.Source.Packs {
		m.PackList = append(m.PackList, named{id.String(), b.Packs[id].Name})
	}
	for i := range b.Source.Boxes {
		m.Boxes = append(m.Boxes, i+1)
	}
	for _, k := range b.Source.Chargers {
		m.Chargers = append(m.Chargers, k.ID)
	}
}

func (s Pages) limitOf(b *fieldday.Board, f plan.Flight) float64 {
	id, err := uuid.Parse(f.Craft)
	if err != nil {
		return 0
	}
	if student, err := uuid.Parse(f.Student); err == nil {
		return s.Days().Limit(b, &student, id)
	}
	return s.Days().Limit(b, nil, id)
}

func (s Pages) aloftOf(b *fieldday.Board, f *store.FlownFlight, clock func(time.Time) string) aloftFlight {
	due := f.BegunAt.Add(time.Duration(f.Minutes * float64(time.Minute)))
	cell := drill.Cell{Drill: f.Drill, Aids: craft.Aids(f.Aids), Level: 1}
	cell.Side = field.Side(f.Side)
	out := aloftFlight{ID: f.ID.String(), Who: b.Who(f), Craft: b.Craft[f.CraftID].Name, Pack: b.Packs[f.PackID].Name,
		What: s.Cat.CellWords(cell), Since: fmt.Sprintf("%.0f min", b.Now.Sub(f.BegunAt).Minutes()), Due: clock(due),
		Over: b.Now.After(due), Retreat: craft.Aids(f.Aids).Retreat(), Before: f.Before}
	if f.StudentID != nil {
		out.Student = f.StudentID.String()
		if cell.Drill != "" {
			out.Pad = fieldday.PadAddress(out.Student, cell)
		}
	}
	if limit := s.Days().Limit(b, f.StudentID, f.CraftID); limit > 0 {
		out.Limit = fmt.Sprintf("limit %.0f m/s", limit)
	}
	row := b.Packs[f.PackID]
	reach := pack.Reach{SightM: b.Tell[f.ID], FenceM: b.FenceM(f.CraftID)}
	if x := s.Days().FiguresOf(b.Person, s.Cat.Craft[b.Craft[f.CraftID].Type], row, b.Alt); x.Err == nil && row.Known {
		// What is left of the pack: what it had, less the minutes so far.
		flown := min(1, b.Now.Sub(f.BegunAt).Seconds()/max(1, x.Seconds))
		x.Filling.Charge -= max(0, x.Filling.Charge-pack.Reserve) * flown
		reach.PackM = pack.Farthest(x.Lifter, x.Filling, x.Trip).WorstM
	}
	out.Reach = fieldday.ReachWords(reach)
	return out
}

func (s Pages) nextOf(b *fieldday.Board, i int, f plan.Flight, cell drill.Cell,
	clock func(time.Time) string) nextFlight {
	n := nextFlight{Fresh: store.NewID().String(), Index: i, Moods: fieldday.Moods, At: clock(f.Start),
		Who:   b.Name(f.Student),
		Craft: b.Name(f.Craft), Pack: b.Name(f.Pack), What: s.Cat.CellWords(cell), Student: f.Student, CraftID: f.Craft,
		PackID: f.Pack, Box: f.Box,
		Instructor: f.Instructor, Spotter: f.Spotter, With: b.Name(f.Instructor), Watches: b.Name(f.Spotter), Cell: cell,
		Kind: f.Kind, Minutes: f.End.Sub(f.Start).Minutes(), Late: b.Now.Sub(f.Start) > 3*time.Minute}
	if n.Kind == "" {
		n.Kind = plan.Lesson
	}
	if n.Cell.Aids == "" {
		if id, err := uuid.Parse(f.Craft); err == nil {
			if t := s.Cat.Craft[b.Craft[id].Type]; len(t.Aids) > 0 {
				n.Cell.Aids = t.Aids[0]
			}
		}
	}
	if id, err := uuid.Parse(f.Craft); err == nil && n.Kind == plan.Lesson {
		n.Not, n.Check = notYet(b, id)
		if n.Not == "" && cell.Drill == "" {
			n.What = msgNoDrillWithin
		}
	}
	if id, err := uuid.Parse(f.Pack); err == nil {
		row := b.Packs[id]
		n.Ready = row.Full()
		n.Full = row.ChargePc
		if row.OnCharger != "" {
			n.Full = "on " + row.OnCharger
		}
	}
	return n
}

// holdOf is a hold, and what each craft in the air does.
func (s Pages) holdOf(b *fieldday.Board, clock func(time.Time) string) *holdModel {
	h := &holdModel{Why: b.Hold.Why, By: b.Hold.By, Since: clock(b.Hold.At)}
	for i := range b.Flown {
		if f := &b.Flown[i]; f.InAir() {
			h.Retreats = append(h.Retreats, fmt.Sprintf(msgOnAndLand, b.Who(f), b.Craft[f.CraftID].Name,
				craft.Aids(f.Aids).Retreat()))
		}
	}
	return h
}

// dayChange changes what a day is made of; says tells what it did.
type dayChange func(b *fieldday.Board, src *fieldday.Source) (says string, err error)

// changeDay changes the field day that is on and plans it again.
func (s Pages) changeDay(c *gin.Context, change dayChange) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var asks *costModel
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.Days().BoardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		if !b.Is() {
			return store.ErrNotFound
		}
		was, before := b.Source, b.Plan
		b.Source = was.Copy()
		says, err := change(b, &b.Source)
		if err != nil {
			return err
		}
		next, err := s.Days().Planned(ctx, tx, b)
		if err != nil {
			return err
		}
		if c.PostForm("sure") == "" && takesAway(was, b.Source) {
			asks = costOf(b, before, next, says, c)
			return nil
		}
		if ch := next.Changed; ch != nil && ch.Moved+ch.Swaps+ch.Gone > 0 {
			says += fmt.Sprintf(": %s stay, %d moved", words.Counted(ch.Same, "flight"), ch.Moved+ch.Swaps)
		}
		return tx.PlanDay(ctx, b.Day.ID, p.ID, b.Day.Seq, b.Now, says, b.Source, next)
	})
	if err == nil && asks != nil {
		s.Render(c, http.StatusOK, "cost", frame.Page{Title: msgWhatCosts, Place: "Today", Body: asks})
		return
	}
	s.ToBoard(c, err)
}
