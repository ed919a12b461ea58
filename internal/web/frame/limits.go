package frame

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/internal/store"
)

// What one request may bring and take.
const (
	nobodysBody = 64 << 10 // of who is not signed in
	usualBody   = 2 << 20
	usualTime   = time.Minute      // to send the body, and to answer
	largeTime   = 10 * time.Minute // for files: a phone's upload at the field is slow
)

// How many answers that go on one account, and one school, may hold open.
const (
	MostLive       = 16
	mostLiveSchool = 400
)

// limited keeps a request to the size and the time that its address has: before anything of the body is read.
func (s *Frame) limited(r Route) gin.HandlerFunc {
	most, within := int64(usualBody), usualTime
	if r.Roles == nil {
		most = nobodysBody
	}
	if r.Body > 0 {
		most, within = r.Body, largeTime
	}
	if r.Large {
		within = largeTime
	}
	if s.within > 0 {
		within = s.within
	}
	return func(c *gin.Context) {
		ctx := c.Request.Context()
		if r.Sealed || strings.HasPrefix(r.Path, "/pad/") && r.Method == http.MethodPost {
			ctx = store.Urgent(ctx)
		}
		if r.Live {
			if c.Request.ContentLength != 0 {
				s.Problem(c, http.StatusBadRequest, Problem{What: msgAddressTakesNo, Do: msgAskWithoutOne})
				c.Abort()
				return
			}
			c.Request = c.Request.WithContext(ctx)
			return
		}
		if c.Request.ContentLength > most {
			s.tooLarge(c, most)
			return
		}
		if makerOf(ctx) == nil {
			control := http.NewResponseController(c.Writer)
			end := time.Now().Add(within)
			if c.Request.ContentLength != 0 {
				_ = control.SetReadDeadline(end) // where the connection is none of a network, it has no deadline
			}
			_ = control.SetWriteDeadline(end.Add(30 * time.Second))
		}
		ctx, cancel := context.WithTimeout(ctx, within+10*time.Second)
		defer cancel()
		c.Request = c.Request.WithContext(ctx)
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
		c.Next()
	}
}

func (s *Frame) tooLarge(c *gin.Context, most int64) {
	c.Header("Connection", "close") // the rest is not read
	s.Problem(c, http.StatusRequestEntityTooLarge, Problem{What: fmt.Sprintf(msgWhatSentToo, sizeWords(most)),
		Do: msgSendLessOr})
	c.Abort()
}

func sizeWords(n int64) string {
	if n >= 1<<20 {
		return strconv.FormatInt(n>>20, 10) + " MB"
	}
	return strconv.FormatInt(n>>10, 10) + " kB"
}

// readable reads the form of a request, where it has one, and refuses what is no text: bytes that are no UTF-8, zero
// bytes, and marks that turn the direction of writing, behind which a name can look like another.
func (s *Frame) readable(r Route) gin.HandlerFunc {
	return func(c *gin.Context) {
		kind, _, _ := mime.ParseMediaType(c.GetHeader("Content-Type"))
		var err error
		switch {
		case r.Streams:
		case kind == "multipart/form-data":
			err = c.Request.ParseMultipartForm(1 << 20)
			defer func() {
				if c.Request.MultipartForm != nil {
					_ = c.Request.MultipartForm.RemoveAll() // of the disk, whatever became of the request
				}
			}()
		case strings.HasPrefix(kind, "application/json"):
			if !s.readableJSON(c) {
				return
			}
			err = c.Request.ParseForm() // of the address
		default:
			err = c.Request.ParseForm()
		}
		var large *http.MaxBytesError
		switch {
		case errors.As(err, &large):
			s.tooLarge(c, large.Limit)
			return
		case err != nil:
			s.Problem(c, http.StatusBadRequest, Problem{What: msgWhatSentCannot,
				Do: msgGoBackUse})
			c.Abort()
			return
		}
		texts := []string{c.Request.URL.Path}
		for name, values := range c.Request.Form {
			texts = append(append(texts, name), values...)
		}
		if c.Request.MultipartForm != nil {
			for _, files := range c.Request.MultipartForm.File {
				for _, f := range files {
					texts = append(texts, f.Filename)
				}
			}
		}
		for _, t := range texts {
			if what := unreadable(t); what != "" {
				s.noText(c, what)
				return
			}
		}
		c.Next()
	}
}

