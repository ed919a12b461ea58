package students

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"time"

	"github.com/boombuler/barcode/qr"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/units"
	"maestrale/internal/draw"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// SignOff signs a gate as the rules of signing have it.
func (s Pages) SignOff(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "student")
	if err != nil {
		s.Failed(c, err)
		return
	}
	key := c.PostForm("gate")
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		// Of two who sign at once the second finds what the first has signed.
		if err := tx.Lock(ctx, id); err != nil {
			return err
		}
		j, err := s.Students().Of(c.Request.Context(), tx, id)
		if err != nil {
			return err
		}
		g, known := s.Cat.Gates[key]
		if !known {
			return refusal.Error(msgGateNotKnown)
		}
		ask := readiness.SigningAsk{At: s.Now().UTC().Truncate(time.Microsecond), Against: c.PostForm("against") == "yes",
			Reason: frame.CleanName(c.PostForm("reason")), Until: c.PostForm("until")}
		if ask.Conditions, err = s.conditions(c); err != nil {
			return err
		}
		r := j.Gate(g)
		sign, err := r.SignOff(p.Signer(), ask, p.Zone())
		if err != nil {
			return refused(err)
		}
		return tx.SignOff(ctx, id, p.ID, sign)
	})
	s.BackTo(c, "/students/"+id.String()+"/gates/"+key, err)
}

// refused turns a refusal of the rules into a mistake in what was sent.
func refused(err error) error {
	var no readiness.Refusal
	if errors.As(err, &no) {
		return refusal.Error(string(no))
	}
	return err
}

func (s Pages) conditions(c *gin.Context) (k record.Conditions, err error) {
	wind, err := frame.FormMeasure(c, "wind", units.Speed, 0, 40)
	if err != nil {
		return k, refusal.Error(fmt.Sprintf(msgWindCouldNot, err.Error()))
	}
	if wind != nil {
		k.WindMps = *wind
	}
	for _, site := range c.PostFormArray("site") {
		if site = frame.CleanName(site); site != "" {
			k.Sites = append(k.Sites, site)
		}
	}
	for _, t := range c.PostFormArray("craft") {
		if _, known := s.Cat.Craft[t]; known {
			k.Craft = append(k.Craft, t)
		}
	}
	return k, nil
}

// signedOne reads the sign-off of the address, with its student.
func (s Pages) signedOne(c *gin.Context, tx store.Tx) (student, id uuid.UUID, sign record.SignOff, err error) {
	if id, err = frame.Param(c, "signoff"); err != nil {
		return student, id, sign, err
	}
	if student, err = tx.SignOffOf(c.Request.Context(), id); err == nil {
		err = frame.OwnOnly(frame.Person(c), student)
	}
	if err != nil {
		return student, id, sign, err
	}
	_, signs, err := tx.Decisions(c.Request.Context(), student)
	if err != nil {
		return student, id, sign, err
	}
	i := slices.IndexFunc(signs, func(x record.SignOff) bool { return x.ID == id.String() })
	if i < 0 {
		return student, id, sign, store.ErrNotFound
	}
	return student, id, signs[i], nil
}

// NoteSignOff withdraws a sign-off, confirms that its cautions were read, makes a card or
// revokes one.
func (s Pages) NoteSignOff(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	at := s.Now().UTC().Truncate(time.Microsecond)
	do, back := c.PostForm("do"), ""
	var address string
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		student, id, sign, err := s.signedOne(c, tx)
		if err != nil {
			return err
		}
		back = "/students/" + student.String() + "/gates/" + sign.Gate
		if sign.WithdrawnAt(at) && do != "revoke" {
			return refusal.Error(msgSignOffWithdrawn)
		}
		address, err = s.noteOne(c, tx, noting{student, id, sign, do, at})
		return err
	})
	if err == nil && address != "" {
		s.cardPage(c, address)
		return
	}
	s.BackTo(c, back, err)
}

// noting is what is to be noted about a sign-off.
type noting struct {
	student, id uuid.UUID
	sign        record.SignOff
	do          string
	at          time.Time
}

