package attempt

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/marking"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// Sent is what a pad sends: the attempt that it opened, and every mark of it that the server has not confirmed.
// Sending the same again changes nothing and is answered the same.
type Sent struct {
	Opening Opening      `json:"opening"`
	Marks   []score.Mark `json:"marks"`
	NowS    float64      `json:"now_s"`
	From    *From        `json:"from"` // the device that it was marked on
	Away    *Away        `json:"-"`    // the same, as the server makes it out
}

// Opening is the attempt that a pad opened.
type Opening struct {
	ID       uuid.UUID  `json:"id"`
	Drill    string     `json:"drill"`
	Side     field.Side `json:"side"`
	Level    int        `json:"level"`
	Aids     craft.Aids `json:"aids"`
	Craft    string     `json:"craft"`
	Course   string     `json:"course"` // empty = the drill's own
	DeviceAt time.Time  `json:"device_at"`
}

// From is what a device notes beside an attempt: its place in the device's own order, and the clocks by which the
// moment of its beginning is told.
type From struct {
	SignIn    *uuid.UUID        `json:"sign_in,omitempty"` // for a pad that seals nothing: the sign-in that opened it
	Device    uuid.UUID         `json:"device"`
	Name      string            `json:"name"`
	Seq       int64             `json:"seq"`
	Stretch   string            `json:"stretch"`
	MonoMs    float64           `json:"mono_ms"`
	Stretches []marking.Stretch `json:"stretches"`
}

// maxStretches is the largest number of stretches that is read: a page notes one each time its clock is set.
const maxStretches = 500

// away makes out on which device an attempt was marked, and when.
func (f *From) away() *Away {
	a := &Away{Device: f.Device, Name: f.Name, Seq: f.Seq}
	if m, ok := marking.DateOf(f.Stretches, f.Stretch, f.MonoMs); ok {
		a.Dated = &m
	}
	return a
}

// Away is on which device an attempt was marked offline, and how the device's clock stands.
type Away struct {
	Device uuid.UUID
	Name   string
	Seq    int64           // the device's own counter
	Off    time.Duration   // of the server's clock from the device's
	Dated  *marking.Moment // by what the device noted of its clocks; nil for a device that notes nothing
}

// Check finds what is wrong with what was sent, in a sentence; it is empty if nothing is.
func (in *Sent) Check(role string) string {
	if in.Opening.ID == uuid.Nil {
		return msgAttemptNoId
	}
	if in.From != nil {
		if in.From.Device == uuid.Nil || len(in.From.Stretches) > maxStretches {
			return msgDeviceNoId
		}
		in.Away = in.From.away()
	}
	if in.Away != nil && in.Away.Seq < 1 {
		return fmt.Sprintf(msgDeviceCounterExpected, in.Away.Seq)
	}
	if len(in.Marks) > score.MaxMarks {
		return fmt.Sprintf(msgMarksSentAttempt, len(in.Marks), score.MaxMarks)
	}
	for i, m := range in.Marks {
		if _, err := uuid.Parse(m.ID); err != nil {
			return fmt.Sprintf(msgMarkNoId, i+1)
		}
		if err := m.Valid(); err != nil {
			return fmt.Sprintf("Mark %d: %v.", i+1, err)
		}
		if role == store.Spotter && !marking.SpotterMay(m.Mark) {
			return fmt.Sprintf(msgSpotterMarksPosition, m.Mark)
		}
	}
	return ""
}

// TakeMarks keeps the marks that were sent and says where the attempt stands. Once the attempt is over, it is stored
// with its marks. A spotter cannot open an attempt, only add to one.
func (r Recorder) TakeMarks(ctx context.Context, tx store.Tx, student uuid.UUID, in Sent) (marking.State, error) {
	st, err := tx.Student(ctx, student)
	if err != nil {
		return marking.State{}, err
	}
	// Under the student's lock a mark comes before the end of its attempt or after it, and nothing between.
	if err := tx.Lock(ctx, student); err != nil {
		return marking.State{}, err
	}
	if f := in.From; f != nil && f.SignIn != nil && (r.SignIn == nil || *f.SignIn != *r.SignIn) {
		return marking.State{}, refusal.Error(msgTheseMarksMade)
	}
	o, err := tx.Opening(ctx, in.Opening.ID)
	if errors.Is(err, store.ErrNotFound) && r.By.Role != store.Spotter {
		o, err = r.open(ctx, tx, st, in)
	}
	if err != nil {
		return marking.State{}, err
	}
	if o.StudentID != student {
		return marking.State{}, store.ErrNotFound
	}
	late := []string{}
	kept, err := tx.Exists(ctx, o.ID)
	if err == nil && !kept {
		if err = tx.AddMarks(ctx, o.ID, r.By.ID, in.Marks); err == nil {
			last := 0.0
			for _, m := range in.Marks {
				last = max(last, m.TS)
			}
			err = r.merge(ctx, tx, o, o.At().Add(time.Duration(last*float64(time.Second))))
		}
	}
	if err != nil {
		return marking.State{}, err
	}
	if kept { // an attempt that has ended takes no more marks
		if late, err = tx.Unknown(ctx, o.ID, in.Marks); err != nil {
			return marking.State{}, err
		}
	}
	state, err := r.EndIfOver(ctx, tx, o, in.NowS)
	state.Late = late
	return state, err
}

