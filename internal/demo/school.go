// Package demo loads the sample school: invented people, a fleet, and four weeks
// that the pilot model flew in the simulator.
package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/record"
	"maestrale/internal/attempt"
	"maestrale/internal/demo/weeks"
	"maestrale/internal/store"
)

// The sample school.
const (
	SchoolName = msgScuolaDiVolo
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

// At is the moment as which the sample school is made.
type At struct {
	Now    time.Time
	Breeze time.Time  // whose time of day the wind is of
	Light  course.Lit // in which the school flies
}

// Load makes the sample school as it would stand at a moment. hash turns the password into what is kept of it.
func Load(ctx context.Context, ownerURL string, s *store.Store, cat *drill.Catalogue, at At,
	hash func(string) (string, error)) error {
	ctx, now := store.Patient(ctx), at.Now
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
		if by, err = addStaff(ctx, tx, secret, now); err != nil {
			return err
		}
		own := slices.Clone(fleet)
		for i := range own {
			own[i].ID = store.NewID()
			if err := tx.AddCraft(ctx, own[i]); err != nil {
				return err
			}
		}
		p := prepare{tx: tx, cat: cat, by: by, days: fieldDays(now, zone), now: now, r: rand.New(rand.NewPCG(22, 8))}
		if err := p.load(ctx, own); err != nil {
			return err
		}
		if err := fliesIn(ctx, tx, at.Light, now); err != nil {
			return err
		}
		local := at.Breeze.In(zone)
		w := weeks.WindOn(len(weeks.DaysBack), local.Hour()*60+local.Minute())
		return tx.AddWind(ctx, store.NewID(), by[0], now, store.Wind{Mps: w.Mps, GustMps: &w.Gust, FromDeg: &w.From})
	})
	if err != nil {
		return err
	}
	flown, err := flights()
	if err != nil {
		return err
	}
	// One learner's weeks do not wait for another's; whoever calls starts anew
	// where one of them fails.
	days := fieldDays(now, zone)
	errs := make([]error, len(weeks.Learners))
	var wg sync.WaitGroup
	for i, l := range weeks.Learners {
		wg.Go(func() {
			t := training{Learner: l, cat: cat, by: by, flown: flown[i]}
			errs[i] = s.InSchool(ctx, school, func(tx store.Tx) error { return t.load(ctx, tx, days, i == 0, secret) })
		})
	}
	wg.Wait()
	return errors.Join(errs...)
}

// LightFor is in which light the sample school flies: as it is asked, and else by the sun, or under floodlights where
// the sun is down over its site during the sample day's next hour.
func LightFor(asked course.Lit, now time.Time) course.Lit {
	if asked != "" {
		return asked
	}
	for _, at := range []time.Time{now, now.Add(time.Hour)} {
		if sun, err := course.SunAt(at, sites[0].Geo); err == nil && sun.Elevation < 0 {
			return course.LitDay
		}
	}
	return course.LitBySun
}

// fliesIn keeps in which light the school flies.
func fliesIn(ctx context.Context, tx store.Tx, light course.Lit, now time.Time) error {
	the, err := tx.TheSchool(ctx)
	if err != nil {
		return err
	}
	the.Light = light
	return tx.ChangeSchool(ctx, the, now)
}

// addStaff adds the school's people, and returns those who can mark.
func addStaff(ctx context.Context, tx store.Tx, secret string, now time.Time) (by []uuid.UUID, err error) {
	for _, a := range staff {
		a.ID, a.PasswordHash = store.NewID(), secret
		if a.Role != store.Spotter {
			by = append(by, a.ID)
		}
		if err := tx.AddAccount(ctx, a); err != nil {
			return nil, err
		}
		if a.Role == store.Instructor && len(by) == 2 { // one of the two may sign gates
			until := now.AddDate(0, 6, 0)
			if err := tx.MaySign(ctx, a.ID, &until); err != nil {
				return nil, err
			}
		}
	}
	return by, nil
}

// load makes the learner's weeks and keeps them; one learner has an account.
func (t *training) load(ctx context.Context, tx store.Tx, days []time.Time, account bool, secret string) error {
	t.student = store.Student{ID: store.NewID(), Name: t.Name, Programme: t.Programme, CraftType: t.Craft,
		TrainsFor: t.TrainsFor, StartedOn: days[t.From]}
	attempts, runs := t.attempts(days)
	t.student.Grip = []string{"thumb", "pinch", "thumb", ""}[len(t.Name)%4] // of invented people
	if err := tx.AddStudent(ctx, t.student); err != nil {
		return err
	}
	if account {
		err := tx.AddAccount(ctx, store.Account{ID: store.NewID(), Email: "nives@saline.example", Name: t.Name,
			Role: store.Learner, StudentID: &t.student.ID, PasswordHash: secret})
		if err != nil {
			return err
		}
	}
	for _, a := range attempts {
		if err := keepMarks(ctx, tx, a); err != nil {
			return err
		}
	}
	for _, r := range runs {
		if _, err := tx.AddRun(ctx, r); err != nil {
			return err
		}
	}
	if _, err := (attempt.Recorder{}).KeepAll(ctx, tx, t.student.ID, attempts...); err != nil {
		return err
	}
	if err := t.orientation(ctx, tx, days); err != nil {
		return err
	}
	if t.Gate != "" { // trained for a gate: the papers were seen
		if err := tx.Witness(ctx, t.student.ID, t.by[0], record.Witnessed{Act: "papers",
			At: days[t.From].Add(30 * time.Minute).UTC(), By: staff[0].Name}); err != nil {
			return err
		}
	}
	return supervise(ctx, tx, t.student.ID, t.by[0], t.cat.Craft[t.Craft].Class(), days[t.From], t.From != t.To)
}

