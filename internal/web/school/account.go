package school

import (
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/units"
	"maestrale/internal/password"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// accountModel is a person's own account.
type accountModel struct {
	Email, Role     string
	Has             bool // a password
	Own             bool // units of their own
	Length, Speed   units.Unit
	Lengths, Speeds []units.Unit
	SignIns         []signInRow
	Keys            []keyRow
	Shortest        int
	Said            string
}

type signInRow struct {
	store.SignIn
	Here        bool
	Began, Seen string
}

type keyRow struct {
	store.Passkey
	Made, Used string
}

// AccountPage shows a person's own account: password, passkeys, units, and where they are signed in.
func (s Pages) AccountPage(c *gin.Context) { s.account(c, http.StatusOK, "") }

func (s Pages) account(c *gin.Context, status int, said string) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := accountModel{Email: p.Email, Role: p.Role, Length: p.LengthUnit, Speed: p.SpeedUnit,
		Lengths: units.Of(units.Length), Speeds: units.Of(units.Speed), Shortest: password.Shortest, Said: said}
	here := s.Here(c)
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		me, err := tx.OneMember(ctx, p.ID)
		if err != nil {
			return err
		}
		m.Has = me.HasWord
		if m.Own, err = tx.HasOwnUnits(ctx, p.ID); err != nil {
			return err
		}
		list, err := tx.SignIns(ctx, p.ID, s.Now().Add(-frame.WorkingDay))
		if err != nil {
			return err
		}
		for _, i := range list {
			m.SignIns = append(m.SignIns, signInRow{i, here != nil && *here == i.ID,
				i.BegunAt.In(p.Zone()).Format("Mon 2 Jan 15:04"), i.SeenAt.In(p.Zone()).Format("Mon 2 Jan 15:04")})
		}
		keys, err := tx.Passkeys(ctx, p.ID)
		for _, k := range keys {
			row := keyRow{Passkey: k, Made: k.MadeAt.In(p.Zone()).Format(dayForm)}
			if k.UsedAt != nil {
				row.Used = k.UsedAt.In(p.Zone()).Format("Mon 2 Jan 15:04")
			}
			m.Keys = append(m.Keys, row)
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, status, "account", frame.Page{Title: "Your account", Script: "passkey.js", Body: m})
}

// ChangePassword changes the own password; every other sign-in of the account ends.
func (s Pages) ChangePassword(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	if err := password.Accept(c.PostForm("new")); err != nil {
		s.WrongInput(c, fmt.Sprintf(msgPasswordNotChangedAs, err.Error()), msgGoBackChoose)
		return
	}
	tries := s.TriesAt(c, "change", p.Email)
	many, err := tries.TooMany(ctx)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if many {
		s.Problem(c, http.StatusTooManyRequests, frame.Problem{What: msgTooManyWrong,
			Do: msgWaitQuarterHour})
		return
	}
	var kept string
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		kept, err = tx.PasswordHash(ctx, p.ID)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	if ok, cerr := password.CheckInTurn(ctx, c.PostForm("old"), kept, true); cerr != nil || !ok {
		s.WrongInput(c, msgPasswordNotChanged, msgGoBackType)
		return
	}
	err = tries.Right(ctx)
	var hash string
	if err == nil {
		hash, err = password.HashInTurn(ctx, c.PostForm("new"))
	}
	if err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			if err := tx.SetPassword(ctx, p.ID, hash, s.Here(c)); err != nil {
				return err
			}
			return tx.Did(ctx, p.ID, nil, msgChangedOwnPassword)
		})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.account(c, http.StatusOK, msgPasswordChangedEverywhere)
}

// ChooseUnits keeps the own units, or goes by the school's again.
func (s Pages) ChooseUnits(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var of *units.System
	if c.PostForm("do") != "school" {
		of = &units.System{Length: units.Unit(c.PostForm("length")), Speed: units.Unit(c.PostForm("speed"))}
		if err := of.Check(); err != nil {
			s.WrongInput(c, fmt.Sprintf(msgUnitsNotChanged, err.Error()), msgChooseOneEach)
			return
		}
	}
	s.Done(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.ChooseUnits(ctx, p.ID, of) }),
		"/account#units")
}

// EndSignIn signs the person out in one other place.
func (s Pages) EndSignIn(c *gin.Context) {
	p := frame.Person(c)
	_, ok := s.About(c, "signin", func(tx store.Tx, id uuid.UUID) error {
		return tx.EndSignIn(c.Request.Context(), p.ID, id, s.Now())
	})
	if ok {
		c.Redirect(http.StatusSeeOther, "/account#sign-ins")
	}
}

// EndSignIns signs the person out everywhere, here too where that is asked.
func (s Pages) EndSignIns(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	except, to := s.Here(c), "/account#sign-ins"
	if c.PostForm("here") == "too" {
		except, to = nil, "/sign-in"
	}
	s.Done(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.EndSignIns(ctx, p.ID, except, s.Now())
	}), to)
}

// passkeyName is what a new passkey is called, where nothing was typed.
func passkeyName(typed string, now time.Time) string {
	if name := frame.CleanName(typed); name != "" {
		return name
	}
	return "Passkey of " + now.Format(dayForm)
}
