package web

import (
	"crypto/sha256"
	"errors"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"maestrale/internal/password"
	"maestrale/internal/store"
)

const (
	patience      = 15 * time.Minute
	triesPair     = 5  // wrong passwords for one address from one place
	triesAddress  = 20 // for one address from anywhere
	triesFromHere = 60 // for any address from one place
)

// nobody is checked against when an address has no account, so that the answer
// takes as long.
var nobody = func() string {
	h, err := password.Hash("nobody has this password")
	if err != nil {
		panic(err)
	}
	return h
}()

type signInModel struct{ Email, Wrong string }

func (s *Server) signInPage(c *gin.Context) {
	if person(c) != nil {
		c.Redirect(http.StatusSeeOther, "/")
		return
	}
	s.render(c, http.StatusOK, "sign-in", page{Title: "Sign in", Body: signInModel{}})
}

func tryKeys(email, from string) [][]byte {
	key := func(parts ...string) []byte {
		sum := sha256.Sum256([]byte(strings.Join(parts, "\x00")))
		return sum[:]
	}
	return [][]byte{key("pair", email, from), key("address", email), key("from", from)}
}

func (s *Server) signIn(c *gin.Context) {
	ctx := c.Request.Context()
	email := strings.ToLower(strings.TrimSpace(c.PostForm("email")))
	from, _, err := net.SplitHostPort(c.Request.RemoteAddr)
	if err != nil {
		from = c.Request.RemoteAddr
	}
	keys := tryKeys(email, from)
	n, err := s.store.Failures(ctx, keys, s.now().Add(-patience))
	if err != nil {
		s.failed(c, err)
		return
	}
	if n[0] >= triesPair || n[1] >= triesAddress || n[2] >= triesFromHere {
		c.Header("Retry-After", "900")
		s.render(c, http.StatusTooManyRequests, "sign-in", page{Title: "Sign in", Body: signInModel{email, "Too many wrong passwords. Wait a quarter of an hour and try again."}})
		return
	}
	cred, err := s.store.ByEmail(ctx, email)
	hash := cred.PasswordHash
	if errors.Is(err, store.ErrNotFound) {
		hash, err = nobody, nil
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	ok, err := password.Check(c.PostForm("password"), hash)
	if err != nil {
		s.log.WarnContext(ctx, "sign-in", "error", err)
	}
	if !ok || cred.PasswordHash == "" {
		if err := s.store.Failed(ctx, keys); err != nil {
			s.failed(c, err)
			return
		}
		s.render(c, http.StatusUnauthorized, "sign-in", page{Title: "Sign in", Body: signInModel{email, "The address and the password do not fit together. Check both and try again."}})
		return
	}
	if err := s.store.SignedIn(ctx, keys[0]); err != nil {
		s.failed(c, err)
		return
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		s.failed(c, err)
		return
	}
	after := s.sessions.PopString(ctx, "after")
	s.sessions.Put(ctx, accountKey, cred.AccountID.String())
	c.Redirect(http.StatusSeeOther, local(after))
}

// local keeps a way back to this application's own addresses.
func local(to string) string {
	u, err := url.Parse(to)
	if err != nil || u.IsAbs() || u.Host != "" || !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") || strings.Contains(to, "\\") {
		return "/"
	}
	return to
}

func (s *Server) signOut(c *gin.Context) {
	if err := s.sessions.Destroy(c.Request.Context()); err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sign-in")
}

// home brings each to the own first page.
func (s *Server) home(c *gin.Context) {
	if p := person(c); p.Role == store.Learner {
		c.Redirect(http.StatusSeeOther, "/students/"+p.StudentID.String())
		return
	}
	c.Redirect(http.StatusSeeOther, "/students")
}
