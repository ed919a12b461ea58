package frame

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/pack"
	"maestrale/core/units"
	"maestrale/internal/draw"
	"maestrale/internal/guide"
	"maestrale/internal/store"
	"maestrale/internal/words"
)

// Page is what every screen shows around its own part.
type Page struct {
	Title  string
	Place  string // which word of the row is current
	Person *store.Person
	SignIn string // which sign-in the page is for; empty for a page that is nobody's
	Given  string // the first name of the person
	Places []Place
	Day    string
	Wind   WindModel
	Action *Action
	Keys   []Key
	Body   any
	Script string // the page's own, besides app.js
	Wasm   bool   // it runs the simulator
	Reload bool   // the program is being worked on
	// Nobodys is for a page that devices keep: it must say nothing of who asked for it.
	Nobodys bool
	ToDo    string // the first steps of the school that are left; empty = none, or not for this person
}

// Place is a word of the row of places. Class is "first" for those that stand in the row on a phone too, and "first
// phone-only" for those that stand nowhere else.
type Place struct{ Name, Words, Href, Class string }

// placesOf are the places of a role, those that it uses most first.
func placesOf(role string) []Place {
	if role == store.Learner {
		return []Place{{"Students", "My record", "/", "first"}, {"Fly", "Fly", "/fly", "first"},
			{"Programmes", "Programmes", "/programmes", "first"}}
	}
	return []Place{{"Today", "Today", "/today", "first"}, {"Pad", "Pad", "/pad", "first phone-only"},
		{"Students", "Students", "/students", "first"}, {"Fly", "Fly", "/fly", ""}, {"Course", "Course", "/course", ""},
		{"Fleet", "Fleet", "/fleet", ""}, {"Programmes", "Programmes", "/programmes", ""},
		{"Records", "Records", "/records", ""}, {"School", "School", "/school", ""}}
}

// Action is the page's one main action, always bottom right.
type Action struct{ Label, Href, Key string }

// Key is a key of the screen and what it does.
type Key struct{ Key, Does string }

var funcs = template.FuncMap{
	"margin": func(m *float64) string {
		if m == nil {
			return "—"
		}
		return strings.Replace(fmt.Sprintf("%+.2f", *m), "-", "−", 1)
	},
	"marginsays": marginSays,
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
	"num":  func(v float64) string { return words.Number(v) },
	"aids": func(a craft.Aids) string { return a.Words() },
	"side": func(s any) string {
		if t := fmt.Sprint(s); t != "none" {
			return t
		}
		return ""
	},
	"term":    term,
	"how":     guide.KeyOf,
	"inc":     func(i int) int { return i + 1 },
	"feet":    course.Feet,
	"m1":      func(v float64) string { return fmt.Sprintf("%.1f", v) },
	"m2":      func(v float64) string { return fmt.Sprintf("%.2f", v) },
	"whole":   func(v float64) string { return fmt.Sprintf("%.0f", v) },
	"deg":     func(a field.Angle) string { return fmt.Sprintf("%.0f°", a.Compass()) },
	"place":   func(v float64) string { return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) },
	"milli":   func(v float64) float64 { return 1000 * v },
	"site":    siteOf,
	"list":    func(v ...string) []string { return v },
	"newid":   func() string { return store.NewID().String() },
	"packbar": func(st pack.State) template.HTML { return draw.Pack(st.Charge, st.Known, string(st.Fitness)) },
	"hatch":   func() template.HTML { return draw.Hatch },
}

// Render writes a screen, or only its part for htmx where the screen has one.
func (s *Frame) Render(c *gin.Context, status int, name string, p Page) {
	p.Person = Person(c)
	if p.Person != nil {
		if id := s.Here(c); id != nil && !p.Nobodys {
			p.SignIn = id.String()
		}
		p.Places, p.Given = placesOf(p.Person.Role), givenName(p.Person.Name)
		p.Day = s.Now().In(p.Person.Zone()).Format("Mon 2 Jan")
		p.Wind = s.WindOf(p.Person)
		if c.GetHeader("HX-Request") == "" && saysToDo(name) {
			p.ToDo = s.toDo(c, p.Person)
		}
	}
	files, err := s.files.now()
	if err != nil {
		s.Log.ErrorContext(c.Request.Context(), "interface", "error", err)
		c.String(http.StatusInternalServerError, msgPageCouldNot, err)
		return
	}
	p.Reload = files.disk
	t, ok := files.pages[name]
	if !ok {
		s.Failed(c, fmt.Errorf("no page %q", name))
		return
	}
	entry, data := "layout", any(p)
	if c.GetHeader("HX-Request") != "" && t.Lookup("fragment") != nil {
		entry, data = "fragment", p.Body
	}
	var buf bytes.Buffer // so that a failing template shows no half page
	if err := t.ExecuteTemplate(&buf, entry, data); err != nil {
		s.Log.ErrorContext(c.Request.Context(), "render", "page", name, "error", err)
		c.String(http.StatusInternalServerError, msgPageCouldNotDrawn)
		return
	}
	c.Data(status, "text/html; charset=utf-8", spoken(buf.Bytes(), unitsOf(p.Person)))
}