// open begins the attempt that the pad names.
func (r Recorder) open(ctx context.Context, tx store.Tx, st store.Student, in Sent) (store.Opening, error) {
	want := in.Opening
	d, err := r.Cat.Drill(want.Drill)
	if err != nil {
		return store.Opening{}, refusal.Error(fmt.Sprintf(msgThatDrillNotKnown, err.Error()))
	}
	closed, err := r.closed(ctx, tx, st.ID, d)
	if err != nil {
		return store.Opening{}, err
	}
	if closed != "" {
		return store.Opening{}, refusal.Error(closed)
	}
	t, ok := r.Cat.Craft[want.Craft]
	if !ok || !t.Has(want.Aids) {
		return store.Opening{}, refusal.Error(fmt.Sprintf(msgCraftNotKnown, want.Craft, want.Aids))
	}
	g, err := CourseAt(ctx, tx, want.Course)
	if errors.Is(err, store.ErrNotFound) {
		return store.Opening{}, refusal.Error(msgCourseAttemptNot)
	}
	if err != nil {
		return store.Opening{}, err
	}
	if _, err := d.Lay(want.Side, want.Level, t.Class(), g.Laid); err != nil {
		return store.Opening{}, refusal.Error(err.Error() + ".")
	}
	flight, err := tx.Aloft(ctx, st.ID)
	if err != nil {
		return store.Opening{}, err
	}
	at := want.DeviceAt
	if now := r.Now(); at.IsZero() || in.Away == nil && at.After(now.Add(5*time.Minute)) {
		at = now // a clock that is ahead would make attempts of tomorrow
	}
	o := store.Opening{ID: want.ID, StudentID: st.ID, Drill: d.Key, Side: string(want.Side), Level: want.Level,
		Aids: string(want.Aids), CraftType: want.Craft, OpenedBy: r.By.ID, DeviceAt: at, DrillSource: string(d.Source),
		CourseSource: g.Source, Site: g.Site, FlightID: flight}
	o.SignIn = r.SignIn
	if in.Away != nil {
		if err := r.date(ctx, tx, &o, in.Away); err != nil {
			return store.Opening{}, err
		}
	}
	return tx.Open(ctx, o)
}

// date says when an attempt of a device began. What the device's own clocks say for certain stands; otherwise the order
// of its counter under this sign-in has a say.
func (r Recorder) date(ctx context.Context, tx store.Tx, o *store.Opening, a *Away) error {
	if err := tx.Seen(ctx, a.Device, r.By.ID, a.Name); err != nil {
		return err
	}
	o.DeviceID, o.DeviceSeq = &a.Device, &a.Seq
	if a.Dated != nil && a.Dated.Known {
		at, sure := a.Dated.At, a.Dated.Sure.Seconds()
		if now := r.Now(); at.After(now) {
			at = now
		}
		o.BeganAt, o.SureS = &at, &sure
		return nil
	}
	var before, after *time.Time
	if r.SignIn != nil {
		var err error
		if before, after, err = tx.Neighbours(ctx, a.Device, *r.SignIn, a.Seq); err != nil {
			return err
		}
	}
	off, at := a.Off, o.DeviceAt
	if a.Dated != nil {
		off, at = 0, a.Dated.At
	}
	began := marking.Began(at, off, r.Now(), before, after)
	o.BeganAt = &began
	return nil
}

// closed says why a drill is closed to a student; it is empty for an open one.
func (r Recorder) closed(ctx context.Context, tx store.Tx, student uuid.UUID, d drill.Drill) (string, error) {
	if d.Closed == drill.Open {
		return "", nil
	}
	b := r.book()
	st, err := b.Of(ctx, tx, student)
	if err == nil {
		err = b.IsOpen(ctx, tx, st, d)
	}
	if why, ok := refusal.Of(err); ok {
		return why, nil
	}
	return "", err
}

// EndIfOver says where an opened attempt stands at nowS seconds, and stores it if its marks have ended it.
func (r Recorder) EndIfOver(ctx context.Context, tx store.Tx, o store.Opening, nowS float64) (marking.State, error) {
	marks, err := tx.Marks(ctx, o.ID)
	if err != nil {
		return marking.State{}, err
	}
	d, err := drill.Parse([]byte(o.DrillSource))
	if err != nil {
		return marking.State{}, fmt.Errorf("the drill as it was opened: %w", err)
	}
	laid, err := Laid(o.CourseSource)
	if err != nil {
		return marking.State{}, err
	}
	task, err := d.Lay(field.Side(o.Side), o.Level, r.Cat.Craft[o.CraftType].Class(), laid)
	if err != nil {
		return marking.State{}, fmt.Errorf("the drill as it was opened: %w", err)
	}
	state, res := marking.StateOf(task, marks, nowS)
	if !state.Ended {
		return state, nil
	}
	kept, err := r.endMarked(ctx, tx, o, d, marks, res)
	state.Verdict = &kept.Verdict
	return state, err
}

// endMarked stores an attempt that its marks have ended.
func (r Recorder) endMarked(
	ctx context.Context, tx store.Tx, o store.Opening, d drill.Drill, marks []score.Mark, res *score.Result,
) (Kept, error) {
	e := Evidence{Student: o.StudentID, Drill: d, By: o.OpenedBy, Marks: marks, Result: res, Course: o.CourseSource,
		Device: o.DeviceID, Silent: o.DeviceID != nil} // a device has said itself what the attempt did to the standing
	e.Attempt = record.Attempt{ID: o.ID.String(), At: o.At(), Drill: d.Key, Side: field.Side(o.Side),
		Aids: craft.Aids(o.Aids), Level: o.Level, CraftClass: r.Cat.Craft[o.CraftType].Class(), CraftType: o.CraftType,
		Source: score.Observed, Verdict: res.Verdict, Margin: res.Margin, Frame: "nose", Eyes: "craft", Site: o.Site,
		Answering: score.Answering(marks), Watched: score.Onlookers(marks)}
	r.windAt(&e.Attempt, o.At())
	for _, m := range marks {
		e.UntilS = max(e.UntilS, m.TS)
	}
	return r.Keep(ctx, tx, e)
}
