// Package frame is what stands around every page: who asks and what they may, the page itself, errors, sign-in, and the
// requests of one school.
package frame

import (
	"context"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/internal/attempt"
	"maestrale/internal/catalogue"
	"maestrale/internal/fieldday"
	"maestrale/internal/knowledge"
	"maestrale/internal/live"
	"maestrale/internal/reach"
	"maestrale/internal/sealed"
	"maestrale/internal/store"
)

// Options say how the server runs.
type Options struct {
	Store     *store.Store
	Catalogue *drill.Catalogue
	Log       *slog.Logger
	Now       func() time.Time
	Secure    bool // cookies only over HTTPS
	// Front is how the server is reached, for the page that tells phones; nil = not known.
	Front *reach.Front
	// Interface is the folder of the interface files while the program is being worked on; empty = those built in.
	Interface string
	Public    string        // the address at which phones and strangers reach it; empty = this machine's own
	Within    time.Duration // how long one request may take; 0 = a minute, and more for files
	Runner    DayRunner     // lets a sample day run by itself; nil = nobody's day does
	Recheck   time.Duration // how often a lasting answer looks whether the account may still be there; 0 = 20 s
}

// DayRunner flies the rest of a sample day by itself, for somebody who looks on.
type DayRunner interface {
	Run(on bool, by store.Person)
	Running() bool
}

// Frame is what every place of the application stands in: the database, the sessions, who looks on, and how a page
// is drawn. It is shared by all requests.
type Frame struct {
	Store      *store.Store
	Log        *slog.Logger
	Now        func() time.Time
	Sessions   *scs.SessionManager
	Live       *live.Hub
	Boards     *live.Boards
	Ended      chan struct{} // closed when the server ends
	Catalogues *catalogue.Schools
	Runner     DayRunner

	files   *interfaceFiles
	engine  *gin.Engine
	handler http.Handler
	ending  sync.Once
	table   []Route
	begun   atomic.Bool                 // there is a school
	done    sync.Map                    // schools, by id, whose first steps are done
	keys    atomic.Pointer[sealed.Keys] // that devices seal to, once they were read
	public  string
	secure  bool
	front   *reach.Front
	recheck time.Duration
	within  time.Duration
	lively  lively
	figures *figures
	shelf   *knowledge.Shelf
}

// Request is the frame around one request.
type Request struct {
	*Frame
	Cat *drill.Catalogue // the drills, programmes and gates of the school that asks
	Who *store.Person    // nil for nobody
	// SignIn is the sign-in that asks; nil for nobody.
	SignIn *uuid.UUID
}

// Students reads about the school's students.
func (s Request) Students() knowledge.Book {
	return knowledge.Book{Cat: s.Cat, Now: s.Now, Zone: s.Who.Zone(), Shelf: s.shelf}
}

// Attempts stores attempts for the person who asks.
func (s Request) Attempts() attempt.Recorder {
	return attempt.Recorder{Cat: s.Cat, Now: s.Now, By: s.Who, SignIn: s.SignIn}
}

// Days plans and runs the field days.
func (s Request) Days() fieldday.Days { return fieldday.Days{Cat: s.Cat, Now: s.Now} }

// WorkingDay is how long a sign-in lasts.
const WorkingDay = 14 * time.Hour

// New makes the application from a table of addresses.
func New(o Options, table func(*Frame) []Route) (*Frame, error) {
	s := &Frame{Store: o.Store, Log: o.Log, Now: o.Now, Live: live.NewHub(), Boards: live.NewBoards(),
		Ended: make(chan struct{}), Catalogues: catalogue.New(o.Catalogue, o.Store, o.Log)}
	if s.Now == nil {
		s.Now = time.Now
	}
	s.public, s.recheck = strings.TrimSuffix(o.Public, "/"), o.Recheck
	if s.public == "" {
		s.public = "http://127.0.0.1:8080"
	}
	s.Runner = o.Runner
	s.secure, s.front, s.within = o.Secure, o.Front, o.Within
	s.figures, s.shelf = s.newFigures(), knowledge.NewShelf()
	if s.recheck == 0 {
		s.recheck = recheck
	}
	s.table = table(s)
	var err error
	if s.files, err = openInterface(o.Interface); err != nil {
		return nil, err
	}
	s.Sessions = scs.New()
	s.Sessions.Store = pgxstore.NewWithCleanupInterval(o.Store.Pool(), 0) // forgetSessions does that
	s.Sessions.Lifetime = WorkingDay
	s.Sessions.HashTokenInStore = true
	s.Sessions.Cookie.Name = s.cookieName("maestrale")
	s.Sessions.Cookie.HttpOnly = true
	s.Sessions.Cookie.SameSite = http.SameSiteLaxMode
	s.Sessions.Cookie.Secure = o.Secure
	s.Sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		s.Log.ErrorContext(r.Context(), "session", "error", err)
		http.Error(w, msgSessionCouldNot,
			http.StatusServiceUnavailable)
	}
	gin.SetMode(gin.ReleaseMode)
	s.engine = gin.New()
	s.engine.HandleMethodNotAllowed = true
	s.engine.MaxMultipartMemory = 1 << 20
	if err := s.engine.SetTrustedProxies(nil); err != nil {
		return nil, fmt.Errorf("proxies: %w", err)
	}
	if err := s.routes(); err != nil {
		return nil, err
	}
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		http.Error(w, msgRequestCameFrom, http.StatusForbidden)
	}))
	s.handler = headless(s.logged(s.secured(guard.Handler(compressed(s.Sessions.LoadAndSave(s.engine))))))
	go s.listen()
	go s.forgetSessions()
	return s, nil
}

