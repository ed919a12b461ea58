package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/air"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/marking"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/store"
)

// sentMarks is what the pad sends: the attempt that it opened, and every mark
// of it that the server has not confirmed. Sending the same again changes
// nothing and is answered the same.
type sentMarks struct {
	Opening struct {
		ID       uuid.UUID  `json:"id"`
		Drill    string     `json:"drill"`
		Side     field.Side `json:"side"`
		Level    int        `json:"level"`
		Aids     craft.Aids `json:"aids"`
		Craft    string     `json:"craft"`
		Course   string     `json:"course"` // empty = the drill's own template
		DeviceAt time.Time  `json:"device_at"`
	} `json:"opening"`
	Marks []score.Mark `json:"marks"`
	NowS  float64      `json:"now_s"`
	away  *fromAway    // of a pad that was without a network
}

// spotterMarks are the marks that a spotter may make.
var spotterMarks = map[string]bool{"in": true, "out": true, "call": true}

func (s *Server) postMarks(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	student, err := param(c, "student")
	if err != nil {
		s.failed(c, err)
		return
	}
	var in sentMarks
	body, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, 1<<20))
	if err == nil {
		err = json.Unmarshal(body, &in)
	}
	if err != nil {
		s.problem(c, http.StatusBadRequest, problem{What: "The marks could not be read: " + err.Error(), Do: "The pad keeps them; send them again."})
		return
	}
	if wrong := in.check(p.Role); wrong != "" {
		s.wrongInput(c, wrong, "Undo the mark and make it again.")
		return
	}
	var state marking.State
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		state, err = s.takeMarks(c, tx, student, in)
		return err
	})
	var wrong inputError
	switch {
	case errors.As(err, &wrong):
		s.wrongInput(c, string(wrong), "Choose the drill again.")
	case err != nil:
		s.failed(c, err)
	default:
		c.JSON(http.StatusOK, state)
	}
}

// inputError is a mistake in what was sent, in words.
type inputError string

func (e inputError) Error() string { return string(e) }

func (in *sentMarks) check(role string) string {
	if in.Opening.ID == uuid.Nil {
		return "The attempt has no id."
	}
	if len(in.Marks) > score.MaxMarks {
		return fmt.Sprintf("%d marks were sent; an attempt has %d at most.", len(in.Marks), score.MaxMarks)
	}
	for i, m := range in.Marks {
		if _, err := uuid.Parse(m.ID); err != nil {
			return fmt.Sprintf("Mark %d has no id that is a UUID.", i+1)
		}
		if err := m.Valid(); err != nil {
			return fmt.Sprintf("Mark %d: %v.", i+1, err)
		}
		if role == store.Spotter && !spotterMarks[m.Mark] {
			return fmt.Sprintf("A spotter marks in position, out and calls, and not %q.", m.Mark)
		}
	}
	return ""
}

// takeMarks keeps what was sent and says where the attempt stands; once it is
// done or void it becomes a row of the record.
func (s *Server) takeMarks(c *gin.Context, tx store.Tx, student uuid.UUID, in sentMarks) (marking.State, error) {
	ctx, p := c.Request.Context(), person(c)
	st, err := tx.Student(ctx, student)
	if err != nil {
		return marking.State{}, err
	}
	o, err := tx.Opening(ctx, in.Opening.ID)
	if errors.Is(err, store.ErrNotFound) && p.Role != store.Spotter {
		o, err = s.open(c, tx, st, in)
	}
	if err != nil {
		return marking.State{}, err
	}
	if o.StudentID != student {
		return marking.State{}, store.ErrNotFound
	}
	kept, err := tx.Exists(ctx, o.ID)
	if err != nil {
		return marking.State{}, err
	}
	if !kept { // an attempt that has ended takes no more marks
		if err := tx.AddMarks(ctx, o.ID, p.ID, in.Marks); err != nil {
			return marking.State{}, err
		}
	}
	return s.stateOf(c, tx, st, o, in.NowS)
}

