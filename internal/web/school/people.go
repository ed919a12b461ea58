package school

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strings"
	"time"

	"github.com/boombuler/barcode/qr"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/school"
	"maestrale/internal/draw"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

type peopleModel struct {
	Members []memberRow
	Closed  []memberRow
	Links   []linkRow
	Without []frame.InviteStudent // students who have no account
	Form    frame.InviteForm
}

type memberRow struct {
	store.Member
	Seen  string
	Signs string
	Self  bool
	Roles []school.Role // that it may be given
	Says  string        // what the role does
}

type linkRow struct {
	store.SentLink
	State school.LinkState
	Until string
	Made  string
}

const dayForm = "2 Jan 2006"

// PeoplePage lists the accounts of the school, the students without one, and the links that were handed out.
func (s Pages) PeoplePage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var m peopleModel
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := tx.Members(ctx)
		if err != nil {
			return err
		}
		has := map[uuid.UUID]bool{}
		for _, a := range list {
			if a.StudentID != nil && a.ClosedAt == nil {
				has[*a.StudentID] = true
			}
			row := s.memberRow(p, a)
			if a.ClosedAt != nil {
				m.Closed = append(m.Closed, row)
			} else {
				m.Members = append(m.Members, row)
			}
		}
		links, err := tx.Links(ctx, 40)
		if err != nil {
			return err
		}
		for _, l := range links {
			m.Links = append(m.Links, linkRow{l, l.State(s.Now()), l.EndsAt.In(p.Zone()).Format("2 Jan 15:04"),
				l.MadeAt.In(p.Zone()).Format("2 Jan 15:04")})
		}
		students, err := tx.Students(ctx)
		for _, st := range students {
			if !has[st.ID] {
				m.Without = append(m.Without, frame.InviteStudent{ID: st.ID.String(), Name: st.Name})
			}
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	m.Form = frame.InviteForm{Back: "/people", Students: m.Without}
	s.Render(c, http.StatusOK, "people", frame.Page{Title: "People", Place: "School", Body: m})
}

func (s Pages) memberRow(p *store.Person, a store.Member) memberRow {
	row := memberRow{Member: a, Self: a.ID == p.ID, Says: school.Role(a.Role).Words()}
	if a.SeenAt != nil {
		row.Seen = a.SeenAt.In(p.Zone()).Format("2 Jan 15:04")
	}
	if a.SignsUntil != nil && s.Now().Before(*a.SignsUntil) {
		row.Signs = a.SignsUntil.In(p.Zone()).Format(dayForm)
	}
	if a.StudentID == nil {
		row.Roles = []school.Role{school.Chief, school.Instructor, school.Spotter}
	}
	return row
}

// Invite makes a link by which one person comes into the school, and shows it this once.
func (s Pages) Invite(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	l := store.NewLink{Kind: store.Invitation, Role: c.PostForm("role"), Name: frame.CleanName(c.PostForm("name")),
		MadeBy: &p.ID}
	var err error
	if text := c.PostForm("email"); strings.TrimSpace(text) != "" {
		l.Email, err = school.ReadEmail(text)
	}
	student, idErr := frame.FormID(c, "student")
	l.StudentID = student
	if student != nil {
		l.Role = store.Learner
	}
	switch {
	case err == nil && idErr != nil:
		err = idErr
	case err == nil && !school.Role(l.Role).Known():
		err = refusal.Error(msgChooseWhatPerson)
	case err == nil && l.Role == store.Learner && student == nil:
		err = refusal.Error(msgChooseWhoseRecord)
	}
	if err != nil {
		s.WrongInput(c, frame.Said(err), msgGoBackPutRight)
		return
	}
	var address string
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if student != nil {
			st, err := tx.Student(ctx, *student)
			if err != nil {
				return err
			}
			if l.Name == "" {
				l.Name = st.Name
			}
			if err := s.noAccount(c, tx, *student); err != nil {
				return err
			}
		}
		if address, err = tx.AddLink(ctx, l, s.Now()); err != nil {
			return err
		}
		return tx.Did(ctx, p.ID, student, "invited "+orWords(l.Name, "somebody")+" as "+l.Role)
	})
	s.showLink(c, err, linkShown{Kind: l.Kind, Role: l.Role, Name: l.Name, Email: l.Email, Back: c.PostForm("back")},
		address)
}

