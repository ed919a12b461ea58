package frame

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"maestrale/internal/reach"
	"net/http"
	"runtime/debug"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	"github.com/klauspost/compress/gzip"
)

type requestID struct{}

// LogHandler adds the request's id to every line that is logged for it.
type LogHandler struct{ slog.Handler }

// Handle logs one record.
func (h LogHandler) Handle(ctx context.Context, r slog.Record) error {
	if id, ok := ctx.Value(requestID{}).(string); ok {
		r.AddAttrs(slog.String("request", id))
	}
	return h.Handler.Handle(ctx, r)
}

// WithAttrs keeps the wrapping.
func (h LogHandler) WithAttrs(a []slog.Attr) slog.Handler { return LogHandler{h.Handler.WithAttrs(a)} }

// WithGroup keeps the wrapping.
func (h LogHandler) WithGroup(name string) slog.Handler { return LogHandler{h.Handler.WithGroup(name)} }

// answer remembers what was answered, for the log.
type answer struct {
	http.ResponseWriter
	status int
	bytes  int
	route  string // the pattern of the address; empty where nothing answers
	live   bool
}

func (a *answer) WriteHeader(status int) {
	if a.status >= http.StatusOK {
		return // the session could not be kept, and that was answered already
	}
	a.status = status
	a.ResponseWriter.WriteHeader(status)
}

func (a *answer) Write(p []byte) (int, error) {
	if a.status == 0 {
		a.status = http.StatusOK
	}
	n, err := a.ResponseWriter.Write(p)
	a.bytes += n
	return n, err
}

// Unwrap lets the server find what the connection can do.
func (a *answer) Unwrap() http.ResponseWriter { return a.ResponseWriter }

// logged gives each request an id, logs it, and keeps panics from people.
func (s *Frame) logged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		id := uuid.NewString()
		w.Header().Set("X-Request-Id", id)
		a, begin := &answer{ResponseWriter: w, route: "none"}, time.Now()
		r = r.WithContext(context.WithValue(context.WithValue(r.Context(), requestID{}, id), answerKey{}, a))
		defer func() {
			if p := recover(); p != nil {
				if a.status != 0 { // it has begun, and must not look as if it had come to its end
					defer panic(http.ErrAbortHandler)
				}
				if p != http.ErrAbortHandler { //nolint:errorlint // it is this very value
					s.Log.ErrorContext(r.Context(), "panic", "what", p, "stack", string(debug.Stack()))
				}
				if a.status == 0 {
					http.Error(a, fmt.Sprintf(msgSomethingWentWrongHere, id),
						http.StatusInternalServerError)
				}
			}
			took := time.Since(begin)
			s.observe(a, method(r), took)
			s.Log.InfoContext(r.Context(), "request", "method", method(r), "route", a.route, "status", a.status, "bytes",
				a.bytes, "ms", float64(took.Microseconds())/1000)
		}()
		next.ServeHTTP(a, r)
	})
}

// method keeps words that somebody made up out of the log and the figures.
func method(r *http.Request) string {
	switch r.Method {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodDelete, http.MethodOptions:
		return r.Method
	}
	return "other"
}

const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; " +
	"connect-src 'self'; media-src 'self' blob:; form-action 'self'; base-uri 'none'; frame-ancestors 'none'; " +
	"manifest-src 'self'; worker-src 'self'"

// AllowWasm lets the page compile the simulator that ships with it, and nothing
// else.
func AllowWasm(c *gin.Context) {
	c.Header("Content-Security-Policy", strings.Replace(policy, "script-src 'self'",
		"script-src 'self' 'wasm-unsafe-eval'", 1))
}

// secured sets the headers that keep a page to what ships with it, and a browser to HTTPS where the server speaks it.
func (s *Frame) secured(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		if s.secure && reach.OverHTTPS(r) {
			h.Set("Strict-Transport-Security", s.stayOnHTTPS())
		}
		if !strings.HasPrefix(r.URL.Path, "/static/") {
			h.Set("Cache-Control", "no-store")
		}
		next.ServeHTTP(w, r)
	})
}

var zippers = sync.Pool{New: func() any {
	z, _ := gzip.NewWriterLevel(io.Discard, 6) // 6 is a level
	return z
}}

// zipped compresses what is text.
type zipped struct {
	http.ResponseWriter
	z       *gzip.Writer
	decided bool
}

func (w *zipped) decide() {
	if w.decided {
		return
	}
	w.decided = true
	h := w.Header()
	kind := h.Get("Content-Type")
	if h.Get("Content-Encoding") == "" && !strings.HasPrefix(kind, "text/event-stream") &&
		(strings.HasPrefix(kind, "text/") || strings.Contains(kind, "javascript") || strings.Contains(kind, "json") ||
			strings.Contains(kind, "svg") || strings.Contains(kind, "wasm")) {
		h.Set("Content-Encoding", "gzip")
		h.Del("Content-Length")
		w.z = zippers.Get().(*gzip.Writer)
		w.z.Reset(w.ResponseWriter)
	}
}

func (w *zipped) WriteHeader(status int) {
	if status != http.StatusNotModified && status != http.StatusNoContent {
		w.decide()
	}
	w.ResponseWriter.WriteHeader(status)
}

func (w *zipped) Write(p []byte) (int, error) {
	if !w.decided && w.Header().Get("Content-Type") == "" {
		w.Header().Set("Content-Type", http.DetectContentType(p))
	}
	w.decide()
	if w.z != nil {
		return w.z.Write(p)
	}
	return w.ResponseWriter.Write(p)
}

// Unwrap lets the server find what the connection can do.
func (w *zipped) Unwrap() http.ResponseWriter { return w.ResponseWriter }

func compressed(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Add("Vary", "Accept-Encoding")
		if !strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") || r.Header.Get("Range") != "" {
			next.ServeHTTP(w, r)
			return
		}
		z := &zipped{ResponseWriter: w}
		defer func() {
			if z.z != nil {
				_ = z.z.Close() // the reader has gone if this fails
				zippers.Put(z.z)
			}
		}()
		next.ServeHTTP(z, r)
	})
}