func (s *Frame) noText(c *gin.Context, what string) {
	s.Problem(c, http.StatusBadRequest, Problem{What: fmt.Sprintf(msgWhatSentText, what),
		Do: msgTypeAnewInstead})
	c.Abort()
}

// readableJSON reads a body of JSON for the handler, and looks for what is no text in it; where there is any, or too
// much was sent, it has answered and says false.
func (s *Frame) readableJSON(c *gin.Context) bool {
	data, err := io.ReadAll(c.Request.Body)
	var large *http.MaxBytesError
	switch {
	case errors.As(err, &large):
		s.tooLarge(c, large.Limit)
		return false
	case err != nil:
		s.Problem(c, http.StatusBadRequest, Problem{What: msgWhatSentDid, Do: msgSendAgain})
		c.Abort()
		return false
	}
	if what := unreadable(string(data)); what != "" {
		s.noText(c, what)
		return false
	}
	for _, at := range escapedMark.FindAllIndex(data, -1) {
		before := at[0]
		for before > 0 && data[before-1] == '\\' {
			before--
		}
		if (at[0]-before)%2 == 0 { // else the backslash itself is escaped
			s.noText(c, msgZeroByteOr)
			return false
		}
	}
	c.Request.Body = io.NopCloser(bytes.NewReader(data))
	return true
}

// escapedMark finds a zero byte or a mark of direction that is written as an escape of JSON.
var escapedMark = regexp.MustCompile(`\\u(0000|202[a-eA-E]|206[6-9])`)

// unreadable names what makes a text none; it is empty for a text.
func unreadable(t string) string {
	if !utf8.ValidString(t) {
		return msgSomethingNoUtf
	}
	for _, r := range t {
		switch {
		case r == 0:
			return "a zero byte"
		case r >= 0x202A && r <= 0x202E || r >= 0x2066 && r <= 0x2069:
			return msgMarkTurnsDirection
		}
	}
	return ""
}

// lively counts the answers that go on.
type lively struct {
	mu                sync.Mutex
	accounts, schools map[uuid.UUID]int
	total             int
}

// enter counts one more; it says false where there are too many.
func (l *lively) enter(account, school uuid.UUID) (leave func(), ok bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.accounts == nil {
		l.accounts, l.schools = map[uuid.UUID]int{}, map[uuid.UUID]int{}
	}
	if l.accounts[account] >= MostLive || l.schools[school] >= mostLiveSchool {
		return nil, false
	}
	add := func(n int) {
		l.total += n
		for m, k := range map[*map[uuid.UUID]int]uuid.UUID{&l.accounts: account, &l.schools: school} {
			if (*m)[k] += n; (*m)[k] == 0 {
				delete(*m, k)
			}
		}
	}
	add(1)
	return func() {
		l.mu.Lock()
		defer l.mu.Unlock()
		add(-1)
	}, true
}

func (l *lively) count() int {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.total
}

// headless answers HEAD as GET, without what follows the head.
func headless(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodHead {
			r = r.Clone(context.WithValue(r.Context(), headKey{}, true))
			r.Method = http.MethodGet
			w = bodiless{w}
		}
		next.ServeHTTP(w, r)
	})
}

type headKey struct{}

// bodiless drops the body of an answer.
type bodiless struct{ http.ResponseWriter }

func (b bodiless) Write(p []byte) (int, error) { return len(p), nil }

func (b bodiless) Unwrap() http.ResponseWriter { return b.ResponseWriter }
