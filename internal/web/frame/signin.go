package frame

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"strings"
	"sync"
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

// nobody is checked against when an address has no account, so that the answer takes as long. It is made when a server
// begins, and not by commands that need none.
var nobody = sync.OnceValue(func() string {
	h, err := password.Hash(msgNobodyPassword)
	if err != nil {
		panic(err)
	}
	return h
})

type signInModel struct{ Email, Wrong string }

func (s *Frame) SignInPage(c *gin.Context) {
	if Person(c) != nil {
		c.Redirect(http.StatusSeeOther, "/")
		return
	}
	s.Render(c, http.StatusOK, "sign-in", Page{Title: "Sign in", Script: "passkey.js", Body: signInModel{}})
}

// tries are the keys under which attempts are counted: from one place for one thing, for that thing from anywhere, and
// from one place for anything of the kind. A kind is a sign-in or the setup.
func tries(kind, what, from string) [3][]byte {
	key := func(parts ...string) []byte {
		sum := sha256.Sum256([]byte(strings.Join(parts, "\x00")))
		return sum[:]
	}
	return [3][]byte{key(kind+"pair", what, from), key(kind+"address", what), key(kind+"from", from)}
}

// Tries counts attempts of one kind at one thing, from the place of the request.
type Tries struct {
	frame *Frame
	keys  [3][]byte
	most  [3]int
}

// TriesAt begins to count; kind is empty for sign-ins.
func (s *Frame) TriesAt(c *gin.Context, kind, what string) Tries {
	from, _, err := net.SplitHostPort(c.Request.RemoteAddr)
	if err != nil {
		from = c.Request.RemoteAddr
	}
	return Tries{s, tries(kind, what, from), [3]int{TriesPair, triesAddress, triesFromHere}}
}

// TooMany counts this attempt, before anything is looked at, and tells whether there were so many lately that it is not
// looked at: of many at once no more than the limit are.
func (t Tries) TooMany(ctx context.Context) (bool, error) {
	now := t.frame.Now()
	may, err := t.frame.Store.Try(ctx, t.keys, t.most, now.Add(-patience), now)
	if !may && err == nil {
		t.frame.figures.throttled.Inc()
	}
	return !may, err
}

// Right takes this attempt back, and forgets the wrong ones from this place at this thing.
func (t Tries) Right(ctx context.Context) error { return t.frame.Store.TakeBack(ctx, t.keys, true) }

// Unlooked takes this attempt back: nothing was guessed with it.
func (t Tries) Unlooked(ctx context.Context) error { return t.frame.Store.TakeBack(ctx, t.keys, false) }

// browserCookie keeps what a browser shows to be known to an account.
const browserCookie = "maestrale-browser"

// knownBrowser tells what this browser keeps, where it has signed in to an account before.
func (s *Frame) knownBrowser(c *gin.Context, account uuid.UUID) (token string, known bool, err error) {
	kept, err := c.Request.Cookie(s.cookieName(browserCookie))
	if err != nil || len(kept.Value) > 100 || account == uuid.Nil {
		return "", false, nil //nolint:nilerr // it keeps nothing
	}
	known, err = s.Store.KnowsBrowser(c.Request.Context(), account, kept.Value)
	return kept.Value, known, err
}

// SignIn signs in with an address and a password.
func (s *Frame) SignIn(c *gin.Context) {
	ctx := c.Request.Context()
	email := strings.ToLower(strings.TrimSpace(c.PostForm("email")))
	cred, err := s.Store.ByEmail(ctx, email)
	if errors.Is(err, store.ErrNotFound) || err == nil && !strings.HasPrefix(cred.PasswordHash, "$") {
		cred.PasswordHash, err = nobody(), nil
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	status, words, err := s.checked(c, email, cred)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if status != http.StatusOK {
		s.Render(c, status, "sign-in", Page{Title: "Sign in", Script: "passkey.js", Body: signInModel{email, words}})
		return
	}
	after, err := s.Enter(c, cred.SchoolID, cred.AccountID, "password")
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, after)
}

// checked counts the attempt and checks the password, and answers 200 where it is right, or what is in the way.
func (s *Frame) checked(c *gin.Context, email string, cred store.Credentials) (status int, words string, err error) {
	ctx := c.Request.Context()
	token, known, err := s.knownBrowser(c, cred.AccountID)
	if err != nil {
		return 0, "", err
	}
	attempts := s.TriesAt(c, "", email)
	if known {
		// Somebody else's guesses do not lock out who has been here before; its own are counted as its own.
		attempts = Tries{s, tries("browser", email, token), [3]int{TriesPair, TriesPair, TriesPair}}
	}
	many, err := attempts.TooMany(ctx)
	if err != nil {
		return 0, "", err
	}
	if many {
		c.Header("Retry-After", "900")
		return http.StatusTooManyRequests, msgTooManyWrong, nil
	}
	word := c.PostForm("password")
	ok, err := password.CheckInTurn(ctx, word, cred.PasswordHash, known)
	switch {
	case errors.Is(err, password.ErrBusy) || ctx.Err() != nil:
		c.Header("Retry-After", "5")
		return http.StatusServiceUnavailable, msgManyPeopleSign, attempts.Unlooked(context.WithoutCancel(ctx))
	case err != nil:
		s.Log.WarnContext(ctx, "sign-in", "error", err)
	}
	if !ok || cred.PasswordHash == nobody() {
		return http.StatusUnauthorized, msgAddressPasswordDo, nil
	}
	if password.Outdated(cred.PasswordHash) {
		s.rehash(ctx, cred, word)
	}
	return http.StatusOK, "", attempts.Right(ctx)
}

// rehash keeps a password as it is kept today. Where that fails, it stays as it was.
func (s *Frame) rehash(ctx context.Context, cred store.Credentials, word string) {
	hash, err := password.HashInTurn(ctx, word)
	if err == nil {
		err = s.Store.InSchool(ctx, cred.SchoolID, func(tx store.Tx) error { return tx.Rehash(ctx, cred.AccountID, hash) })
	}
	if err != nil {
		s.Log.WarnContext(ctx, msgKeepPasswordAnew, "error", err)
	}
}

// Enter signs somebody in on this browser, and returns the address that they wanted to go to. Way is how they proved
// who they are: password, passkey or link.
func (s *Frame) Enter(c *gin.Context, school, account uuid.UUID, way string) (after string, err error) {
	ctx := c.Request.Context()
	id := store.NewID()
	token, known, err := s.knownBrowser(c, account)
	if err != nil {
		return "", err
	}
	if !known {
		token = rand.Text()
	}
	if err := s.Store.InSchool(ctx, school, func(tx store.Tx) error {
		err := tx.BeginSignIn(ctx, id, account, browserOf(c.Request.UserAgent()), way, s.Now())
		if err == nil && !known {
			err = tx.KnowBrowser(ctx, account, token, s.Now())
		}
		return err
	}); err != nil {
		return "", err
	}
	http.SetCookie(c.Writer, &http.Cookie{Name: s.cookieName(browserCookie), Value: token, Path: "/", HttpOnly: true,
		Secure: s.secure, SameSite: http.SameSiteLaxMode, MaxAge: int((400 * 24 * time.Hour).Seconds())})
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
	return find([][2]string{{"Edg/", "Edge"}, {"Firefox/", "Firefox"}, {"Chrome/", msgChromeOrChromium},
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
