package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/marking"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/store"
)

// padShell is the marking pad as a device keeps it: the page without anybody's data,
// which it takes from the day on the device.
func (s *Server) padShell(c *gin.Context) {
	allowWasm(c)
	c.Header("Cache-Control", "no-cache")
	s.render(c, http.StatusOK, "padaway", page{Title: "Marking pad", Body: nil})
}

// padDay is the day on a device: the students who fly today, or all of a school that has
// no field day on.
func (s *Server) padDay(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	out := marking.Bundle{Format: marking.Format, School: p.School, TimeZone: p.TimeZone, By: p.Name, Made: s.now(), Until: s.sessions.Deadline(ctx), Files: map[string]string{}, Students: []marking.StudentOf{}}
	if w := s.windNow(p); w != nil && w.Fresh {
		out.WindMps, out.WindFrom = p.WindMps, p.From()
	}
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		files, err := tx.Files(ctx)
		if err != nil {
			return err
		}
		for _, f := range files {
			if f.Source != "" {
				out.Files[fileName(f.Format, f.Key)] = f.Source
			}
		}
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		out.HandOn = set.HandCatch
		g, err := s.courseAt(ctx, tx, "day")
		if err != nil {
			return err
		}
		out.Course = marking.CourseOf{Key: g.Key, Name: g.Name, Source: g.Source}
		b, err := s.boardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		return s.studentsOnDevice(ctx, tx, b, &out)
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	c.JSON(http.StatusOK, out)
}

// callsAway is how many of a student's newest calls go onto a device.
const callsAway = 60

func (s *Server) studentsOnDevice(ctx context.Context, tx store.Tx, b *board, out *marking.Bundle) error {
	today := map[uuid.UUID]bool{}
	for _, x := range b.source.People {
		today[x.Student] = true
	}
	for id, st := range b.students {
		if b.is() && !today[id] {
			continue
		}
		x := marking.StudentOf{ID: id.String(), Name: st.Name, Programme: st.Programme, Craft: st.CraftType, Evidence: []marking.Evidence{}}
		if err := tx.Evidence(ctx, &id, func(_ uuid.UUID, a *record.Attempt) { x.Evidence = append(x.Evidence, marking.EvidenceOf(a)) }); err != nil {
			return err
		}
		calls, err := tx.Calls(ctx, id, st.CraftType, callsAway)
		if err != nil {
			return err
		}
		x.Calls = store.OrientCalls(calls)
		out.Students = append(out.Students, x)
	}
	slices.SortFunc(out.Students, func(a, b marking.StudentOf) int {
		if a.Name != b.Name {
			if a.Name < b.Name {
				return -1
			}
			return 1
		}
		return 0
	})
	return nil
}

// fromAway is which device an attempt was marked on, and how its clock stands.
type fromAway struct {
	device uuid.UUID
	seq    int64
	off    time.Duration // of the server's clock from the device's
}

// sign notes the device on an opening, and when it began; the device's own time is kept
// beside it as it was.
func (a *fromAway) sign(o *store.Opening, now time.Time, before, after *time.Time) {
	at := marking.Began(o.DeviceAt, a.off, now, before, after)
	o.DeviceID, o.DeviceSeq, o.BeganAt = &a.device, &a.seq, &at
}

// syncItem is an attempt as a device has it.
type syncItem struct {
	Seq     int64           `json:"seq"`
	Opening marking.Opening `json:"opening"`
	Marks   []score.Mark    `json:"marks"`
	NowS    float64         `json:"now_s"`
}

// syncAnswer is what became of it.
type syncAnswer struct {
	ID    string         `json:"id"`
	State *marking.State `json:"state,omitempty"`
	Kept  []string       `json:"kept"` // the marks that the server has
	Error string         `json:"error,omitempty"`
	Do    string         `json:"do,omitempty"`
}

// most that one sync carries.
const (
	maxSync      = 16 << 20
	maxSyncItems = 2000
)

