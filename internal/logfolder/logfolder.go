// Package logfolder takes the logs of a field day in one go: it reads them as the school reads its logs, has them
// sorted into the day's flights, and makes attempts of what is certain or was answered.
package logfolder

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/daylogs"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/plan"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/internal/attempt"
	"maestrale/internal/fieldday"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
)

// Sorter sorts folders for one person.
type Sorter struct {
	Cat *drill.Catalogue // the school's
	Now func() time.Time
	By  *store.Person
}

// Folder is a folder with everything that is needed to say what is in it.
type Folder struct {
	Day   daylogs.Day
	Found *daylogs.Found // nil until it was sorted
	Kept  map[string]bool

	files   []store.FolderLog
	how     []store.Reading
	on      attempt.Course
	cat     *drill.Catalogue
	wind    map[string]*float64 // m/s as a flight began
	school  uuid.UUID
	already map[[32]byte]bool
}

// stored is what is kept of a folder between two requests.
type stored struct {
	Found *daylogs.Found  `json:"found"`
	Kept  map[string]bool `json:"kept"` // items that became attempts
}

// Open reads a folder.
func (s Sorter) Open(ctx context.Context, tx store.Tx, row store.LogFolder) (*Folder, error) {
	f := &Folder{cat: s.Cat, wind: map[string]*float64{}, school: s.By.SchoolID, Kept: map[string]bool{}}
	var err error
	if f.on, err = attempt.CourseAt(ctx, tx, "day"); err != nil {
		return nil, err
	}
	if err = s.readDay(ctx, tx, row.DayID, f); err != nil {
		return nil, err
	}
	if f.files, err = tx.FolderLogs(ctx, row.ID); err != nil {
		return nil, err
	}
	for _, file := range f.files {
		how, err := s.reading(ctx, tx, f, file.File)
		if err != nil {
			return nil, err
		}
		f.how = append(f.how, how)
	}
	if f.already, err = tx.KeptLogs(ctx, f.Day.Starts.AddDate(0, 0, -2)); err != nil {
		return nil, err
	}
	if row.Found != nil {
		was := stored{Kept: f.Kept}
		if err := json.Unmarshal([]byte(*row.Found), &was); err != nil {
			return nil, fmt.Errorf("read what was found: %w", err)
		}
		f.Found, f.Kept = was.Found, was.Kept
	}
	return f, nil
}

// reading is how a file of the school is read: on the course of the day, and with the columns that were named before.
func (s Sorter) reading(ctx context.Context, tx store.Tx, f *Folder, file []byte) (how store.Reading, err error) {
	if l := f.on.Laid; l != nil && l.Plane != nil {
		o := l.Plane.Origin()
		how.Origin, how.AwayDeg = &[3]float64{o.LatDeg, o.LonDeg, o.AltM}, l.Plane.AwayDeg()
	}
	if track.Sniff(file[:min(len(file), 4096)]) != track.CSV {
		return how, nil
	}
	names, _, _, err := track.Header(bytes.NewReader(file), 1)
	if err != nil {
		return how, nil //nolint:nilerr // what is wrong with the file is said where it is read
	}
	how.Rename, err = tx.ColumnMap(ctx, names)
	return how, err
}

// read reads a file; where it holds no time, it ended when the file was last written.
func (f *Folder) read(i int) (l daylogs.Log) {
	file := f.files[i]
	o, err := attempt.OptionsOf(f.how[i])
	if err != nil {
		return daylogs.Log{Name: file.Name, Wrong: err.Error()}
	}
	l = daylogs.Read(file.Name, file.File, o)
	if l.Track != nil && l.Track.Start.IsZero() && file.ChangedAt != nil {
		l.Track.Start = file.ChangedAt.Add(-time.Duration(l.Track.T[l.Track.Len()-1] * float64(time.Second)))
	}
	return l
}

// Sort tells what is in the folder.
func (f *Folder) Sort(ctx context.Context) (err error) {
	logs := make([]daylogs.Log, len(f.files))
	for i := range logs {
		if err := ctx.Err(); err != nil {
			return fmt.Errorf("read the logs: %w", err)
		}
		logs[i] = f.read(i)
		logs[i].Known = f.already[logs[i].Sum]
	}
	f.Found, err = daylogs.Sort(ctx, f.Day, logs, f.lay, nil)
	return err
}

// JSON is what is kept of a folder between two requests.
func (f *Folder) JSON() (string, error) {
	data, err := json.Marshal(stored{f.Found, f.Kept})
	if err != nil {
		return "", fmt.Errorf("keep what was found: %w", err)
	}
	return string(data), nil
}

