package demo

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"sync"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/internal/store"
)

// The sample school.
const (
	SchoolName = "Scuola di volo Saline di Levante"
	Zone       = "Europe/Rome"
	Password   = "vento-da-maestro"
)

// Staff of the sample school; all names are invented.
var staff = []store.Account{
	{Email: "livia@saline.example", Name: "Livia Marangon", Role: store.Chief},
	{Email: "ettore@saline.example", Name: "Ettore Scarpaval", Role: store.Instructor},
	{Email: "mirta@saline.example", Name: "Mirta Zanovel", Role: store.Instructor},
	{Email: "gildo@saline.example", Name: "Gildo Frassenet", Role: store.Spotter},
}

// learner is a made-up student: where the hand begins, how fast it learns, and
// what is particular about it.
type learner struct {
	name, programme, craft, trainsFor string
	raw                               float64 // error of the first flight, of a tolerance
	best                              float64 // error that practice ends at
	packs                             float64 // attempts in which the difference falls to a third
	from, to                          int     // field days of the course on which it flew
	lean                              float64 // how much worse the right side is; negative: the left
	turns                             float64 // how much worse turning is
}

var learners = []learner{
	{name: "Nives Torcellan", programme: "position-hold-first", craft: "poiana", trainsFor: "rescue search", raw: 0.55, best: 0.22, packs: 14, to: 11},
	{name: "Ilario Penzoval", programme: "position-hold-first", craft: "poiana", trainsFor: "dune survey", raw: 0.55, best: 0.25, packs: 10, to: 11, lean: 1.1},
	{name: "Dunja Velkovar", programme: "on-then-off", craft: "poiana", trainsFor: "solar-roof inspection", raw: 0.3, best: 0.12, packs: 4, to: 1},
	{name: "Sauro Bradamel", programme: "hands-first", craft: "gheppio", trainsFor: "rescue search", raw: 0.7, best: 0.3, packs: 14, to: 11, turns: 1.1},
	{name: "Amina Corvelli", programme: "position-hold-first", craft: "poiana", trainsFor: "solar-roof inspection", raw: 0.8, best: 0.3, packs: 8, from: 11, to: 11},
	{name: "Teo Brusaferal", programme: "hands-first", craft: "gheppio", trainsFor: "dune survey", raw: 0.7, best: 0.3, packs: 14, from: 2, to: 11},
	{name: "Ginevra Altamor", programme: "on-then-off", craft: "poiana", trainsFor: "rescue search", raw: 0.6, best: 0.3, packs: 14, from: 1, to: 11},
	{name: "Radu Petrinel", programme: "hands-first", craft: "rondine", trainsFor: "solar-roof inspection", raw: 0.8, best: 0.32, packs: 18, from: 4, to: 10},
	{name: "Olga Stivanel", programme: "position-hold-first", craft: "airone", trainsFor: "rescue search", raw: 0.6, best: 0.28, packs: 12, from: 3, to: 11},
	{name: "Bruno Fasolar", programme: "on-then-off", craft: "poiana", trainsFor: "dune survey", raw: 0.85, best: 0.36, packs: 20, to: 11, lean: -0.5},
	{name: "Sibilla Nordest", programme: "position-hold-first", craft: "poiana", trainsFor: "dune survey", raw: 0.6, best: 0.26, packs: 13, from: 5, to: 11},
	{name: "Marko Ulivanic", programme: "hands-first", craft: "gheppio", trainsFor: "rescue search", raw: 0.65, best: 0.28, packs: 12, to: 9},
}

var fleet = []store.Craft{
	{Name: "rondine-1", Type: "rondine"}, {Name: "rondine-2", Type: "rondine"},
	{Name: "gheppio-1", Type: "gheppio"}, {Name: "gheppio-2", Type: "gheppio"},
	{Name: "poiana-1", Type: "poiana"}, {Name: "poiana-2", Type: "poiana"}, {Name: "poiana-3", Type: "poiana"},
	{Name: "airone-1", Type: "airone"},
}