// padSync takes what a device has marked without a network, in the device's own order.
// Each attempt is a transaction of its own: what has been answered for is kept, whatever
// happens to the rest, and what is sent again changes nothing.
func (s *Server) padSync(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var in struct {
		Device    uuid.UUID  `json:"device"`
		Name      string     `json:"name"`
		DeviceNow time.Time  `json:"device_now"`
		Items     []syncItem `json:"items"`
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxSync)
	if err := c.ShouldBindJSON(&in); err != nil || in.Device == uuid.Nil || in.DeviceNow.IsZero() || len(in.Items) > maxSyncItems {
		s.problem(c, http.StatusBadRequest, problem{What: "What the device sent could not be read.", Kept: "The device keeps it.", Do: "Reload the pad and send it again."})
		return
	}
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.Seen(ctx, in.Device, p.ID, cleanName(in.Name)) })
	if errors.Is(err, store.ErrCut) {
		s.cutOff(c)
		return
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	s.sessions.Put(ctx, deviceKey, in.Device.String())
	off := s.now().Sub(in.DeviceNow)
	slices.SortStableFunc(in.Items, func(a, b syncItem) int { return int(a.Seq - b.Seq) })
	out := []syncAnswer{}
	for i := range in.Items {
		out = append(out, s.syncOne(c, &in.Items[i], fromAway{in.Device, in.Items[i].Seq, off}))
	}
	c.JSON(http.StatusOK, gin.H{"items": out, "clock_off_s": off.Seconds()})
}

// cutOff ends the session of a device that was cut off.
func (s *Server) cutOff(c *gin.Context) {
	_ = s.sessions.Destroy(c.Request.Context())
	c.JSON(http.StatusForbidden, gin.H{"error": "This device was cut off by the chief instructor.", "cut": true})
}

// syncOne takes one attempt of a device.
func (s *Server) syncOne(c *gin.Context, it *syncItem, away fromAway) syncAnswer {
	ctx, p := c.Request.Context(), person(c)
	ans := syncAnswer{ID: it.Opening.ID, Kept: []string{}}
	in := sentMarks{Marks: it.Marks, NowS: it.NowS, away: &away}
	o := &in.Opening
	var err error
	if o.ID, err = uuid.Parse(it.Opening.ID); err != nil {
		ans.Error = "The attempt has no id that is a UUID."
		return ans
	}
	student, err := uuid.Parse(it.Opening.Student)
	if err != nil {
		ans.Error = "The attempt is of nobody."
		return ans
	}
	o.Drill, o.Side, o.Level, o.Aids, o.Craft, o.Course, o.DeviceAt = it.Opening.Drill, it.Opening.Side, it.Opening.Level, it.Opening.Aids, it.Opening.Craft, it.Opening.Course, it.Opening.DeviceAt
	if wrong := in.check(p.Role); wrong != "" {
		ans.Error = wrong
		return ans
	}
	var state marking.State
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		state, err = s.takeMarks(c, tx, student, in)
		return err
	})
	var wrong inputError
	switch {
	case errors.As(err, &wrong):
		ans.Error = string(wrong)
	case errors.Is(err, store.ErrNotFound):
		ans.Error, ans.Do = "The student is not in this school.", "Show this pad to the chief instructor."
	case err != nil:
		s.log.ErrorContext(ctx, "sync", "error", err)
		ans.Error, ans.Do = "It could not be kept just now.", "It stays here and is sent again."
	default:
		ans.State = &state
		for _, m := range it.Marks {
			ans.Kept = append(ans.Kept, m.ID)
		}
	}
	return ans
}

// markedTwice is why an attempt does not count whose time somebody else marked as well.
const markedTwice = "somebody else marked the same flight; a person decides which stands"

// markedTwice finds the attempt of the same student and time that somebody else, or
// another device, has marked.
func (s *Server) markedTwice(c *gin.Context, tx store.Tx, o store.Opening, marks []score.Mark, res *score.Result) (*uuid.UUID, error) {
	if res.Verdict == score.Void {
		return nil, nil //nolint:nilnil // a void stands in nobody's way
	}
	last := 0.0
	for _, m := range marks {
		last = max(last, m.TS)
	}
	return tx.Overlapping(c.Request.Context(), o, last)
}