// noAccount refuses a second account for a student.
func (s Pages) noAccount(c *gin.Context, tx store.Tx, student uuid.UUID) error {
	list, err := tx.Members(c.Request.Context())
	for _, a := range list {
		if a.StudentID != nil && *a.StudentID == student && a.ClosedAt == nil {
			return refusal.Error(fmt.Sprintf(msgStudentAccountAlready, a.Email))
		}
	}
	return err
}

func orWords(text, other string) string {
	if text == "" {
		return other
	}
	return text
}

// linkShown is a link on the page that shows it this once.
type linkShown struct {
	Kind, Role, Name, Email, Back string
	Address                       string
	Until                         string
	QR                            template.HTML
}

// showLink shows a link that was made, or answers what was wrong.
func (s Pages) showLink(c *gin.Context, err error, m linkShown, address string) {
	var wrong refusal.Error
	if errors.As(err, &wrong) {
		s.WrongInput(c, string(wrong), msgGoBackChooseSomebody)
		return
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	m.Address = s.Frame.Address("/join/" + address)
	m.Until = s.Now().AddDate(0, 0, school.LinkDays).In(frame.Person(c).Zone()).Format("Monday 2 January, 15:04")
	if m.Back != "/start" {
		m.Back = "/people"
	}
	code, err := qr.Encode(m.Address, qr.M, qr.Auto)
	if err != nil {
		s.Failed(c, err)
		return
	}
	m.QR = draw.Squares(code, msgCodeOpensLink)
	s.Render(c, http.StatusOK, "link", frame.Page{Title: msgLinkHandOver, Place: "School", Body: m})
}

// RevokeLink takes a link back.
func (s Pages) RevokeLink(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	_, ok := s.About(c, "link", func(tx store.Tx, id uuid.UUID) error {
		return errors.Join(tx.RevokeLink(ctx, id, s.Now()), tx.Did(ctx, p.ID, nil, msgTookLinkBack))
	})
	if ok {
		c.Redirect(http.StatusSeeOther, "/people#links")
	}
}

// ChangeMember changes a role, closes or reopens an account, or makes a link for a new password.
func (s Pages) ChangeMember(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "account")
	if err != nil {
		s.Failed(c, err)
		return
	}
	var address string
	var m store.Member
	do := c.PostForm("do")
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if m, err = tx.OneMember(ctx, id); err != nil {
			return err
		}
		to, said := m.As(), ""
		switch do {
		case "role":
			to.Role, said = school.Role(c.PostForm("role")), "made "+m.Name+" "+frame.Cut(c.PostForm("role"), 20)
		case "close":
			to.Closed, said = true, fmt.Sprintf(msgClosedAccount, m.Name)
		case "open":
			to.Closed, said = false, fmt.Sprintf(msgReopenedAccount, m.Name)
		case "link":
			if m.ClosedAt != nil {
				return refusal.Error(msgAccountClosedReopen)
			}
			address, err = tx.AddLink(ctx, store.NewLink{Kind: store.PasswordLink, AccountID: &id, MadeBy: &p.ID}, s.Now())
			return errors.Join(err, tx.Did(ctx, p.ID, m.StudentID, fmt.Sprintf(msgMadeLinkNew, m.Name)))
		default:
			return refusal.Error(msgCannotDoneAccount)
		}
		if err := tx.ChangeMember(ctx, id, to, s.Now()); err != nil {
			return err
		}
		return tx.Did(ctx, p.ID, m.StudentID, said)
	})
	var no school.Refusal
	switch {
	case errors.As(err, &no):
		s.WrongInput(c, string(no), msgGoBackList)
	case do == "link":
		s.showLink(c, err, linkShown{Kind: store.PasswordLink, Name: m.Name, Email: m.Email}, address)
	case err != nil:
		s.BackTo(c, "/people", err)
	default:
		c.Redirect(http.StatusSeeOther, "/people")
	}
}

// rightsEnd is the day that the form for the right to sign proposes.
func rightsEnd(now time.Time) string { return now.AddDate(1, 0, 0).Format(time.DateOnly) }
