package frame

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/internal/store"
)

// Handler answers a request.
type Handler func(Request, *gin.Context)

// Route is an address, who may go there, and what answers. Roles nil is for
// everyone, signed in or not.
type Route struct {
	Method, Path string
	Roles        []string
	Handler      Handler
	// Live is for an answer that goes on: it ends when the account is closed or may no longer be there.
	Live bool
	// Setup is for what is served before there is a school.
	Setup bool
	// Sealed is for what devices keep sealed until it can be sent.
	Sealed bool
	// Body is how many bytes the request may bring; 0 = as many as usual.
	Body int64
	// Streams is for a handler that reads the parts of a form as they come.
	Streams bool
	// Large is for an answer that takes long, such as a whole school's files.
	Large bool
}

// Who may go to an address.
var (
	Anyone    []string
	SignedIn  = []string{store.Chief, store.Instructor, store.Spotter, store.Learner}
	Chiefs    = []string{store.Chief}
	Teachers  = []string{store.Chief, store.Instructor}
	AtField   = []string{store.Chief, store.Instructor, store.Spotter}
	OwnRecord = SignedIn // a student only the own; see ownOnly
)

const (
	accountKey = "account"
	signInKey  = "sign-in"
	personKey  = "person"
)

// signedIn reads the session: whose it is, and which sign-in.
func (s *Frame) signedIn(c *gin.Context) (account, signIn uuid.UUID, ok bool) {
	ctx := c.Request.Context()
	account, err1 := uuid.Parse(s.Sessions.GetString(ctx, accountKey))
	signIn, err2 := uuid.Parse(s.Sessions.GetString(ctx, signInKey))
	return account, signIn, err1 == nil && err2 == nil
}

// identified finds out who is signed in.
func (s *Frame) identified(c *gin.Context) {
	if s.madeBy(c) {
		return
	}
	id, signIn, ok := s.signedIn(c)
	if !ok {
		return
	}
	p, err := s.Store.BySignIn(c.Request.Context(), id, signIn)
	if errors.Is(err, store.ErrNotFound) {
		return // the account was closed, or the sign-in was ended elsewhere
	}
	if err == nil && p.Idle(s.Now()) {
		// Nobody used it for longer than the school allows: it ends, as if somebody had signed out.
		err = s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
			return tx.EndSignIn(c.Request.Context(), id, signIn, s.Now())
		})
		if err == nil {
			return
		}
	}
	if err == nil && (p.SeenAt == nil || s.Now().Sub(*p.SeenAt) > store.SeenEvery) {
		err = s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
			return tx.SeenSignIn(c.Request.Context(), signIn, s.Now())
		})
	}
	if err != nil {
		s.Failed(c, err)
		c.Abort()
		return
	}
	if device, err := uuid.Parse(s.Sessions.GetString(c.Request.Context(), DeviceKey)); err == nil {
		var cut bool
		err := s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) (err error) {
			cut, err = tx.Cut(c.Request.Context(), device)
			return err
		})
		if err != nil {
			s.Failed(c, err)
			c.Abort()
			return
		}
		if cut {
			if strings.HasPrefix(c.Request.URL.Path, "/pad/") {
				s.CutOff(c)
				c.Abort()
			}
			return // a device that was cut off is signed in no more
		}
	}
	c.Set(personKey, &p)
}

// Person returns who is signed in, nil for nobody.
func Person(c *gin.Context) *store.Person {
	p, _ := c.Value(personKey).(*store.Person)
	return p
}

// openWhenClosed is what can be done in a closed school.
var openWhenClosed = []string{"/sign-out", "/school/open", "/account/sign-ins", "/account/sign-ins/:signin",
	"/account/units"}

// allowed lets only some roles pass.
func (s *Frame) allowed(roles []string) gin.HandlerFunc {
	return func(c *gin.Context) {
		if roles == nil {
			return
		}
		p := Person(c)
		switch {
		case p == nil && c.Request.Method == http.MethodGet && c.GetHeader("HX-Request") == "" && !fromScript(c):
			s.Sessions.Put(c.Request.Context(), "after", c.Request.URL.RequestURI())
			c.Redirect(http.StatusSeeOther, "/sign-in")
			c.Abort()
		case p == nil:
			s.Problem(c, http.StatusUnauthorized, Problem{What: msgYouNotSigned, Kept: msgNothingChanged,
				Do: msgSignTryAgain})
			c.Abort()
		case p.ClosedAt != nil && c.Request.Method != http.MethodGet && !slices.Contains(openWhenClosed, c.FullPath()):
			s.Problem(c, http.StatusConflict, Problem{What: msgSchoolClosedRecords, Do: msgChiefInstructorCan})
			c.Abort()
		case !slices.Contains(roles, p.Role):
			s.Problem(c, http.StatusForbidden, Problem{What: fmt.Sprintf(msgCannotDo, p.Role), Kept: msgNothingChanged,
				Do: msgAskChiefInstructor})
			c.Abort()
		}
	}
}

// fromScript tells whether a script asks, and not a person who goes to a page.
func fromScript(c *gin.Context) bool {
	return strings.HasPrefix(c.GetHeader("Accept"), "application/json")
}

// OwnOnly keeps a student to the own record: every other does not exist.
func OwnOnly(p *store.Person, student uuid.UUID) error {
	if p.Role == store.Learner && (p.StudentID == nil || *p.StudentID != student) {
		return store.ErrNotFound
	}
	return nil
}

// Param reads a UUID of the address; what is none does not exist.
func Param(c *gin.Context, name string) (uuid.UUID, error) {
	id, err := uuid.Parse(c.Param(name))
	if err != nil {
		return id, store.ErrNotFound
	}
	return id, nil
}

// About does a unit of work in the person's school on what the address names; where
// that fails it has answered, and says false.
func (s *Frame) About(c *gin.Context, name string, do func(tx store.Tx, id uuid.UUID) error) (uuid.UUID, bool) {
	id, err := Param(c, name)
	if err == nil {
		err = s.Store.InSchool(c.Request.Context(), Person(c).SchoolID, func(tx store.Tx) error { return do(tx, id) })
	}
	if err != nil {
		s.Failed(c, err)
	}
	return id, err == nil
}