// Answer answers what an item asks.
func (f *Folder) Answer(id, answer string) error {
	for k := range f.Found.Items {
		it := f.Found.Items[k]
		if it.ID != id || it.Answer != "" {
			continue
		}
		logs := make([]daylogs.Log, len(f.files)) // an answer is about one of them
		logs[it.Log] = f.read(it.Log)
		list, err := daylogs.Answer(f.Day, logs, f.lay, it, answer)
		if err != nil {
			return err
		}
		f.Found.Items = append(f.Found.Items[:k:k], append(list, f.Found.Items[k+1:]...)...)
		return nil
	}
	return store.ErrNotFound
}

// lay lays a drill out as it was flown on the day: on its course where the drill fits it.
func (f *Folder) lay(c drill.Cell, kind string) (drill.Task, error) {
	d, on, err := f.drill(c.Drill, kind)
	if err != nil {
		return drill.Task{}, err
	}
	return d.Lay(c.Side, c.Level, f.cat.Craft[kind].Class(), on.Laid) //nolint:wrapcheck // it says which drill
}

func (f *Folder) drill(key, kind string) (drill.Drill, attempt.Course, error) {
	d, err := f.cat.Drill(key)
	if err != nil {
		return d, attempt.Course{}, err //nolint:wrapcheck // it says which drill
	}
	on, _ := f.on.For(d, f.cat.Craft[kind].Class())
	return d, on, nil
}

// Keep makes attempts of everything that is certain or was answered, and returns how many are new. Where a mark is of
// the same attempt, one of the two stands: the one that was chosen, and the mark where both say the same.
func (f *Folder) Keep(ctx context.Context, tx store.Tx, r attempt.Recorder) (n int, err error) {
	for _, it := range f.Found.Items {
		if !it.Keeps() || f.Kept[it.ID] {
			continue
		}
		fresh, err := f.keepOne(ctx, tx, r, it)
		if err != nil {
			return n, err
		}
		if f.Kept[it.ID] = true; fresh {
			n++
		}
	}
	return n, nil
}

// AttemptID is that of the attempt that an item becomes: the same one however often its log is given.
func (f *Folder) AttemptID(it daylogs.Item) uuid.UUID {
	sum := sha256.Sum256(f.files[it.Log].File)
	return uuid.NewSHA1(f.school, fmt.Appendf(nil, "%s %.3f %s", hex.EncodeToString(sum[:]), it.FromS, it.Student))
}

func (f *Folder) keepOne(ctx context.Context, tx store.Tx, r attempt.Recorder, it daylogs.Item) (fresh bool,
	err error) {
	student, err := uuid.Parse(it.Student)
	if err != nil {
		return false, fmt.Errorf("the student of %s: %w", f.files[it.Log].Name, err)
	}
	d, on, err := f.drill(it.Cell.Drill, it.Craft)
	if err != nil {
		return false, err
	}
	how := f.how[it.Log]
	how.Part = &[2]float64{it.FromS - 0.01, it.ToS + 0.01}
	id := f.AttemptID(it)
	k, err := r.KeepLog(ctx, tx, attempt.Log{ID: id, Student: student, Drill: d, Cell: it.Cell,
		At:    it.At.Add(-time.Duration(it.FromS * float64(time.Second))),
		Craft: f.cat.Craft[it.Craft], Course: on, Result: it.Result, Wind: f.wind[it.Flight],
		Track: &store.TrackFile{File: f.files[it.Log].File, Reading: how}})
	if err != nil || !k.New || it.Mark == nil {
		return k.New, err
	}
	c, err := tx.ConflictOf(ctx, id)
	mark, perr := uuid.Parse(it.Mark.ID)
	if err != nil || perr != nil || c.FirstID != mark && c.SecondID != mark {
		return true, perr // another attempt of the same time: a person decides on Today
	}
	stands := mark
	if it.Answer == daylogs.TheLog {
		stands = id
	}
	return true, r.Settle(ctx, tx, c.ID, stands)
}