// settle decides which of two attempts of the same time stands; the other becomes void.
func (s *Server) settle(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	id, err := param(c, "conflict")
	stands, ferr := formID(c, "stands")
	if err != nil || ferr != nil || stands == nil {
		s.failed(c, store.ErrNotFound)
		return
	}
	s.toBoard(c, s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		k, err := tx.OneConflict(ctx, id)
		if err != nil {
			return err
		}
		other := k.FirstID
		if *stands == k.FirstID {
			other = k.SecondID
		} else if *stands != k.SecondID {
			return store.ErrNotFound
		}
		if err := s.correct(ctx, tx, p, other, func(a *store.NewAttempt) {
			a.Result.Verdict, a.Result.VoidReason, a.Result.Margin = score.Void, "marked twice; the other one stands", nil
			a.Verdict, a.Margin = score.Void, nil
		}); err != nil {
			return err
		}
		if *stands == k.SecondID { // it did not count while nobody had decided
			if err := s.correct(ctx, tx, p, *stands, func(a *store.NewAttempt) { a.Counts, a.WhyNot = a.Drill.Counts(a.Flown()) }); err != nil {
				return err
			}
		}
		return tx.Settle(ctx, id, *stands, p.ID)
	}))
}

// correct keeps a correction of an attempt.
func (s *Server) correct(ctx context.Context, tx store.Tx, p *store.Person, id uuid.UUID, change func(*store.NewAttempt)) error {
	k, err := tx.Attempt(ctx, id)
	if err != nil {
		return err
	}
	d, err := drill.Parse(k.DrillSource)
	if err != nil {
		return fmt.Errorf("the drill as it was flown: %w", err)
	}
	fix := store.NewAttempt{Attempt: k.Attempt, StudentID: k.StudentID, CraftType: k.CraftType, Drill: d, By: p.ID, CourseSource: k.CourseSource}
	res := k.Result
	fix.Result = &res
	fix.ID, fix.Corrects = store.NewID().String(), k.ID
	change(&fix)
	_, err = tx.Keep(ctx, k.StudentID, fix)
	return err
}

// conflictRow is two attempts of the same time, as the board shows them.
type conflictRow struct {
	ID, Student string
	Sides       []conflictSide
}

type conflictSide struct{ ID, By, At, What, Verdict string }

func (s *Server) conflictRows(ctx context.Context, tx store.Tx, loc *time.Location) (out []conflictRow, err error) {
	list, err := tx.Conflicts(ctx)
	if err != nil {
		return nil, err
	}
	for _, k := range list {
		row := conflictRow{ID: k.ID.String(), Student: k.Student}
		for _, id := range []uuid.UUID{k.FirstID, k.SecondID} {
			a, err := tx.Attempt(ctx, id)
			if err != nil {
				return nil, err
			}
			row.Sides = append(row.Sides, conflictSide{id.String(), a.By, a.At.In(loc).Format("15:04:05"), s.cellWords(drill.Cell{Drill: a.Drill, Side: field.Side(a.Side), Aids: craft.Aids(a.Aids)}), string(a.Verdict)})
		}
		out = append(out, row)
	}
	return out, nil
}

// deviceKey is the device of a session.
const deviceKey = "device"

// deviceRow is a device as the chief sees it.
type deviceRow struct{ ID, Name, By, Last, Cut string }

// cutDevice cuts a lost device off: nothing more is taken from it, and its sign-in ends.
func (s *Server) cutDevice(c *gin.Context) {
	p := person(c)
	_, ok := s.about(c, "device", func(tx store.Tx, id uuid.UUID) error { return tx.CutOff(c.Request.Context(), id, p.ID) })
	if ok {
		c.Redirect(http.StatusSeeOther, "/today")
	}
}
