package frame

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
	TriesPair     = 5  // wrong passwords for one address from one place
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

func (s *Frame) SignInPage(c *gin.Context) {
	if Person(c) != nil {
		c.Redirect(http.StatusSeeOther, "/")
		return
	}
	s.Render(c, http.StatusOK, "sign-in", Page{Title: "Sign in", Body: signInModel{}})
}

func tryKeys(email, from string) [][]byte {
	key := func(parts ...string) []byte {
		sum := sha256.Sum256([]byte(strings.Join(parts, "\x00")))
		return sum[:]
	}
	return [][]byte{key("pair", email, from), key("address", email), key("from", from)}
}

func (s *Frame) SignIn(c *gin.Context) {
	ctx := c.Request.Context()
	email := strings.ToLower(strings.TrimSpace(c.PostForm("email")))
	from, _, err := net.SplitHostPort(c.Request.RemoteAddr)
	if err != nil {
		from = c.Request.RemoteAddr
	}
	keys := tryKeys(email, from)
	n, err := s.Store.Failures(ctx, keys, s.Now().Add(-patience))
	if err != nil {
		s.Failed(c, err)
		return
	}
	if n[0] >= TriesPair || n[1] >= triesAddress || n[2] >= triesFromHere {
		c.Header("Retry-After", "900")
		s.Render(c, http.StatusTooManyRequests, "sign-in", Page{Title: "Sign in", Body: signInModel{email,
			"Too many wrong passwords. Wait a quarter of an hour and try again."}})
		return
	}
	cred, err := s.Store.ByEmail(ctx, email)
	hash := cred.PasswordHash
	if errors.Is(err, store.ErrNotFound) {
		hash, err = nobody, nil
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	ok, err := password.Check(c.PostForm("password"), hash)
	if err != nil {
		s.Log.WarnContext(ctx, "sign-in", "error", err)
	}
	if !ok || cred.PasswordHash == "" {
		if err := s.Store.Failed(ctx, keys); err != nil {
			s.Failed(c, err)
			return
		}
		s.Render(c, http.StatusUnauthorized, "sign-in", Page{Title: "Sign in", Body: signInModel{email,
			"The address and the password do not fit together. Check both and try again."}})
		return
	}
	if err := s.Store.SignedIn(ctx, keys[0]); err != nil {
		s.Failed(c, err)
		return
	}
	if err := s.Sessions.RenewToken(ctx); err != nil {
		s.Failed(c, err)
		return
	}
	after := s.Sessions.PopString(ctx, "after")
	s.Sessions.Put(ctx, accountKey, cred.AccountID.String())
	c.Redirect(http.StatusSeeOther, local(after))
}

// local keeps a way back to this application's own addresses.
func local(to string) string {
	u, err := url.Parse(to)
	if err != nil || u.IsAbs() || u.Host != "" || !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") ||
		strings.Contains(to, "\\") {
		return "/"
	}
	return to
}

func (s *Frame) SignOut(c *gin.Context) {
	if err := s.Sessions.Destroy(c.Request.Context()); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sign-in")
}

// Home brings each to the own first page.
func (s *Frame) Home(c *gin.Context) {
	if p := Person(c); p.Role == store.Learner {
		c.Redirect(http.StatusSeeOther, "/students/"+p.StudentID.String())
		return
	}
	c.Redirect(http.StatusSeeOther, "/students")
}