// SignIn is a way into the sample school.
type SignIn struct{ Email, Role string }

// SignIns lists the ways in; all share Password.
func SignIns() []SignIn {
	out := []SignIn{}
	for _, a := range staff {
		out = append(out, SignIn{a.Email, a.Role})
	}
	return append(out, SignIn{"nives@saline.example", store.Learner})
}

// Load makes the sample school as it would stand at now. hash turns the
// password into what is kept of it.
func Load(ctx context.Context, ownerURL string, s *store.Store, cat *drill.Catalogue, now time.Time, hash func(string) (string, error)) error {
	zone, err := time.LoadLocation(Zone)
	if err != nil {
		return fmt.Errorf("time zone: %w", err)
	}
	secret, err := hash(Password)
	if err != nil {
		return err
	}
	school := store.NewID()
	if err := store.AddSchool(ctx, ownerURL, school, SchoolName, Zone); err != nil {
		return err
	}
	var by []uuid.UUID
	err = s.InSchool(ctx, school, func(tx store.Tx) error {
		for _, a := range staff {
			a.ID, a.PasswordHash = store.NewID(), secret
			if a.Role != store.Spotter {
				by = append(by, a.ID)
			}
			if err := tx.AddAccount(ctx, a); err != nil {
				return err
			}
		}
		for _, c := range fleet {
			c.ID = store.NewID()
			if err := tx.AddCraft(ctx, c); err != nil {
				return err
			}
		}
		w := windAt(now.In(zone))
		return tx.AddWind(ctx, store.NewID(), by[0], now, store.Wind{Mps: w.mps, GustMps: &w.gust, FromDeg: &w.from})
	})
	if err != nil {
		return err
	}
	// One learner's weeks do not wait for another's; whoever calls starts anew
	// where one of them fails.
	days := fieldDays(now, zone)
	errs := make([]error, len(learners))
	var wg sync.WaitGroup
	for i := range learners {
		wg.Go(func() {
			t := training{learner: learners[i], cat: cat, zone: zone, by: by, seed: uint64(i + 1)}
			errs[i] = s.InSchool(ctx, school, func(tx store.Tx) error { return t.load(ctx, tx, days, i == 0, secret) })
		})
	}
	wg.Wait()
	return errors.Join(errs...)
}

// load makes the learner's weeks and keeps them; one learner has an account.
func (t *training) load(ctx context.Context, tx store.Tx, days []time.Time, account bool, secret string) error {
	t.student = store.Student{ID: store.NewID(), Name: t.name, Programme: t.programme, CraftType: t.craft, TrainsFor: t.trainsFor, StartedOn: days[t.from]}
	attempts, err := t.fly(days)
	if err != nil {
		return err
	}
	if err := tx.AddStudent(ctx, t.student); err != nil {
		return err
	}
	if account {
		err := tx.AddAccount(ctx, store.Account{ID: store.NewID(), Email: "nives@saline.example", Name: t.name, Role: store.Learner, StudentID: &t.student.ID, PasswordHash: secret})
		if err != nil {
			return err
		}
	}
	for _, a := range attempts {
		if err := keepMarks(ctx, tx, a); err != nil {
			return err
		}
	}
	if _, err := tx.Keep(ctx, t.student.ID, attempts...); err != nil {
		return err
	}
	return supervise(ctx, tx, t.student.ID, t.by[0], t.cat.Craft[t.craft].Class(), days[t.from], t.from != t.to)
}

// supervise lets a student be briefed on the first morning and, but for the one
// who is just starting, signed for supervised flight on the same day.
func supervise(ctx context.Context, tx store.Tx, student, by uuid.UUID, class craft.Class, morning time.Time, whole bool) error {
	acts := []string{"briefing", "cautions", "preflight-unprompted"}
	if !whole {
		acts = acts[:2]
	}
	for i, act := range acts {
		if err := tx.Witness(ctx, student, by, record.Witnessed{Act: act, At: morning.Add(time.Duration(i*5) * time.Minute).UTC(), By: staff[0].Name}); err != nil {
			return err
		}
	}
	if !whole {
		return nil
	}
	at := morning.Add(20 * time.Minute).UTC()
	return tx.SignOff(ctx, student, by, record.SignOff{Gate: "supervised", CraftClass: class, At: at, Until: at.AddDate(0, 0, 180), By: staff[0].Name})
}

