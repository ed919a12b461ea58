package web

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"html/template"
	"io/fs"
	"math"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/ui"
)

// page is what every screen shows around its own part.
type page struct {
	Title  string
	Place  string // which word of the row is current
	Person *store.Person
	Day    string
	Wind   windModel
	Action *action
	Keys   []key
	Body   any
	Script string // the page's own, besides app.js
	Wasm   bool   // it runs the simulator
}

// action is the page's one main action, always bottom right.
type action struct{ Label, Href, Key string }

// key is a key of the screen and what it does.
type key struct{ Key, Does string }

func ago(d time.Duration) string {
	switch {
	case d < time.Minute:
		return fmt.Sprintf("%d s ago", max(0, int(d.Seconds())))
	case d < time.Hour:
		return fmt.Sprintf("%d min ago", int(d.Minutes()))
	case d < 48*time.Hour:
		return fmt.Sprintf("%d h ago", int(d.Hours()))
	}
	return fmt.Sprintf("%d days ago", int(d.Hours()/24))
}

// zone is the school's time zone.
func zone(p *store.Person) *time.Location {
	if l, err := time.LoadLocation(p.TimeZone); err == nil {
		return l
	}
	return time.UTC
}

var staticSums = func() map[string]string {
	sums := map[string]string{}
	_ = fs.WalkDir(ui.Files, "dist", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := fs.ReadFile(ui.Files, name)
		sum := sha256.Sum256(data)
		sums[strings.TrimPrefix(name, "dist/")] = hex.EncodeToString(sum[:6])
		return err
	})
	return sums
}()

var funcs = template.FuncMap{
	"static": func(name string) (string, error) {
		sum, ok := staticSums[name]
		if !ok {
			return "", fmt.Errorf("interface file %q is missing; run make build", name)
		}
		return "/static/" + name + "?v=" + sum, nil
	},
	"margin": func(m *float64) string {
		if m == nil {
			return "—"
		}
		return strings.Replace(fmt.Sprintf("%+.2f", *m), "-", "−", 1)
	},
	"one": func(v *float64) string {
		if v == nil {
			return "—"
		}
		return fmt.Sprintf("%.1f", *v)
	},
	"signed": func(v *float64) string {
		if v == nil {
			return "—"
		}
		return strings.Replace(fmt.Sprintf("%+.1f", *v), "-", "−", 1)
	},
	"num":  func(v float64) string { return number(v) },
	"aids": func(a craft.Aids) string { return a.Words() },
	"side": func(s any) string {
		if t := fmt.Sprint(s); t != "none" {
			return t
		}
		return ""
	},
	"inc":   func(i int) int { return i + 1 },
	"feet":  course.Feet,
	"m1":    func(v float64) string { return fmt.Sprintf("%.1f", v) },
	"m2":    func(v float64) string { return fmt.Sprintf("%.2f", v) },
	"whole": func(v float64) string { return fmt.Sprintf("%.0f", v) },
	"deg":   func(a field.Angle) string { return fmt.Sprintf("%.0f°", a.Compass()) },
	"place": func(v float64) string { return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) },
	"milli": func(v float64) float64 { return 1000 * v },
	"site":  siteOf,
	"list":  func(v ...string) []string { return v },
	"newid": func() string { return store.NewID().String() },
	"hatch": func() template.HTML { return draw.Hatch },
}

// number writes a figure with the digits that say something.
func number(v float64) string {
	places := 2
	if math.Abs(v) >= 10 {
		places = 1
	}
	return strconv.FormatFloat(math.Round(v*math.Pow10(places))/math.Pow10(places), 'f', -1, 64)
}

// counted says a number of things: "1 day", "3 days".
func counted(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}

func parsePages() (map[string]*template.Template, error) {
	names, err := fs.Glob(ui.Files, "templates/*.html")
	if err != nil {
		return nil, fmt.Errorf("templates: %w", err)
	}
	base, err := template.New("").Funcs(funcs).ParseFS(ui.Files, "templates/parts/*.html")
	if err != nil {
		return nil, fmt.Errorf("templates: %w", err)
	}
	pages := map[string]*template.Template{}
	for _, name := range names {
		t, err := template.Must(base.Clone()).ParseFS(ui.Files, name)
		if err != nil {
			return nil, fmt.Errorf("templates: %w", err)
		}
		pages[strings.TrimSuffix(strings.TrimPrefix(name, "templates/"), ".html")] = t
	}
	return pages, nil
}

// render writes a screen, or only its part for htmx where the screen has one.
func (s *Server) render(c *gin.Context, status int, name string, p page) {
	p.Person = person(c)
	if p.Person != nil {
		p.Day = s.now().In(zone(p.Person)).Format("Monday 2 January")
		p.Wind = s.windOf(p.Person)
	}
	t, ok := s.pages[name]
	if !ok {
		s.failed(c, fmt.Errorf("no page %q", name))
		return
	}
	entry, data := "layout", any(p)
	if c.GetHeader("HX-Request") != "" && t.Lookup("fragment") != nil {
		entry, data = "fragment", p.Body
	}
	var buf bytes.Buffer // so that a failing template shows no half page
	if err := t.ExecuteTemplate(&buf, entry, data); err != nil {
		s.log.ErrorContext(c.Request.Context(), "render", "page", name, "error", err)
		c.String(http.StatusInternalServerError, "The page could not be drawn. Nothing was changed; go back and try again.")
		return
	}
	c.Data(status, "text/html; charset=utf-8", buf.Bytes())
}

// part writes one of the shared parts alone.
func (s *Server) part(c *gin.Context, name string, data any) {
	var buf bytes.Buffer
	if err := s.pages["problem"].ExecuteTemplate(&buf, name, data); err != nil {
		s.log.ErrorContext(c.Request.Context(), "render", "part", name, "error", err)
		c.String(http.StatusInternalServerError, "")
		return
	}
	c.Data(http.StatusOK, "text/html; charset=utf-8", buf.Bytes())
}

// problem says what happened, what was kept, and what to do.
type problem struct{ What, Kept, Do, Detail string }

// wantsJSON tells that a script asks, and not a page.
func wantsJSON(c *gin.Context) bool {
	return strings.HasPrefix(c.ContentType(), "application/json")
}

func (s *Server) problem(c *gin.Context, status int, p problem) {
	if p.Kept == "" {
		p.Kept = "Nothing was changed."
	}
	if wantsJSON(c) {
		c.JSON(status, gin.H{"error": p.What, "kept": p.Kept, "do": p.Do})
		return
	}
	s.render(c, status, "problem", page{Title: p.What, Body: p})
}

func (s *Server) notFound(c *gin.Context) {
	s.problem(c, http.StatusNotFound, problem{What: "There is nothing here.", Do: "Check the address, or jump to a student or drill with the key /."})
}

// failed answers an error that is nobody's mistake, or a "not found".
func (s *Server) failed(c *gin.Context, err error) {
	if errors.Is(err, store.ErrNotFound) {
		s.notFound(c)
		return
	}
	if c.Request.Context().Err() != nil {
		return // whoever asked has left
	}
	s.log.ErrorContext(c.Request.Context(), "failed", "error", err)
	s.problem(c, http.StatusInternalServerError, problem{
		What: "Something went wrong here.", Do: "Try again; if it stays so, tell the chief instructor this number: " + c.Writer.Header().Get("X-Request-Id"),
	})
}

// wrongInput answers what a person has to put right.
func (s *Server) wrongInput(c *gin.Context, what, do string) {
	s.problem(c, http.StatusUnprocessableEntity, problem{What: what, Do: do})
}