// noteOne notes one thing about a sign-off, and returns the address of a card that was made.
func (s Pages) noteOne(c *gin.Context, tx store.Tx, n noting) (address string, err error) {
	ctx, p := c.Request.Context(), frame.Person(c)
	teaches := p.Role == store.Chief || p.Role == store.Instructor
	event := store.SignOffEvent{SignOff: n.id.String(), At: n.at, By: p.Name}
	switch event.Reason = frame.CleanName(c.PostForm("reason")); n.do {
	case "withdraw":
		if !teaches {
			return "", refusal.Error(msgOnlyInstructorWithdraws)
		}
		if len([]rune(event.Reason)) < 5 {
			return "", refusal.Error(msgSaySentenceWhy)
		}
		return "", tx.NoteSignOff(ctx, n.student, n.id, p.ID, "withdrawn", event)
	case "read", "witness":
		return "", s.confirm(c, tx, n, event)
	case "card":
		if n.sign.Read == nil {
			return "", refusal.Error(msgNoCardBefore)
		}
		return tx.NewCard(ctx, n.student, n.id, p.ID)
	case "revoke":
		return "", errors.Join(tx.RevokeCards(ctx, n.id), tx.Did(ctx, p.ID, &n.student, msgRevokedCardSign))
	}
	return "", refusal.Error(msgCannotDoneSign)
}

// confirm keeps that the student has read the cautions: from the own account, or, where there is none, on the
// instructor's device with the instructor as witness.
func (s Pages) confirm(c *gin.Context, tx store.Tx, n noting, event store.SignOffEvent) error {
	ctx, p := c.Request.Context(), frame.Person(c)
	if n.do == "read" && p.Role != store.Learner {
		return refusal.Error(msgStudentConfirmsHaving)
	}
	if n.do == "witness" && p.Role != store.Chief && p.Role != store.Instructor {
		return refusal.Error(msgOnlyInstructorWitness)
	}
	if c.PostForm("cautions") != "read" {
		return refusal.Error(msgTickYouRead)
	}
	if n.sign.Read != nil {
		return nil
	}
	event.Reason = ""
	if n.do == "read" {
		return tx.NoteSignOff(ctx, n.student, n.id, p.ID, "read", event)
	}
	if has, err := tx.HasAccount(ctx, n.student); err != nil {
		return err
	} else if has {
		return refusal.Error(msgStudentAccountConfirms)
	}
	st, err := tx.Student(ctx, n.student)
	if err != nil {
		return err
	}
	left := readiness.Confirmation{Typed: frame.CleanName(c.PostForm("typed")), Strokes: c.PostForm("strokes")}
	if left.Strokes == "" && c.PostForm("undrawn") != "yes" {
		return refusal.Error(msgNoSignatureStudent)
	}
	if err := left.Check(st.Name); err != nil {
		return refused(err)
	}
	return tx.ConfirmOnDevice(ctx, n.student, n.id, p.ID, event, left)
}

// cardModel is a sign-off as the card and the public page show it.
type cardModel struct {
	School, Student, Gate, Meaning, Class string
	Sign                                  signRow
	State, Word, Says                     string
	Stands                                bool
	Types                                 []string
	Now                                   string
	Address                               string
	QR                                    template.HTML
	Back                                  string
}

