package school

import (
	"errors"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"maestrale/core/school"
	"maestrale/core/units"
	"maestrale/internal/password"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// setupModel is what was typed into the first page of a new installation, and what was wrong with it.
type setupModel struct {
	Code, School, Zone, Name, Email string
	Length, Speed                   units.Unit
	Lengths, Speeds                 []units.Unit
	Wrong                           string
	Shortest                        int
}

func (m setupModel) page() frame.Page {
	m.Lengths, m.Speeds, m.Shortest = units.Of(units.Length), units.Of(units.Speed), password.Shortest
	if m.Length == "" {
		m.Length, m.Speed = units.Metre, units.MetrePerSec
	}
	return frame.Page{Title: msgSetUpSchool, Body: m}
}

// SetupPage is the first page of a new installation. Once there is a school it leads to the sign-in.
func (s Pages) SetupPage(c *gin.Context) {
	is, err := s.Store.Founded(c.Request.Context())
	if err != nil {
		s.Failed(c, err)
		return
	}
	if is {
		c.Redirect(http.StatusSeeOther, "/")
		return
	}
	s.Render(c, http.StatusOK, "setup", setupModel{Code: frame.Cut(c.Query("code"), 40)}.page())
}

// Setup makes the school and its chief instructor, and signs the chief in.
func (s Pages) Setup(c *gin.Context) {
	ctx := c.Request.Context()
	m := setupModel{Code: frame.Cut(c.PostForm("code"), 40), School: frame.CleanName(c.PostForm("school")),
		Zone: strings.TrimSpace(frame.Cut(c.PostForm("zone"), 60)), Name: frame.CleanName(c.PostForm("name")),
		Email: frame.Cut(c.PostForm("email"), 260), Length: units.Unit(c.PostForm("length")),
		Speed: units.Unit(c.PostForm("speed"))}
	again := func(status int, wrong string) {
		m.Wrong = wrong
		s.Render(c, status, "setup", m.page())
	}
	made, chief, err := m.read(c.PostForm("password"))
	if err != nil {
		again(http.StatusUnprocessableEntity, frame.Said(err))
		return
	}
	tries := s.TriesAt(c, "setup", "code")
	many, err := tries.TooMany(ctx)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if many {
		c.Header("Retry-After", "900")
		again(http.StatusTooManyRequests, msgTooManyWrongCodes)
		return
	}
	code := school.CodeHash(m.Code)
	// Looked at before the password is hashed, which takes long; it is looked at again when the school is made.
	is, err := s.Store.IsSetupCode(ctx, code)
	if err == nil && is {
		if chief.PasswordHash, err = password.HashInTurn(ctx, c.PostForm("password")); err == nil {
			err = s.Store.BeginSchool(ctx, code, made, chief)
		}
	} else if err == nil {
		err = store.ErrNoCode
		if founded, ferr := s.Store.Founded(ctx); ferr == nil && founded {
			err = store.ErrFounded
		}
	}
	switch {
	case errors.Is(err, store.ErrNoCode):
		again(http.StatusUnprocessableEntity,
			msgNotSetupCode)
	case errors.Is(err, store.ErrFounded):
		s.Problem(c, http.StatusConflict, frame.Problem{What: msgSomebodyElseSet,
			Do: msgAskThemInvitation})
	case err != nil:
		s.Failed(c, errors.Join(err, tries.Unlooked(ctx)))
	default:
		if err := tries.Right(ctx); err != nil {
			s.Log.ErrorContext(ctx, "setup", "error", err)
		}
		if _, err := s.Enter(c, made.ID, chief.ID, "password"); err != nil {
			s.Failed(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/start")
	}
}

// read checks what was typed; the error says the first thing that is wrong.
func (m *setupModel) read(word string) (made store.School, chief store.Account, err error) {
	email, emailErr := school.ReadEmail(m.Email)
	of := units.System{Length: m.Length, Speed: m.Speed}
	for _, e := range []error{school.CheckName("The school", m.School), school.CheckZone(m.Zone), of.Check(),
		school.CheckName(msgChiefInstructor, m.Name), emailErr, password.Accept(word)} {
		if e != nil {
			return made, chief, e
		}
	}
	made = store.School{ID: store.NewID(), Name: m.School, TimeZone: m.Zone, LengthUnit: of.Length, SpeedUnit: of.Speed}
	chief = store.Account{ID: store.NewID(), Name: m.Name, Email: email, Role: store.Chief}
	return made, chief, nil
}