// cookieName is the full name of a cookie: with HTTPS a browser takes it from this very server only, and never over
// plain HTTP (RFC 6265bis, the prefix __Host-).
func (s *Frame) cookieName(name string) string {
	if s.secure {
		return "__Host-" + name
	}
	return name
}

// stayOnHTTPS is for how long a browser stays with HTTPS: a month with an own authority, which may be taken away again.
func (s *Frame) stayOnHTTPS() string {
	if s.front != nil && s.front.Authority != nil {
		return "max-age=2592000"
	}
	return "max-age=31536000"
}

// forgetSessions forgets the sessions that have ended, now and then, until the server ends.
func (s *Frame) forgetSessions() {
	tick := time.NewTicker(30 * time.Minute)
	defer tick.Stop()
	for {
		select {
		case <-s.Ended:
			return
		case <-tick.C:
			ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
			if err := s.Store.ForgetSessions(ctx); err != nil {
				s.Log.ErrorContext(ctx, "sessions", "error", err)
			}
			cancel()
		}
	}
}

// ServeHTTP serves one request.
func (s *Frame) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// End lets the lines go on which pages wait for news, so that the server can stop.
func (s *Frame) End() { s.ending.Do(func() { close(s.Ended) }) }

// Close ends what runs beside the requests.
func (s *Frame) Close() {
	s.End()
	s.Live.Close()
}

func (s *Frame) routes() error {
	static, err := fs.Sub(s.files, "dist")
	if err != nil {
		return fmt.Errorf("interface files: %w", err)
	}
	files := http.StripPrefix("/static/", http.FileServerFS(static))
	s.engine.GET("/static/*file", named(false), func(c *gin.Context) {
		// The pages name the files with their sum, so that they never go stale;
		// the style sheet names the font, which changes its name when it changes.
		if c.Query("v") != "" || strings.HasSuffix(c.Param("file"), ".woff2") {
			c.Header("Cache-Control", "public, max-age=31536000, immutable")
		}
		if c.Param("file") == "/judge.js" {
			AllowWasm(c) // a worker has a policy of its own
		}
		if s.squeezed(c, strings.TrimPrefix(c.Param("file"), "/")) {
			return
		}
		files.ServeHTTP(c.Writer, c.Request)
	})
	if s.files.disk {
		s.engine.GET("/develop/changes", s.reloads)
	}
	s.engine.GET("/healthz", named(false), func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	s.engine.GET("/readyz", named(false), s.ready)
	s.engine.NoRoute(s.founded(false), s.identified, func(c *gin.Context) { s.NotFound(c) })
	s.engine.NoMethod(func(c *gin.Context) {
		s.Problem(c, http.StatusMethodNotAllowed, Problem{What: msgAddressDoesNot,
			Do: msgGoBackUse})
	})
	for _, r := range s.table {
		s.engine.Handle(r.Method, r.Path, named(r.Live), s.limited(r), s.founded(r.Setup), s.identified, s.allowed(r.Roles),
			s.readable(r), func(c *gin.Context) { s.answer(r, c) })
	}
	return nil
}

// answer lets a route's handler answer. An answer that goes on is counted, and ends when it may no longer.
func (s *Frame) answer(r Route, c *gin.Context) {
	if !r.Live {
		r.Handler(s.request(c), c)
		return
	}
	if c.Request.Context().Value(headKey{}) != nil {
		c.Status(http.StatusOK) // what follows the head would never end
		return
	}
	p := Person(c)
	leave, ok := s.lively.enter(p.ID, p.SchoolID)
	if !ok {
		c.Header("Retry-After", "30")
		s.Problem(c, http.StatusTooManyRequests, Problem{What: msgTooManyPages,
			Do: msgCloseSomeThem})
		return
	}
	defer leave()
	defer s.alive(c, r.Roles)()
	r.Handler(s.request(c), c)
}

// request is the frame around a request: the catalogue is that of the school that asks.
func (s *Frame) request(c *gin.Context) Request {
	r := Request{Frame: s, Cat: s.Catalogues.Shipped, Who: Person(c)}
	if r.Who != nil {
		r.SignIn = s.Here(c)
	}
	if r.Who != nil {
		r.Cat = s.Catalogues.Of(c.Request.Context(), r.Who.SchoolID, r.Who.Files)
	}
	return r
}

// Front is how the server is reached; nil where that is not known.
func (s *Frame) Front() *reach.Front { return s.front }

// Served counts the addresses that are served, the static files and the health checks among them.
func (s *Frame) Served() int { return len(s.engine.Routes()) }

// Table is every address, in the order in which they were given.
func (s *Frame) Table() []Route { return s.table }

func (s *Frame) ready(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 5*time.Second)
	defer cancel()
	if err := s.Store.Ready(ctx); err != nil {
		s.Log.ErrorContext(ctx, "not ready", "error", err)
		c.String(http.StatusServiceUnavailable, msgDatabaseDoesNot)
		return
	}
	c.String(http.StatusOK, "ready\n")
}