// keepMarks keeps what the eye saw of an attempt, as the marking pad does.
func keepMarks(ctx context.Context, tx store.Tx, a store.NewAttempt) error {
	if a.Marks == nil {
		return nil
	}
	id, err := uuid.Parse(a.ID)
	if err != nil {
		return fmt.Errorf("attempt: %w", err)
	}
	_, err = tx.Open(ctx, store.Opening{ID: id, StudentID: a.StudentID, Drill: a.Drill.Key, Side: string(a.Side), Level: a.Level, Aids: string(a.Aids),
		CraftType: a.CraftType, Site: a.Site, OpenedBy: a.By, DeviceAt: a.At, DrillSource: string(a.Drill.Source)})
	if err != nil {
		return err
	}
	return tx.AddMarks(ctx, id, a.By, a.Marks)
}

// fieldDays lists the mornings of the last four weeks on which the school flew:
// three a week, the last of them yesterday.
func fieldDays(now time.Time, zone *time.Location) []time.Time {
	y, m, d := now.In(zone).Date()
	var days []time.Time
	for _, back := range []int{27, 25, 22, 20, 18, 15, 13, 11, 8, 6, 3, 1} {
		days = append(days, time.Date(y, m, d-back, 8, 30, 0, 0, zone))
	}
	return days
}

type air struct{ mps, gust, from float64 }

// windAt is the place's habit: a north-westerly, from behind a pilot who looks
// over the salt pans to the south-east, that rises after eleven.
func windAt(t time.Time) air {
	h := fnv.New64a()
	_, _ = h.Write([]byte(t.Format(time.DateOnly)))
	r := rand.New(rand.NewPCG(h.Sum64(), 3))
	base, hour := 1.6+1.6*r.Float64(), float64(t.Hour())+float64(t.Minute())/60
	rise := 3.2 / (1 + math.Exp(-(hour-11.5)*2))
	if hour > 18 || hour < 6 {
		rise = 0
	}
	mps := math.Round((base+rise)*10) / 10
	return air{mps, math.Round(mps*14) / 10, math.Round(170 + 25*r.NormFloat64())}
}

// training is one learner's way through the four weeks.
type training struct {
	learner
	student store.Student
	cat     *drill.Catalogue
	zone    *time.Location
	by      []uuid.UUID
	seed    uint64
	flown   []store.NewAttempt
	plain   []record.Attempt
	tries   map[drill.Cell]int
}

// fly flies the ladder: on each day the lowest cells that are not held, both
// sides in turn, and now and then one that is.
func (t *training) fly(days []time.Time) ([]store.NewAttempt, error) {
	t.tries = map[drill.Cell]int{}
	class := t.cat.Craft[t.craft].Class()
	r := rand.New(rand.NewPCG(t.seed, 77))
	for d := t.from; d <= t.to; d++ {
		at := days[d].Add(time.Duration(r.IntN(150)) * time.Minute)
		flights := 5 + r.IntN(4)
		if t.from == t.to {
			flights = 3
		}
		cells := t.today(at, class)
		for k := range flights {
			if len(cells) == 0 {
				break
			}
			c := cells[k%len(cells)]
			if err := t.attempt(c, class, at); err != nil {
				return nil, err
			}
			at = at.Add(time.Duration(4+r.IntN(9)) * time.Minute)
		}
	}
	return t.flown, nil
}

