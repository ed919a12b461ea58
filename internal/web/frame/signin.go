package frame

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

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
	s.Render(c, http.StatusOK, "sign-in", Page{Title: "Sign in", Script: "passkey.js", Body: signInModel{}})
}

// tries are the keys under which wrong tries are counted: from one place for one thing, for that thing from anywhere,
// and
// from one place for anything of the kind. A kind is a sign-in or the setup.
func tries(kind, what, from string) [][]byte {
	key := func(parts ...string) []byte {
		sum := sha256.Sum256([]byte(strings.Join(parts, "\x00")))
		return sum[:]
	}
	return [][]byte{key(kind+"pair", what, from), key(kind+"address", what), key(kind+"from", from)}
}

// Tries counts wrong tries of one kind at one thing, from the place of the request.
type Tries struct {
	frame *Frame
	keys  [][]byte
}

// TriesAt begins to count; kind is empty for sign-ins.
func (s *Frame) TriesAt(c *gin.Context, kind, what string) Tries {
	from, _, err := net.SplitHostPort(c.Request.RemoteAddr)
	if err != nil {
		from = c.Request.RemoteAddr
	}
	return Tries{s, tries(kind, what, from)}
}

// TooMany tells whether so many were wrong lately that none is looked at.
func (t Tries) TooMany(ctx context.Context) (bool, error) {
	n, err := t.frame.Store.Failures(ctx, t.keys, t.frame.Now().Add(-patience))
	if err != nil {
		return false, err
	}
	return n[0] >= TriesPair || n[1] >= triesAddress || n[2] >= triesFromHere, nil
}

// Wrong notes one more.
func (t Tries) Wrong(ctx context.Context) error { return t.frame.Store.Failed(ctx, t.keys) }

// Right forgets those from this place at this thing.
func (t Tries) Right(ctx context.Context) error { return t.frame.Store.SignedIn(ctx, t.keys[0]) }

func (s *Frame) SignIn(c *gin.Context) {
	ctx := c.Request.Context()
	email := strings.ToLower(strings.TrimSpace(c.PostForm("email")))
	tries := s.TriesAt(c, "", email)
	many, err := tries.TooMany(ctx)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if many {
		c.Header("Retry-After", "900")
		s.Render(c, http.StatusTooManyRequests, "sign-in", Page{Title: "Sign in", Script: "passkey.js",
			Body: signInModel{email, "Too many wrong passwords. Wait a quarter of an hour and try again."}})
		return
	}
	cred, err := s.Store.ByEmail(ctx, email)
	hash := cred.PasswordHash
	if errors.Is(err, store.ErrNotFound) || err == nil && !strings.HasPrefix(hash, "$") {
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
	if !ok || hash == nobody {
		if err := tries.Wrong(ctx); err != nil {
			s.Failed(c, err)
			return
		}
		s.Render(c, http.StatusUnauthorized, "sign-in", Page{Title: "Sign in", Script: "passkey.js",
			Body: signInModel{email, "The address and the password do not fit together. Check both and try again."}})
		return
	}
	if err := tries.Right(ctx); err != nil {
		s.Failed(c, err)
		return
	}
	after, err := s.Enter(c, cred.SchoolID, cred.AccountID, "password")
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, after)
}

// Enter signs somebody in on this browser, and returns the address that they wanted to go to. Way is how they proved
// who
// they are: password, passkey or link.
func (s *Frame) Enter(c *gin.Context, school, account uuid.UUID, way string) (after string, err error) {
	ctx := c.Request.Context()
	id := store.NewID()
	if err := s.Store.InSchool(ctx, school, func(tx store.Tx) error {
		return tx.BeginSignIn(ctx, id, account, browserOf(c.Request.UserAgent()), way, s.Now())
	}); err != nil {
		return "", err
	}
	if err := s.Sessions.RenewToken(ctx); err != nil {
		return "", fmt.Errorf("begin the session: %w", err)
	}
	after = s.Sessions.PopString(ctx, "after")
	s.Sessions.Remove(ctx, DeviceKey)
	s.Sessions.Put(ctx, accountKey, account.String())
	s.Sessions.Put(ctx, signInKey, id.String())
	return local(after), nil
}

// browserOf names a browser and its system in a few words, for the list of sign-ins.
func browserOf(agent string) string {
	find := func(names [][2]string, other string) string {
		for _, n := range names {
			if strings.Contains(agent, n[0]) {
				return n[1]
			}
		}
		return other
	}
	return find([][2]string{{"Edg/", "Edge"}, {"Firefox/", "Firefox"}, {"Chrome/", "Chrome or Chromium"},
		{"Safari/", "Safari"}}, "a browser") + " on " + find([][2]string{{"Android", "Android"}, {"iPhone", "an iPhone"},
		{"iPad", "an iPad"}, {"Windows", "Windows"}, {"Mac OS", "a Mac"}, {"Linux", "Linux"}}, "another system")
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
	ctx := c.Request.Context()
	err := s.EndHere(c)
	if err == nil {
		err = s.Sessions.Destroy(ctx)
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sign-in")
}

// EndHere ends the sign-in of this browser.
func (s *Frame) EndHere(c *gin.Context) error {
	account, signIn, ok := s.signedIn(c)
	p := Person(c)
	if !ok || p == nil {
		return nil
	}
	ctx := c.Request.Context()
	return s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.EndSignIn(ctx, account, signIn, s.Now())
	})
}

// Here is the sign-in of this browser; nil for none.
func (s *Frame) Here(c *gin.Context) *uuid.UUID {
	if m := makerOf(c.Request.Context()); m != nil {
		return &m.signIn
	}
	if _, signIn, ok := s.signedIn(c); ok {
		return &signIn
	}
	return nil
}

// Home brings each to the own first page.
func (s *Frame) Home(c *gin.Context) {
	if p := Person(c); p.Role == store.Learner {
		c.Redirect(http.StatusSeeOther, "/students/"+p.StudentID.String())
		return
	}
	c.Redirect(http.StatusSeeOther, "/students")
}
