package school

import (
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"maestrale/core/school"
	"maestrale/internal/password"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// joinModel is a link as whoever opens it sees it.
type joinModel struct {
	store.Link
	Says     string // what the role does
	Wrong    string
	Shortest int
}

// link finds the link of the address, and answers where it cannot be used.
func (s Pages) link(c *gin.Context) (l store.Link, ok bool) {
	c.Header("X-Robots-Tag", "noindex")
	c.Header("Referrer-Policy", "no-referrer")
	// An address has 192 random bits: it is not guessed, and nobody is kept waiting for others who mistyped one.
	l, err := s.Store.LinkOf(c.Request.Context(), c.Param("address"))
	if errors.Is(err, store.ErrNotFound) {
		s.Problem(c, http.StatusNotFound, frame.Problem{What: msgNotLinkServer,
			Do: msgCheckCopiedWhole})
		return l, false
	}
	if err != nil {
		s.Failed(c, err)
		return l, false
	}
	if words := l.State(s.Now()).Words(); words != "" {
		s.Problem(c, http.StatusGone, frame.Problem{What: words, Do: fmt.Sprintf(msgTheSignIn, s.Frame.Address("/sign-in"))})
		return l, false
	}
	return l, true
}

// JoinPage is what a link opens: the form of a new account, or of a new password.
func (s Pages) JoinPage(c *gin.Context) {
	if l, ok := s.link(c); ok {
		s.joinAgain(c, http.StatusOK, l, "")
	}
}

func (s Pages) joinAgain(c *gin.Context, status int, l store.Link, wrong string) {
	title := "Join " + l.School
	if l.Kind == store.PasswordLink {
		title = "A new password"
	}
	s.Render(c, status, "join", frame.Page{Title: title, Body: joinModel{Link: l, Says: school.Role(l.Role).Words(),
		Wrong: wrong, Shortest: password.Shortest}})
}

// Join makes the account or sets the password, uses the link up, and signs the person in.
func (s Pages) Join(c *gin.Context) {
	ctx := c.Request.Context()
	l, ok := s.link(c)
	if !ok {
		return
	}
	word := c.PostForm("password")
	if l.Kind == store.Invitation {
		l.Name, l.Email = frame.CleanName(c.PostForm("name")), frame.Cut(c.PostForm("email"), 260)
	}
	email, err := l.Email, error(nil)
	if l.Kind == store.Invitation {
		if err = school.CheckName("The account", l.Name); err == nil {
			email, err = school.ReadEmail(l.Email)
		}
	}
	if err == nil {
		err = password.Accept(word)
	}
	if err != nil {
		s.joinAgain(c, http.StatusUnprocessableEntity, l, frame.Said(err))
		return
	}
	hash, err := password.HashInTurn(c.Request.Context(), word)
	if err != nil {
		s.Failed(c, err)
		return
	}
	account := store.NewID()
	err = s.Store.InSchool(ctx, l.SchoolID, func(tx store.Tx) error {
		if l.Kind == store.PasswordLink {
			account = *l.AccountID
			return errors.Join(tx.NewPassword(ctx, l, hash, s.Now()), tx.Did(ctx, account, nil, msgSetNewPassword))
		}
		if err := tx.Join(ctx, l, store.Account{ID: account, Name: l.Name, Email: email, PasswordHash: hash},
			s.Now()); err != nil {
			return err
		}
		return tx.Did(ctx, account, nil, fmt.Sprintf(msgJoinedInvitation, l.Role))
	})
	switch {
	case errors.Is(err, store.ErrTaken):
		s.joinAgain(c, http.StatusConflict, l, fmt.Sprintf(msgAddressAccountAlready, email))
	case errors.Is(err, store.ErrLinkUsed):
		s.Problem(c, http.StatusGone, frame.Problem{What: school.LinkUsed.Words(), Do: msgSignYourAddress})
	case err != nil:
		s.Failed(c, err)
	default:
		if _, err := s.Enter(c, l.SchoolID, account, "link"); err != nil {
			s.Failed(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/")
	}
}