// today picks what is flown: the lowest three cells not held, else those that
// lapse soonest.
func (t *training) today(at time.Time, class craft.Class) []drill.Cell {
	e := readiness.Sort(t.plain, t.cat.Drills, at, t.zone)
	var open, soon []drill.Cell
	for _, c := range t.cat.Programmes[t.programme].Cells() {
		cell := e.Cell(readiness.Key{Cell: c, Class: class})
		switch {
		case cell.Standing != readiness.Held && len(open) < 3:
			open = append(open, c)
		case cell.Standing == readiness.Held && cell.CurrentUntil.Sub(at) < 10*24*time.Hour:
			soon = append(soon, c)
		}
	}
	if len(soon) > 2 {
		soon = soon[:2]
	}
	return append(open, soon...)
}

// hand is the learner's hand at a cell after so many tries, in a wind.
func (t *training) hand(c drill.Cell, d drill.Drill, class craft.Class, w air) Hand {
	share := t.best + (t.raw-t.best)*math.Exp(-float64(t.tries[c])/t.packs)
	if c.Side == field.RightSide && t.lean > 0 || c.Side == field.LeftSide && t.lean < 0 {
		share *= 1 + math.Abs(t.lean)
	}
	if d.Family == "yaw" {
		share *= 1 + t.turns
	}
	span := map[craft.Class]float64{craft.Micro: 0.5, craft.Light: 1, craft.Medium: 1.2, craft.Heavy: 1.8}[class]
	h := Hand{PlaceM: 0.65 * share * span, HeightM: 0.3 * share, Nose: field.Degrees(16 * share), SinkMps: 0.35 + 0.9*share}
	if c.Aids == craft.PositionHold {
		h.PlaceM *= 0.55
		h.HeightM *= 0.6
	} else {
		h.DriftMps = 0.12 * w.mps * share * span
	}
	if c.Aids == craft.SelfLevel || c.Aids == craft.Rate {
		h.HeightM *= 1.15
	}
	return h
}

func (t *training) attempt(c drill.Cell, class craft.Class, at time.Time) error {
	d := t.cat.Drills[c.Drill]
	task, err := d.Lay(c.Side, c.Level, class, nil)
	if err != nil {
		return err
	}
	n := uint64(len(t.flown))
	seed := t.seed*1000 + n
	w := windAt(at)
	flight := Fly(task, t.hand(c, d, class, w), seed)
	t.tries[c]++
	a := store.NewAttempt{StudentID: t.student.ID, CraftType: t.craft, Drill: d, By: t.by[n%uint64(len(t.by))], RecordedAt: at.Add(2 * time.Minute)}
	a.Attempt = record.Attempt{ID: idAt(at), At: at, Drill: d.Key, Side: c.Side, Aids: c.Aids, CraftClass: class, Level: c.Level,
		WindMps: &w.mps, GustMps: &w.gust, WindFromDeg: &w.from, Site: "hardstanding", Frame: "nose", Eyes: "craft"}
	if n%3 == 2 { // every third flight has a log
		var file bytes.Buffer
		if err := track.WriteCSV(&file, flight); err != nil {
			return err
		}
		a.Source, a.Track = score.FromLog, &store.TrackFile{File: file.Bytes()}
		if a.Result, err = score.Track(task, flight, score.FromLog); err != nil {
			return err
		}
	} else {
		a.Source, a.Marks = score.Observed, Watch(task, flight, seed)
		for i := range a.Marks {
			a.Marks[i].ID = store.NewID().String()
		}
		a.Result = score.Marks(task, a.Marks).Result
	}
	a.Verdict, a.Margin = a.Result.Verdict, a.Result.Margin
	a.Counts, a.WhyNot = d.Counts(a.Flown())
	t.flown = append(t.flown, a)
	t.plain = append(t.plain, a.Attempt)
	return nil
}

// idAt makes a UUIDv7 of a moment that is not now.
func idAt(at time.Time) string {
	id := store.NewID()
	ms := uint64(at.UnixMilli())
	for i := range 6 {
		id[i] = byte(ms >> (40 - 8*i))
	}
	return id.String()
}