// endIfOver ends an attempt that its marks have ended.
func (s *Server) endIfOver(c *gin.Context, tx store.Tx, o store.Opening, now float64) (marking.State, error) {
	st, err := tx.Student(c.Request.Context(), o.StudentID)
	if err != nil {
		return marking.State{}, err
	}
	return s.stateOf(c, tx, st, o, now)
}

// stateOf says where an attempt stands, and keeps it once it is over.
func (s *Server) stateOf(c *gin.Context, tx store.Tx, st store.Student, o store.Opening, now float64) (marking.State, error) {
	marks, err := tx.Marks(c.Request.Context(), o.ID)
	if err != nil {
		return marking.State{}, err
	}
	d, err := drill.Parse([]byte(o.DrillSource))
	if err != nil {
		return marking.State{}, fmt.Errorf("the drill as it was opened: %w", err)
	}
	class := s.cat.Craft[o.CraftType].Class()
	laid, err := laidFrom(o.CourseSource)
	if err != nil {
		return marking.State{}, err
	}
	task, err := d.Lay(field.Side(o.Side), o.Level, class, laid)
	if err != nil {
		return marking.State{}, fmt.Errorf("the drill as it was opened: %w", err)
	}
	state, res := marking.StateOf(task, marks, now)
	if !state.Ended {
		return state, nil
	}
	state.Verdict, err = s.endAttempt(c, tx, st, o, d, marks, res)
	return state, err
}

// open begins the attempt that the pad names.
func (s *Server) open(c *gin.Context, tx store.Tx, st store.Student, in sentMarks) (store.Opening, error) {
	p, want := person(c), in.Opening
	d, err := s.cat.Drill(want.Drill)
	if err != nil {
		return store.Opening{}, inputError("That drill is not known: " + err.Error() + ".")
	}
	if d.Closed != drill.Open {
		j, _, _, err := s.judgedFor(c, tx, st.ID)
		if err == nil {
			err = s.isOpen(c, tx, j, d)
		}
		if err != nil {
			return store.Opening{}, err
		}
	}
	t, ok := s.cat.Craft[want.Craft]
	if !ok || !t.Has(want.Aids) {
		return store.Opening{}, inputError(fmt.Sprintf("The craft %q with %q is not known.", want.Craft, want.Aids))
	}
	g, err := s.courseAt(c.Request.Context(), tx, want.Course)
	if errors.Is(err, store.ErrNotFound) {
		return store.Opening{}, inputError("The course of this attempt is not known.")
	}
	if err != nil {
		return store.Opening{}, err
	}
	if _, err := d.Lay(want.Side, want.Level, t.Class(), g.Laid); err != nil {
		return store.Opening{}, inputError(err.Error() + ".")
	}
	flight, err := tx.Aloft(c.Request.Context(), st.ID)
	if err != nil {
		return store.Opening{}, err
	}
	at := want.DeviceAt
	if now := s.now(); at.IsZero() || in.away == nil && at.After(now.Add(5*time.Minute)) {
		at = now // a clock that is ahead would make attempts of tomorrow
	}
	o := store.Opening{ID: want.ID, StudentID: st.ID, Drill: d.Key, Side: string(want.Side), Level: want.Level,
		Aids: string(want.Aids), CraftType: want.Craft, OpenedBy: p.ID, DeviceAt: at, DrillSource: string(d.Source), CourseSource: g.Source, Site: g.Site, FlightID: flight}
	if in.away != nil {
		before, after, err := tx.Neighbours(c.Request.Context(), in.away.device, in.away.seq)
		if err != nil {
			return store.Opening{}, err
		}
		in.away.sign(&o, s.now(), before, after)
	}
	return tx.Open(c.Request.Context(), o)
}