// marginSays is a margin in words: how much of the limit the worst figure left, or how far over it that was.
func marginSays(m *float64) string {
	switch {
	case m == nil:
		return ""
	case *m >= 0:
		return fmt.Sprintf(msgLimitLeft, 100**m)
	case *m > -1:
		return fmt.Sprintf(msgOverLimit, -100**m)
	}
	return fmt.Sprintf(msgTimesLimit, 1-*m)
}

// term links a word to what it means; the second argument is the form in which it stands, where it is another.
func term(key string, as ...string) (template.HTML, error) {
	t, known := guide.Word(key)
	if !known {
		return "", fmt.Errorf("the word %q is in no list", key)
	}
	shown := strings.ToLower(t.Word)
	if len(as) > 0 {
		shown = as[0]
	}
	return template.HTML(`<a class="term" href="/how/words#` + t.Key + `">` + //nolint:gosec // a key of our own
		template.HTMLEscapeString(shown) + `</a>`), nil
}

// givenName is the first word of a name.
func givenName(name string) string {
	given, _, _ := strings.Cut(name, " ")
	return given
}

// unitsOf are the units in which a page is said; nobody's are SI.
func unitsOf(p *store.Person) units.System {
	if p == nil {
		return units.Metric
	}
	return p.Units()
}

// saysToDo tells whether a screen shows which first steps are left: where a chief begins, and not on the pages of one
// student, which are opened most.
func saysToDo(name string) bool {
	switch name {
	case "today", "students", "school", "people", "import", "fleet", "sites", "course", "programmes", "records":
		return true
	}
	return false
}

// Part writes one of the shared parts alone.
func (s *Frame) Part(c *gin.Context, name string, data any) {
	var buf bytes.Buffer
	files, err := s.files.now()
	if err == nil {
		err = files.pages["problem"].ExecuteTemplate(&buf, name, data)
	}
	if err != nil {
		s.Log.ErrorContext(c.Request.Context(), "render", "part", name, "error", err)
		c.String(http.StatusInternalServerError, "")
		return
	}
	c.Data(http.StatusOK, "text/html; charset=utf-8", spoken(buf.Bytes(), unitsOf(Person(c))))
}

// Problem says what happened, what was kept, and what to do.
type Problem struct{ What, Kept, Do, Detail string }

// WantsJSON tells that a script asks, and not a page.
func WantsJSON(c *gin.Context) bool {
	return strings.HasPrefix(c.ContentType(), "application/json") ||
		strings.HasPrefix(c.GetHeader("Accept"), "application/json")
}

func (s *Frame) Problem(c *gin.Context, status int, p Problem) {
	if p.Kept == "" {
		p.Kept = msgNothingChanged
	}
	if WantsJSON(c) {
		c.JSON(status, gin.H{"error": p.What, "kept": p.Kept, "do": p.Do})
		return
	}
	s.Render(c, status, "problem", Page{Title: p.What, Body: p})
}

func (s *Frame) NotFound(c *gin.Context) {
	s.Problem(c, http.StatusNotFound, Problem{What: msgNothingHere,
		Do: msgCheckAddressOr})
}

// Failed answers an error that is nobody's mistake, or a "not found".
func (s *Frame) Failed(c *gin.Context, err error) {
	if errors.Is(err, store.ErrNotFound) {
		s.NotFound(c)
		return
	}
	switch wrong := store.BadText(err); {
	case errors.Is(err, store.ErrOverloaded), errors.Is(err, context.DeadlineExceeded):
		c.Header("Retry-After", "3")
		s.Problem(c, http.StatusServiceUnavailable, Problem{What: msgSchoolComputerToo,
			Do: msgTryAgainFew})
		return
	case store.Away(err):
		s.Log.ErrorContext(c.Request.Context(), "database", "error", err)
		c.Header("Retry-After", "5")
		s.Problem(c, http.StatusServiceUnavailable, Problem{What: msgSchoolDatabaseDoes,
			Do: msgTryAgainFew})
		return
	case wrong != "":
		s.Problem(c, http.StatusBadRequest, Problem{What: fmt.Sprintf(msgWhatSentText, wrong),
			Do: msgTypeAnewInstead})
		return
	case c.Request.Context().Err() != nil:
		return // whoever asked has left
	}
	s.Log.ErrorContext(c.Request.Context(), "failed", "error", err)
	s.Problem(c, http.StatusInternalServerError, Problem{
		What: msgSomethingWentWrong, Do: fmt.Sprintf(msgTryAgainIf, c.Writer.Header().Get("X-Request-Id")),
	})
}

// WrongInput answers what a person has to put right.
func (s *Frame) WrongInput(c *gin.Context, what, do string) {
	s.Problem(c, http.StatusUnprocessableEntity, Problem{What: what, Do: do})
}
