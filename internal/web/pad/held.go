package pad

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/field"
	"maestrale/internal/attempt"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// heldModel is what waits for a person's decision.
type heldModel struct {
	Rows  []heldRow
	Dates []datedRow // for a chief
	Chief bool
	Wrong string
}

type heldRow struct {
	ID      uuid.UUID
	What    string // "an attempt", "a run in the simulator"
	By      string
	Mine    bool // the person who looks made it
	Arrived string
	Student string
	Title   string
	At      string
	Verdict string
	Marks   int
	Why     string // why it cannot be kept as it is
}

// datedRow is an attempt whose date may be wrong.
type datedRow struct {
	ID                            uuid.UUID
	Who, Title, Stored, Said, Why string
}

// datesWhy says how it is known that a date may be wrong.
var datesWhy = map[string]string{
	"counter": msgEarlierVersionNumbered,
	"guess":   msgDeviceClockSet,
}

// heldKinds say what an envelope holds.
var heldKinds = map[string]string{"attempt": "An attempt", "run": msgRunSimulator,
	"note": msgNoteAttempt,
	"call": msgCallNose, "voice": "A voice note", "sighting": msgWhatSpotterSaw,
	found: msgFoundDevice}

// errLook ends a transaction that only looked.
var errLook = errors.New("only looked")

// mayDecide is whose decision it is: that of the person whose sign-in made it, or of a chief instructor.
func mayDecide(p *store.Person, h *store.Held) bool {
	return p.Role == store.Chief || p.ID == h.Account
}

// HeldPage lists what waits for a decision.
func (s Pages) HeldPage(c *gin.Context) { s.heldPage(c, http.StatusOK, "") }

func (s Pages) heldPage(c *gin.Context, status int, wrong string) {
	ctx, p := c.Request.Context(), frame.Person(c)
	of := &p.ID
	if p.Role == store.Chief {
		of = nil
	}
	m := heldModel{Chief: p.Role == store.Chief, Wrong: wrong}
	var list []store.Held
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		list, err = tx.HeldFor(ctx, of)
		return err
	})
	if err == nil && m.Chief {
		m.Dates, err = s.dates(c)
	}
	for i := range list {
		if err == nil {
			var row heldRow
			row, err = s.heldRow(c, &list[i])
			m.Rows = append(m.Rows, row)
		}
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, status, "held", frame.Page{Title: msgWaitingDecision, Place: "Today", Body: m})
}

// dates lists attempts whose date may be wrong.
func (s Pages) dates(c *gin.Context) (out []datedRow, err error) {
	p := frame.Person(c)
	err = s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
		list, err := tx.Misdated(c.Request.Context())
		for _, x := range list {
			const say = "2 Jan 2006 15:04:05"
			out = append(out, datedRow{x.ID, x.Name, s.Cat.TitleOf(x.Drill, field.Side(x.Side)), x.At.In(p.Zone()).Format(say),
				x.DeviceAt.In(p.Zone()).Format(say), datesWhy[x.Why]})
		}
		return err
	})
	return out, err
}

// DecideDate keeps the stored date of an attempt, or corrects it to what the device said.
func (s Pages) DecideDate(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	if _, ok := s.About(c, "attempt", func(tx store.Tx, id uuid.UUID) error {
		o, err := tx.Opening(ctx, id)
		if err == nil && c.PostForm("do") == "device" {
			err = s.Attempts().Redate(ctx, tx, id, o.DeviceAt)
		}
		if err != nil {
			return err
		}
		return tx.LookedAt(ctx, id, p.ID)
	}); ok {
		c.Redirect(http.StatusSeeOther, "/held")
	}
}