// readDay reads the flights and the marks of a field day.
func (s Sorter) readDay(ctx context.Context, tx store.Tx, day uuid.UUID, f *Folder) error {
	begun, err := tx.DayOfLogs(ctx, day)
	if err != nil {
		return err
	}
	// The board of that day, whatever today is.
	b, err := fieldday.Days{Cat: s.Cat, Now: func() time.Time { return begun.Starts }}.BoardOf(ctx, tx, s.By)
	if err != nil {
		return err
	}
	if b.Day.ID != day {
		return store.ErrElsewhere
	}
	f.Day.Starts, f.Day.Ends = b.Day.Starts.In(s.By.Zone()), b.Day.Ends.In(s.By.Zone())
	marks, err := tx.MarkedBetween(ctx, b.Day.Starts.Add(-12*time.Hour), b.Day.Ends.Add(12*time.Hour))
	if err != nil {
		return err
	}
	cells := map[uuid.UUID][]drill.Cell{}
	for _, m := range marks {
		k := daylogs.Mark{ID: m.ID.String(), Student: m.StudentID.String(), Craft: m.CraftType,
			Cell: drill.Cell{Drill: m.Drill, Side: field.Side(m.Side), Aids: craft.Aids(m.Aids), Level: m.Level},
			From: m.From, To: m.To, Verdict: score.Verdict(m.Verdict), By: m.By}
		f.Day.Marks = append(f.Day.Marks, k)
		cells[m.StudentID] = append(cells[m.StudentID], k.Cell)
	}
	likely := map[uuid.UUID][]drill.Cell{}
	for _, fl := range b.Flown {
		if fl.StudentID == nil || fl.Void != "" {
			continue
		}
		st, known := b.Students[*fl.StudentID]
		if !known {
			continue
		}
		if likely[st.ID] == nil {
			next, err := s.next(ctx, tx, st)
			if err != nil {
				return err
			}
			likely[st.ID] = append(cells[st.ID], next...)
		}
		to := b.Day.Ends // it was never noted as landed
		if now := s.Now(); now.Before(to) {
			to = now
		}
		if fl.EndedAt != nil {
			to = *fl.EndedAt
		}
		x := daylogs.Flight{ID: fl.ID.String(), Student: st.ID.String(), Name: st.Name, Craft: b.Craft[fl.CraftID].Type,
			Tail: b.Craft[fl.CraftID].Name, From: fl.BegunAt, To: to}
		x.Drills = withPlanned(fl, likely[st.ID])
		f.wind[x.ID] = fl.WindMps
		f.Day.Flights = append(f.Day.Flights, x)
	}
	return nil
}

// withPlanned puts the drill that a flight was begun for before the others that are likely.
func withPlanned(fl store.FlownFlight, likely []drill.Cell) (out []drill.Cell) {
	if fl.Drill != "" {
		c := drill.Cell{Drill: fl.Drill, Side: field.Side(fl.Side), Aids: craft.Aids(fl.Aids), Level: 1}
		if c.Side == "" {
			c.Side = field.NoSide
		}
		for _, l := range likely { // a flight does not say its level; the student's list does
			if l.Drill == c.Drill && l.Side == c.Side && l.Aids == c.Aids {
				c.Level = l.Level
				break
			}
		}
		out = append(out, c)
	}
	return append(out, likely...)
}

// next is the student's list, as cells.
func (s Sorter) next(ctx context.Context, tx store.Tx, st store.Student) ([]drill.Cell, error) {
	book := knowledge.Book{Cat: s.Cat, Now: s.Now, Zone: s.By.Zone()}
	k, err := book.Of(ctx, tx, st.ID)
	if err != nil {
		return nil, err
	}
	var l plan.LessonPlan
	if l, err = book.WhatNext(ctx, tx, k, knowledge.Unknown); err != nil {
		return nil, err
	}
	return l.Flights(len(l.Blocks)), nil
}

// Agreements compares the instructors of a school with the logs of the attempts that both saw. Names are by the
// account's id.
func Agreements(ctx context.Context, tx store.Tx) (list []daylogs.Agreement, names map[string]string, err error) {
	rows, err := tx.JudgedByBoth(ctx)
	if err != nil {
		return nil, nil, err
	}
	names = map[string]string{}
	pairs := make([]daylogs.Pair, 0, len(rows))
	for _, r := range rows {
		var res score.Result
		if err := json.Unmarshal([]byte(r.Found), &res); err != nil {
			return nil, nil, fmt.Errorf("read a result: %w", err)
		}
		names[r.By.String()] = r.Name
		pairs = append(pairs, daylogs.Pair{By: r.By.String(), Drill: r.Drill, Eye: score.Verdict(r.Eye),
			Log: score.Verdict(r.Log), SlackM: daylogs.Slack(&res)})
	}
	return daylogs.Agreements(pairs), names, nil
}