// checked is a sign-off as it stands now.
func (s Pages) checked(c *gin.Context, tx store.Tx, school string, loc *time.Location, id uuid.UUID) (m cardModel,
	err error) {
	ctx := c.Request.Context()
	student, err := tx.SignOffOf(ctx, id)
	if err != nil {
		return m, err
	}
	st, err := tx.Student(ctx, student)
	if err != nil {
		return m, err
	}
	e := readiness.NewEvidence(nil, s.Now(), loc)
	if err = tx.Evidence(ctx, []uuid.UUID{student}, func(_ uuid.UUID, a *record.Attempt) { e.Add(a) }); err != nil {
		return m, err
	}
	seen, signs, err := tx.Decisions(ctx, student)
	if err != nil {
		return m, err
	}
	i := slices.IndexFunc(signs, func(x record.SignOff) bool { return x.ID == id.String() })
	if i < 0 {
		return m, store.ErrNotFound
	}
	g := s.Cat.Gates[signs[i].Gate]
	on := readiness.On{Class: signs[i].CraftClass}
	if t := s.Cat.Craft[st.CraftType]; t.Class() == on.Class {
		on.Type, on.Has = t.Key, t.Aids
	}
	r := readiness.JudgeGate(g, on, e, seen, signs)
	if then, err := tx.NameAt(ctx, signs[i].At); err != nil {
		return m, err
	} else if then != school {
		school = then + " (now " + school + ")"
	}
	m = cardModel{School: school, Student: st.Name, Gate: g.Title, Meaning: g.Meaning, Class: string(signs[i].CraftClass),
		Sign: s.signRowOf(signs[i], loc,
			s.Now()), State: string(r.State), Word: frame.GateWords[r.State], Says: asSentence(r.Why()),
		Now: s.Now().In(loc).Format("Monday 2 January 2006, 15:04"), Back: "/students/" + student.String() + "/gates/" +
			g.Key}
	m.Stands = r.State == readiness.GateSigned && r.Sign != nil && r.Sign.ID == signs[i].ID && r.Sign.Read != nil
	switch {
	case m.Stands:
		m.Word = "Stands today"
	case r.State == readiness.GateSigned && r.Sign.ID == signs[i].ID:
		m.Word, m.Says = msgNotForce, msgStudentNotConfirmed
	default:
		m.Word = msgDoesNotStand
	}
	for _, key := range s.Cat.Craft.Keys() {
		t := s.Cat.Craft[key]
		if t.Class() != on.Class || len(signs[i].Conditions.Craft) > 0 && !slices.Contains(signs[i].Conditions.Craft, key) {
			continue
		}
		of := readiness.JudgeGate(g, readiness.OnCraft(t), e, seen, signs)
		if of.NotFor == "" && len(of.NewType()) == 0 {
			m.Types = append(m.Types, t.Title)
		}
	}
	return m, nil
}

// cardPage shows the card that was just made; its address is shown this once.
func (s Pages) cardPage(c *gin.Context, address string) {
	p := frame.Person(c)
	id, err := frame.Param(c, "signoff")
	var m cardModel
	if err == nil {
		err = s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
			m, err = s.checked(c, tx, p.School, p.Zone(), id)
			return err
		})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	m.Address = s.Frame.Address("/check/" + address)
	code, err := qr.Encode(m.Address, qr.M, qr.Auto)
	if err != nil {
		s.Failed(c, fmt.Errorf("draw the card's code: %w", err))
		return
	}
	m.QR = draw.Squares(code, msgCodeOpensCheck)
	s.Render(c, http.StatusOK, "card", frame.Page{Title: "Card of " + m.Student, Place: "Students", Body: m})
}

// CheckCard shows everybody who has a card's address how that one sign-off stands.
func (s Pages) CheckCard(c *gin.Context) {
	ctx := c.Request.Context()
	c.Header("X-Robots-Tag", "noindex")
	c.Header("Referrer-Policy", "no-referrer")
	address := c.Param("address")
	card, err := s.Store.CardOf(ctx, address)
	if errors.Is(err, store.ErrNotFound) {
		s.Problem(c, http.StatusNotFound, frame.Problem{What: msgCardShowsNothing,
			Kept: msgRevokedOrNever, Do: msgAskSchoolNamed})
		return
	}
	loc, zerr := time.LoadLocation(card.TimeZone)
	if zerr != nil {
		loc = time.UTC
	}
	var m cardModel
	if err == nil {
		own, cerr := s, error(nil)
		if own.Cat, cerr = s.Catalogues.Newest(ctx, card.SchoolID); cerr != nil {
			s.Failed(c, cerr)
			return
		}
		err = s.Store.InSchool(ctx, card.SchoolID, func(tx store.Tx) error {
			m, err = own.checked(c, tx, card.School, loc, card.SignOffID)
			return err
		})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, http.StatusOK, "check-card", frame.Page{Title: fmt.Sprintf(msgSignOff, m.Student), Body: m})
}