// heldRow says what was delivered; an attempt is judged as it would be kept.
func (s Pages) heldRow(c *gin.Context, h *store.Held) (heldRow, error) {
	p := frame.Person(c)
	row := heldRow{ID: h.ID, What: heldKinds[h.Kind], By: h.By, Mine: h.Account == p.ID,
		Arrived: h.Delivered.In(p.Zone()).Format("2 Jan 15:04")}
	if row.What == "" {
		row.What = "Something"
	}
	var d frame.Delivery
	if err := json.Unmarshal(h.Body, &d); err != nil {
		return row, fmt.Errorf("read what was held: %w", err)
	}
	student := studentOf(d.Path)
	if student == uuid.Nil {
		return row, nil
	}
	ctx := c.Request.Context()
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		st, err := tx.Student(ctx, student)
		if err != nil {
			return err
		}
		row.Student = st.Name
		var in attempt.Sent
		if h.Kind != "attempt" && h.Kind != found || json.Unmarshal([]byte(d.Body), &in) != nil {
			return nil
		}
		row.Marks, row.Title = len(in.Marks), s.Cat.TitleOf(in.Opening.Drill, in.Opening.Side)
		if row.Why = in.Check(store.Instructor); row.Why != "" {
			return nil
		}
		state, err := s.Attempts().TakeMarks(ctx, tx, student, in)
		if why, ok := refusal.Of(err); ok {
			row.Why = why
			return nil
		}
		if err != nil {
			return err
		}
		o, err := tx.Opening(ctx, in.Opening.ID)
		if err != nil {
			return err
		}
		row.At, row.Verdict = o.At().In(p.Zone()).Format("2 Jan 15:04"), "not ended"
		if state.Verdict != nil {
			row.Verdict = strings.TrimSpace(state.Verdict.Sign + " " + state.Verdict.Verdict + " " +
				strings.Replace(state.Verdict.Margin, "-", "−", 1))
		}
		return errLook
	})
	if errors.Is(err, errLook) {
		err = nil
	}
	if errors.Is(err, store.ErrNotFound) {
		row.Why, err = msgStudentNotSchoolAny, nil
	}
	return row, err
}

// studentOf is the student whom an address names; the zero id for none.
func studentOf(path string) uuid.UUID {
	if rest, ok := strings.CutPrefix(path, "/students/"); ok {
		id, _, _ := strings.Cut(rest, "/")
		if u, err := uuid.Parse(id); err == nil {
			return u
		}
	}
	return uuid.Nil
}

// DecideHeld keeps what was held in the name of who made it, or throws it away.
func (s Pages) DecideHeld(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var h store.Held
	_, ok := s.About(c, "held", func(tx store.Tx, id uuid.UUID) (err error) {
		if h, err = tx.OneHeld(ctx, id); err == nil && !mayDecide(p, &h) {
			err = store.ErrNotFound
		}
		return err
	})
	if !ok {
		return
	}
	keeps, reason := c.PostForm("do") == "keep", frame.CleanName(c.PostForm("reason"))
	switch {
	case keeps:
		if why := s.keepHeld(c, &h); why != "" {
			s.heldPage(c, http.StatusConflict, why)
			return
		}
	case reason == "":
		s.heldPage(c, http.StatusUnprocessableEntity, msgNothingThrownAway)
		return
	}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.DecideHeld(ctx, h, p.ID, keeps, reason)
	})
	if err != nil && !errors.Is(err, store.ErrElsewhere) {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/held")
}

// keepHeld does what was held as if its maker had sent it. It says why that cannot be; empty where it was done.
func (s Pages) keepHeld(c *gin.Context, h *store.Held) string {
	ctx := c.Request.Context()
	by, err := s.Store.ByAccount(ctx, h.Account)
	if errors.Is(err, store.ErrNotFound) {
		return fmt.Sprintf(msgAccountClosedOpen, h.By)
	}
	var d frame.Delivery
	if err == nil {
		err = json.Unmarshal(h.Body, &d)
	}
	if err != nil {
		s.Log.ErrorContext(ctx, "held", "error", err)
		return msgCouldNotKeptJust
	}
	ans := sealedAnswer{}
	ans.Status, ans.Said = s.Deliver(ctx, &by, h.SignIn, d)
	if ans.settle(); ans.Taken {
		return ""
	}
	return fmt.Sprintf(msgStillWaitsHere, ans.Error)
}