// supervise lets a student be briefed on the first morning and, but for the one
// who is just starting, signed for supervised flight on the same day.
func supervise(ctx context.Context, tx store.Tx, student, by uuid.UUID, class craft.Class, morning time.Time,
	whole bool) error {
	acts := []string{"briefing", "cautions", "preflight-unprompted"}
	if !whole {
		acts = acts[:2]
	}
	for i, act := range acts {
		if err := tx.Witness(ctx, student, by, record.Witnessed{Act: act,
			At: morning.Add(time.Duration(i*5) * time.Minute).UTC(), By: staff[0].Name}); err != nil {
			return err
		}
	}
	if !whole {
		return nil
	}
	at := morning.Add(20 * time.Minute).UTC()
	return tx.SignOff(ctx, student, by, record.SignOff{Gate: "supervised", CraftClass: class, At: at, Until: at.AddDate(0,
		0, 180), By: staff[0].Name})
}

// keepMarks keeps what the eye saw of an attempt, as the marking pad does.
func keepMarks(ctx context.Context, tx store.Tx, a *attempt.Evidence) error {
	if a.Marks == nil {
		return nil
	}
	id, err := uuid.Parse(a.ID)
	if err != nil {
		return fmt.Errorf("attempt: %w", err)
	}
	_, err = tx.Open(ctx, store.Opening{ID: id, StudentID: a.Student, Drill: a.Drill.Key, Side: string(a.Side),
		Level: a.Level, Aids: string(a.Aids),
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
	for _, back := range weeks.DaysBack {
		days = append(days, time.Date(y, m, d-back, weeks.Dawn/60, weeks.Dawn%60, 0, 0, zone))
	}
	return days
}

// packed is the four weeks as make build packed them.
//
//go:embed packed
var packed embed.FS

// ErrNotPacked is a program that was built without the weeks of the sample school.
var ErrNotPacked = errors.New("the weeks of the sample school are not built in; run make build")

// flights reads what was flown in the four weeks, by learner.
func flights() ([][]weeks.Flight, error) {
	f, err := packed.Open("packed/school.zst")
	if err != nil {
		return nil, ErrNotPacked
	}
	defer func() { _ = f.Close() }()
	list, err := weeks.Read(f)
	if err != nil {
		return nil, fmt.Errorf("the sample school: %w", err)
	}
	out := make([][]weeks.Flight, len(weeks.Learners))
	for _, x := range list {
		if x.Learner >= 0 && x.Learner < len(out) {
			out[x.Learner] = append(out[x.Learner], x)
		}
	}
	return out, nil
}

// training is one learner's way through the four weeks.
type training struct {
	weeks.Learner
	student store.Student
	cat     *drill.Catalogue
	by      []uuid.UUID
	flown   []weeks.Flight
}

// attempts gives what was flown its dates.
func (t *training) attempts(days []time.Time) ([]*attempt.Evidence, []store.Run) {
	class := t.cat.Craft[t.Craft].Class()
	var out []*attempt.Evidence
	var runs []store.Run
	for _, f := range t.flown {
		at := days[f.Day].Add(time.Duration(f.Minute-weeks.Dawn) * time.Minute)
		d := t.cat.Drills[f.Drill]
		a := &attempt.Evidence{Attempt: f.Attempt(class), Student: t.student.ID, Drill: d, Result: f.Result,
			By: t.by[f.Day%len(t.by)], RecordedAt: at.Add(2 * time.Minute), Marks: f.Marks}
		a.ID, a.At, a.CraftType = idAt(at), at, t.Craft
		for i := range a.Marks {
			a.Marks[i].ID = store.NewID().String()
		}
		if len(f.Log) > 0 {
			a.Track = &store.TrackFile{File: f.Log}
		}
		if len(f.Run) > 0 {
			runs = append(runs, store.Run{ID: uuid.MustParse(a.ID), StudentID: t.student.ID, FlownAt: at, SentBy: a.By,
				Trace: f.Run, Claimed: f.Claimed, Reflown: f.Claimed})
		}
		out = append(out, a)
	}
	return out, runs
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
