package frame

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"maestrale/core/school"
	"maestrale/internal/store"
)

// recheck is how often an answer that goes on makes sure that the account may still be there.
const recheck = 20 * time.Second

// founded lets nothing pass but the setup until there is a school.
func (s *Frame) founded(setup bool) gin.HandlerFunc {
	return func(c *gin.Context) {
		if setup || s.begun.Load() {
			return
		}
		is, err := s.Store.Founded(c.Request.Context())
		switch {
		case err != nil:
			s.Failed(c, err)
			c.Abort()
		case is:
			s.begun.Store(true)
		case c.Request.Method == http.MethodGet && !WantsJSON(c):
			c.Redirect(http.StatusSeeOther, "/setup")
			c.Abort()
		default:
			s.Problem(c, http.StatusConflict, Problem{What: msgNoSchoolHere,
				Do: msgOpenAddressBrowser})
			c.Abort()
		}
	}
}

// toDo says which first steps of the school are left, to its chief. Once none is left it is not asked again.
func (s *Frame) toDo(c *gin.Context, p *store.Person) string {
	if _, done := s.done.Load(p.SchoolID); done || p.Role != store.Chief || p.ClosedAt != nil {
		return ""
	}
	ctx := c.Request.Context()
	var at school.Progress
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		has, skipped, err := tx.FirstSteps(ctx)
		at = school.ProgressOf(has, skipped)
		return err
	})
	if err != nil {
		s.Log.ErrorContext(ctx, "first steps", "error", err)
		return ""
	}
	if len(at.Left) == 0 {
		s.done.Store(p.SchoolID, true)
	}
	var words []string
	for _, step := range at.Left {
		words = append(words, step.Words())
	}
	return strings.Join(words, ", ")
}

const aliveKey = "alive"

// alive gives an answer that goes on a context that ends when the account is closed, the sign-in is ended elsewhere, or
// the role may no longer be here. What it returns ends the watch.
func (s *Frame) alive(c *gin.Context, roles []string) (stop func()) {
	account, signIn, ok := s.signedIn(c)
	if !ok {
		return func() {}
	}
	ends := s.Sessions.Deadline(c.Request.Context())
	ctx, cancel := context.WithCancel(c.Request.Context())
	c.Request = c.Request.WithContext(ctx)
	lasting, end := context.WithCancel(context.WithoutCancel(ctx))
	c.Set(aliveKey, lasting)
	go func() {
		tick := time.NewTicker(s.recheck)
		defer tick.Stop()
		for {
			select {
			case <-lasting.Done():
				return
			case <-tick.C:
			}
			p, err := s.Store.BySignIn(lasting, account, signIn)
			if err == nil && (!s.Now().Before(ends) || p.Idle(s.Now())) {
				err = store.ErrNotFound // the session has ended
			}
			if err != nil || !slices.Contains(roles, p.Role) {
				cancel()
				end()
				return
			}
		}
	}()
	return func() { cancel(); end() }
}

// Alive is the context of an answer that goes on over a connection of its own: it does not end with the request, and
// ends when the account may no longer be there.
func Alive(c *gin.Context) context.Context {
	if ctx, ok := c.Value(aliveKey).(context.Context); ok {
		return ctx
	}
	return context.WithoutCancel(c.Request.Context())
}

// Address is the full address of a path of this application, for links that are opened elsewhere: under the address
// that was set for this server, and never under what a request claims to have asked for.
func (s *Frame) Address(path string) string { return s.public + path }