// endAttempt keeps the attempt, once, and says what it did to the standing.
func (s *Server) endAttempt(c *gin.Context, tx store.Tx, st store.Student, o store.Opening, d drill.Drill, marks []score.Mark, res *score.Result) (*marking.Verdict, error) {
	p := person(c)
	a := store.NewAttempt{StudentID: st.ID, CraftType: o.CraftType, Drill: d, By: o.OpenedBy, Marks: marks, Result: res, CourseSource: o.CourseSource}
	a.Attempt = record.Attempt{ID: o.ID.String(), At: o.At(), Drill: d.Key, Side: field.Side(o.Side), Aids: craft.Aids(o.Aids), Level: o.Level,
		CraftClass: s.cat.Craft[o.CraftType].Class(), Source: score.Observed, Verdict: res.Verdict, Margin: res.Margin, Frame: "nose", Eyes: "craft", Site: o.Site}
	if w := windNear(p, o.At()); w {
		a.WindMps, a.GustMps, a.WindFromDeg = p.WindMps, p.GustMps, p.WindFromDeg
	}
	a.Answering = score.Answering(marks)
	a.Counts, a.WhyNot = d.Counts(a.Flown())
	same, err := s.markedTwice(c, tx, o, marks, res)
	if err != nil {
		return nil, err
	}
	if same != nil {
		a.Counts, a.WhyNot = false, markedTwice
	}
	if o.DeviceID != nil { // it has said itself what it did to the standing
		if _, err := tx.Keep(c.Request.Context(), st.ID, a); err != nil {
			return nil, err
		}
		v := marking.VerdictOf(a.Attempt, res, d, readiness.Cell{}, readiness.Cell{})
		v.Standing = ""
		if same != nil {
			err = tx.AddConflict(c.Request.Context(), st.ID, *same, o.ID)
		}
		return &v, err
	}
	v, err := s.keepAndJudge(c, tx, st, d, a)
	if err == nil && same != nil {
		err = tx.AddConflict(c.Request.Context(), st.ID, *same, o.ID)
	}
	return v, err
}

// windNear tells whether the newest wind reading says something of a moment.
func windNear(p *store.Person, at time.Time) bool {
	return p.WindAt != nil && air.Near(at.Sub(*p.WindAt))
}

// keepAndJudge keeps an attempt and compares the standing before and after.
func (s *Server) keepAndJudge(c *gin.Context, tx store.Tx, st store.Student, d drill.Drill, a store.NewAttempt) (*marking.Verdict, error) {
	ctx, p := c.Request.Context(), person(c)
	if _, err := tx.Keep(ctx, st.ID, a); err != nil {
		return nil, err
	}
	now := s.now()
	if a.At.After(now) {
		now = a.At
	}
	before, after := readiness.NewEvidence(nil, now, zone(p)), readiness.NewEvidence(nil, now, zone(p))
	err := tx.Evidence(ctx, &st.ID, func(_ uuid.UUID, f *record.Attempt) {
		after.Add(f)
		if f.ID != a.ID {
			before.Add(f)
		}
	})
	if err != nil {
		return nil, err
	}
	k := readiness.Key{Cell: drill.Cell{Drill: d.Key, Side: a.Side, Aids: a.Aids, Level: a.Level}, Class: a.CraftClass}
	v := s.verdictOf(a, d, before.Cell(k), after.Cell(k))
	v.Advice, err = s.advice(ctx, tx, st.ID, zone(p))
	return &v, err
}

// advice is what the rules for a session say of a student now: stuck, tired, tense.
func (s *Server) advice(ctx context.Context, tx store.Tx, student uuid.UUID, loc *time.Location) (out []string, err error) {
	list, err := tx.Latest(ctx, student, 40)
	if err != nil {
		return nil, err
	}
	feels, err := tx.Feels(ctx, student, s.now().Add(-3*time.Hour))
	if err != nil {
		return nil, err
	}
	var flown []record.Attempt
	for _, f := range list {
		flown = append(flown, f.Attempt)
	}
	for _, a := range readiness.Advise(readiness.Session(flown, s.now(), loc), readiness.Feeling(feels), s.cat.Drills) {
		out = append(out, a.Words)
	}
	return out, nil
}
