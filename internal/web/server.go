// Package web is the school's screens: one file per screen, its handler and
// its page. Handlers parse, call core or store, and render; the rules of the
// job are in core.
package web

import (
	"context"
	"fmt"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/orient"
	"maestrale/internal/live"
	"maestrale/internal/store"
	"maestrale/ui"
)

// Options say how the server runs.
type Options struct {
	Store     *store.Store
	Catalogue *drill.Catalogue
	Log       *slog.Logger
	Now       func() time.Time
	Secure    bool // cookies only over HTTPS
}

// Server is the web application.
type Server struct {
	store    *store.Store
	cat      *drill.Catalogue
	log      *slog.Logger
	now      func() time.Time
	sessions *scs.SessionManager
	cleanup  *pgxstore.PostgresStore
	pages    map[string]*template.Template
	engine   *gin.Engine
	handler  http.Handler
	live     *live.Hub
	boards   *live.Boards
	follows  *follows
	ending   *sync.Once
	ended    chan struct{} // closed when the server ends
	own      *ownDrills    // of the schools that have some
	all      []route       // the table of this server
	files    int64         // versions that cat is made of
	shipped  *drill.Catalogue
	schools  *comparisons // of bringing a lost craft home
}

// workingDay is how long a sign-in lasts.
const workingDay = 14 * time.Hour

// New makes the application.
func New(o Options) (*Server, error) {
	s := &Server{store: o.Store, cat: o.Catalogue, log: o.Log, now: o.Now, live: live.NewHub(), boards: live.NewBoards(), follows: &follows{by: map[uuid.UUID]*follow{}}, ended: make(chan struct{}), ending: &sync.Once{}, own: &ownDrills{by: map[uuid.UUID]*Server{}}, shipped: o.Catalogue, schools: &comparisons{by: map[string][][]orient.Compared{}}}
	s.all = s.table()
	if s.now == nil {
		s.now = time.Now
	}
	var err error
	if s.pages, err = parsePages(); err != nil {
		return nil, err
	}
	s.cleanup = pgxstore.NewWithCleanupInterval(o.Store.Pool(), 30*time.Minute)
	s.sessions = scs.New()
	s.sessions.Store = s.cleanup
	s.sessions.Lifetime = workingDay
	s.sessions.HashTokenInStore = true
	s.sessions.Cookie.Name = "maestrale"
	s.sessions.Cookie.HttpOnly = true
	s.sessions.Cookie.SameSite = http.SameSiteLaxMode
	s.sessions.Cookie.Secure = o.Secure
	s.sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		s.log.ErrorContext(r.Context(), "session", "error", err)
		http.Error(w, "The session could not be read. Nothing was changed; try again in a moment.", http.StatusServiceUnavailable)
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
		http.Error(w, "This request came from another site and was refused. Nothing was changed.", http.StatusForbidden)
	}))
	s.handler = s.logged(secured(guard.Handler(compressed(s.sessions.LoadAndSave(s.engine)))))
	go s.listen()
	return s, nil
}

// ServeHTTP serves one request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// End lets the lines go on which pages wait for news, so that the server can stop.
func (s *Server) End() { s.ending.Do(func() { close(s.ended) }) }

// Close ends what runs beside the requests.
func (s *Server) Close() {
	s.End()
	s.live.Close()
	s.cleanup.StopCleanup()
}

func (s *Server) routes() error {
	static, err := fs.Sub(ui.Files, "dist")
	if err != nil {
		return fmt.Errorf("interface files: %w", err)
	}
	files := http.StripPrefix("/static/", http.FileServerFS(static))
	s.engine.GET("/static/*file", func(c *gin.Context) {
		// The pages name the files with their sum, so that they never go stale;
		// the style sheet names the font, which changes its name when it changes.
		if c.Query("v") != "" || strings.HasSuffix(c.Param("file"), ".woff2") {
			c.Header("Cache-Control", "public, max-age=31536000, immutable")
		}
		files.ServeHTTP(c.Writer, c.Request)
	})
	s.engine.GET("/healthz", func(c *gin.Context) { c.String(http.StatusOK, "ok\n") })
	s.engine.GET("/readyz", s.ready)
	s.engine.NoRoute(s.identified, func(c *gin.Context) { s.notFound(c) })
	s.engine.NoMethod(func(c *gin.Context) {
		s.problem(c, http.StatusMethodNotAllowed, problem{What: "This address does not take that kind of request.", Do: "Go back and use the page's own buttons."})
	})
	for i, r := range s.table() {
		s.engine.Handle(r.method, r.path, s.identified, s.allowed(r.roles), func(c *gin.Context) { s.ofSchool(c)[i].handler(c) })
	}
	return nil
}

func (s *Server) ready(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), 5*time.Second)
	defer cancel()
	if err := s.store.Ready(ctx); err != nil {
		s.log.ErrorContext(ctx, "not ready", "error", err)
		c.String(http.StatusServiceUnavailable, "the database does not answer\n")
		return
	}
	c.String(http.StatusOK, "ready\n")
}
