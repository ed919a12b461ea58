package frame

import (
	"bytes"
	"context"
	"net/http"
	"net/url"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/internal/sealed"
	"maestrale/internal/store"
)

// SealKeys are the server's keys that devices seal to.
func (s *Frame) SealKeys(ctx context.Context) (*sealed.Keys, error) {
	if k := s.keys.Load(); k != nil {
		return k, nil
	}
	k, err := s.Store.SealKeys(ctx)
	if err == nil {
		s.keys.Store(k)
	}
	return k, err
}

// maker is whose sign-in made what a device delivers. It stands in the context of a request that the server makes of
// itself, where nothing from outside can put it.
type maker struct {
	person *store.Person
	signIn uuid.UUID
}

type makerKey struct{}

func makerOf(ctx context.Context) *maker {
	m, _ := ctx.Value(makerKey{}).(*maker)
	return m
}

// Delivery is a request that a device made and kept until it could be sent.
type Delivery struct {
	Path string `json:"path"`
	Type string `json:"type"` // of the body
	Body string `json:"body"`
}

// TakesSealed tells whether an address takes what devices have sealed.
func (s *Frame) TakesSealed(address string) bool {
	u, err := url.Parse(address)
	if err != nil || u.IsAbs() || u.Host != "" {
		return false
	}
	parts := bytes.Split([]byte(u.Path), []byte("/"))
	for _, r := range s.table {
		if r.Sealed && r.Method == http.MethodPost && fitsPath([]byte(r.Path), parts) {
			return true
		}
	}
	return false
}

func fitsPath(pattern []byte, parts [][]byte) bool {
	want := bytes.Split(pattern, []byte("/"))
	if len(want) != len(parts) {
		return false
	}
	for i, w := range want {
		if len(w) > 0 && w[0] == ':' {
			if len(parts[i]) == 0 {
				return false
			}
		} else if !bytes.Equal(w, parts[i]) {
			return false
		}
	}
	return true
}

// Deliver answers a request as if whoever made it had sent it just now: the same addresses, and the same rules of who
// may what.
func (s *Frame) Deliver(ctx context.Context, by *store.Person, signIn uuid.UUID, d Delivery) (status int, body []byte) {
	req, err := http.NewRequestWithContext(context.WithValue(ctx, makerKey{}, &maker{by, signIn}), http.MethodPost, d.Path,
		bytes.NewReader([]byte(d.Body)))
	if err != nil {
		return http.StatusBadRequest, nil
	}
	req.Header.Set("Content-Type", d.Type)
	req.Header.Set("Accept", "application/json")
	to := &answerTo{header: http.Header{}}
	s.engine.ServeHTTP(to, req)
	if to.status == 0 {
		to.status = http.StatusOK
	}
	return to.status, to.body.Bytes()
}

// answerTo keeps an answer.
type answerTo struct {
	header http.Header
	status int
	body   bytes.Buffer
}

func (a *answerTo) Header() http.Header         { return a.header }
func (a *answerTo) Write(p []byte) (int, error) { return a.body.Write(p) }
func (a *answerTo) WriteHeader(status int) {
	if a.status == 0 {
		a.status = status
	}
}

// madeBy is who made what is delivered, where the server makes the request of itself.
func (s *Frame) madeBy(c *gin.Context) bool {
	m := makerOf(c.Request.Context())
	if m != nil {
		c.Set(personKey, m.person)
	}
	return m != nil
}
