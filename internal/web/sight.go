package web

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/orient"
	"maestrale/internal/draw"
	"maestrale/internal/store"
)

// mostCalls is how many of the newest calls how far a student tells is fitted from.
const mostCalls = 300

// sightWords say how far a student tells a craft's aspect.
type sightWords struct{ Tell, From, Interval string }

func sightSays(x orient.Sight) sightWords {
	w := sightWords{Tell: fmt.Sprintf("%.0f m", math.Floor(x.TellM)), From: "by the craft's colour cue; no calls yet"}
	switch {
	case x.FromCue && x.Calls > 0:
		w.From = fmt.Sprintf("by the craft's colour cue; %d calls are too few", x.Calls)
	case !x.FromCue:
		w.From = fmt.Sprintf("by %d calls", x.Calls)
		w.Interval = fmt.Sprintf("%.0f m, %.0f to %.0f m", x.HalfM, x.Low, x.High)
	}
	return w
}

// sightOf is how far a student tells the aspect of the craft that the student flies.
func (s *Server) sightOf(ctx context.Context, tx store.Tx, student uuid.UUID, light string) (orient.Sight, error) {
	st, err := tx.Student(ctx, student)
	if err != nil {
		return orient.Sight{}, err
	}
	calls, err := tx.Calls(ctx, student, st.CraftType, mostCalls)
	if err != nil {
		return orient.Sight{}, err
	}
	return orient.SightOf(s.cat.Craft[st.CraftType].CueSpaceM, orient.LightOf(light), store.OrientCalls(calls))
}

// tellM is how far a student tells the nose by day; 0 where the craft says no cue.
func (s *Server) tellM(ctx context.Context, tx store.Tx, student uuid.UUID) (float64, error) {
	st, err := tx.Student(ctx, student)
	if err != nil || s.cat.Craft[st.CraftType].CueSpaceM <= 0 {
		return 0, err
	}
	x, err := s.sightOf(ctx, tx, student, "")
	return x.TellM, err
}

// tellAloft reads how far the students who are in the air tell the nose of what they fly.
func (s *Server) tellAloft(ctx context.Context, tx store.Tx, b *board) error {
	b.tell = map[uuid.UUID]float64{}
	for i := range b.flown {
		f := &b.flown[i]
		kind := s.cat.Craft[b.craft[f.CraftID].Type]
		if !f.InAir() || f.StudentID == nil || kind.CueSpaceM <= 0 {
			continue
		}
		calls, err := tx.Calls(ctx, *f.StudentID, kind.Key, mostCalls)
		if err != nil {
			return err
		}
		x, err := orient.SightOf(kind.CueSpaceM, orient.Day, store.OrientCalls(calls))
		if err != nil {
			return fmt.Errorf("how far the nose is told: %w", err)
		}
		b.tell[f.ID] = x.TellM
	}
	return nil
}

// reachWords say how far a flight may go: from where the pack gets home, or to where its
// pilot tells the nose, whichever is nearer.
func reachWords(homeM, tellM float64) string {
	if tellM > 0 && tellM < homeM {
		return fmt.Sprintf("no farther than %.0f m, to which the nose is told", math.Floor(tellM))
	}
	return "gets home from " + metresWords(homeM)
}

// tooFarWords says that a task goes farther than a student tells the nose; empty where not.
func tooFarWords(t drill.Task, name string, tellM float64) string {
	far := t.ReachM()
	if tellM <= 0 || far <= tellM {
		return ""
	}
	return fmt.Sprintf("It goes %.0f m from the eyes; %s tells the nose to %.0f m", far, name, math.Floor(tellM))
}

// sightModel is the page of how far a student tells the aspect.
type sightModel struct {
	Student  store.Student
	Craft    string
	Light    orient.Light
	Lights   []orient.Light
	Sight    orient.Sight
	Says     sightWords
	Cue      string
	Curve    template.HTML
	Rows     []callRow
	CanNote  bool
	Config   string
	Advice   string
	Aspects  []string
	NoCue    bool
	Limiting []string
}

type callRow struct {
	When, Distance, Shown, Called, Light string
	Right                                bool
}

// aspectNames name orient.CalledAmong.
var aspectNames = []string{"tail-in", "nose right", "nose-in", "nose left"}

func calledName(i int) string {
	if i < 0 || i >= len(aspectNames) {
		return "could not tell"
	}
	return aspectNames[i]
}

// sightConfig is what the page on which calls are noted needs.
type sightConfig struct {
	Post    string      `json:"post"`
	Key     string      `json:"key"` // under which what was not sent is kept on the device
	Spacing float64     `json:"spacing_m"`
	Light   string      `json:"light"`
	Craft   string      `json:"craft"`
	Calls   []pastCall  `json:"calls"`
	Names   []string    `json:"names"`
	Fit     sightAnswer `json:"fit"`
}

type pastCall struct {
	DistanceM float64 `json:"distance_m"`
	Right     bool    `json:"right"`
	Light     string  `json:"light"`
}

// sightAnswer is the fit as the page shows it.
type sightAnswer struct {
	Tell     string `json:"tell"`
	From     string `json:"from"`
	Interval string `json:"interval"`
	Enough   bool   `json:"enough"`
	Calls    int    `json:"calls"`
}

func answerOf(x orient.Sight) sightAnswer {
	w := sightSays(x)
	return sightAnswer{w.Tell, w.From, w.Interval, x.Enough, x.Calls}
}

func (s *Server) sightPage(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var calls []store.Call
	j, err := s.theirs(c, func(tx store.Tx, id uuid.UUID) error {
		st, err := tx.Student(ctx, id)
		if err == nil {
			calls, err = tx.Calls(ctx, id, st.CraftType, mostCalls)
		}
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	kind := s.cat.Craft[j.student.CraftType]
	m := sightModel{Student: j.student, Craft: kind.Title, Light: orient.LightOf(c.Query("light")), Lights: orient.Lights, CanNote: p.Role != store.Learner, Aspects: aspectNames}
	if kind.CueSpaceM <= 0 {
		m.NoCue = true
		s.render(c, http.StatusOK, "sight", page{Title: "How far " + j.student.Name + " tells", Place: "Students", Body: m})
		return
	}
	list := store.OrientCalls(calls)
	if m.Sight, err = orient.SightOf(kind.CueSpaceM, m.Light, list); err != nil {
		s.failed(c, fmt.Errorf("how far it is told: %w", err))
		return
	}
	m.Says = sightSays(m.Sight)
	m.Cue = fmt.Sprintf("%.0f m", m.Sight.CueM)
	if m.Curve, err = draw.Tells(m.Sight, m.Light, list); err != nil {
		s.failed(c, fmt.Errorf("how far it is told: %w", err))
		return
	}
	for i := len(calls) - 1; i >= 0 && len(m.Rows) < 40; i-- {
		k := calls[i]
		m.Rows = append(m.Rows, callRow{k.At.In(zone(p)).Format("2 Jan 15:04"), fmt.Sprintf("%.0f m", k.DistanceM), calledName(k.Shown), calledName(k.Called), k.Light, k.Right()})
	}
	m.Limiting = s.tooFar(j, m.Sight)
	config := sightConfig{Post: "/students/" + j.student.ID.String() + "/sight", Key: "calls:" + j.student.ID.String(), Spacing: kind.CueSpaceM, Light: string(m.Light), Craft: kind.Key, Names: aspectNames, Fit: answerOf(m.Sight), Calls: []pastCall{}}
	for _, k := range calls {
		config.Calls = append(config.Calls, pastCall{k.DistanceM, k.Right(), k.Light})
	}
	data, err := json.Marshal(config)
	if err != nil {
		s.failed(c, fmt.Errorf("the page: %w", err))
		return
	}
	m.Config = string(data)
	allowWasm(c)
	s.render(c, http.StatusOK, "sight", page{Title: "How far " + j.student.Name + " tells", Place: "Students", Body: m, Script: "sight.js", Wasm: m.CanNote})
}

// tooFar are the drills of the student's ladder that go beyond where the aspect is told.
func (s *Server) tooFar(j *judged, x orient.Sight) (out []string) {
	seen := map[string]bool{}
	for _, cell := range j.programme.Cells() {
		d := s.cat.Drills[cell.Drill]
		if seen[d.Key] {
			continue
		}
		seen[d.Key] = true
		if level, reach, err := d.Within(d.Sides()[0], max(1, cell.Level), j.class, nil, x.TellM); err == nil && level == 0 {
			out = append(out, fmt.Sprintf("%s, %.0f m", d.Title, reach))
		}
	}
	return out
}

// sentCall is a call as the page sends it.
type sentCall struct {
	ID        uuid.UUID `json:"id"`
	At        time.Time `json:"at"`
	Craft     string    `json:"craft"`
	DistanceM float64   `json:"distance_m"`
	Light     string    `json:"light"`
	Shown     int       `json:"shown"`
	Called    int       `json:"called"`
}

// postCall keeps a call that was noted now, or earlier without a network.
func (s *Server) postCall(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	student, err := param(c, "student")
	if err != nil {
		s.failed(c, err)
		return
	}
	var in sentCall
	if err := json.NewDecoder(http.MaxBytesReader(c.Writer, c.Request.Body, 4<<10)).Decode(&in); err != nil {
		s.wrongInput(c, "The call could not be read.", "Reload the page; what was not sent stays on this device.")
		return
	}
	n := len(orient.CalledAmong)
	known := orient.LightOf(in.Light) == orient.Light(in.Light)
	if _, ok := s.cat.Craft[in.Craft]; !ok || in.ID == uuid.Nil || !(in.DistanceM >= 1 && in.DistanceM <= 1000) || in.Shown < 0 || in.Shown >= n || in.Called < -1 || in.Called >= n || !known {
		s.wrongInput(c, "The call could not be read: a craft, 1 to 1000 m, a light, and the aspects shown and called were expected.", "Reload the page.")
		return
	}
	now := s.now()
	if in.At.IsZero() || in.At.After(now) || now.Sub(in.At) > 90*24*time.Hour {
		in.At = now
	}
	var x orient.Sight
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		err := tx.AddCall(ctx, student, store.Call{ID: in.ID, CraftType: in.Craft, At: in.At.UTC().Truncate(time.Microsecond), DistanceM: in.DistanceM, Light: in.Light, Shown: in.Shown, Called: in.Called, NotedBy: p.ID})
		if err == nil {
			x, err = s.sightOf(ctx, tx, student, in.Light)
		}
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"kept": true, "fit": answerOf(x)})
}

// toldOn is how far the nose of a craft is told by those who fly it, on a course.
type toldOn struct {
	Cue    string
	By     []toldBy // those who called, the nearest first
	Beyond []string // drills that go farther than the nearest tells
}

type toldBy struct{ ID, Name, Tell string }

// mostTold is how many students a course is held to.
const mostTold = 40

// tellOnCourse holds a course to the students who fly a type and have called: the nearest of
// them limits it; without any the colour cue does.
func (s *Server) tellOnCourse(c *gin.Context, m *courseModel, t craft.Type) error {
	if t.CueSpaceM <= 0 {
		return nil
	}
	ctx := c.Request.Context()
	cue, err := orient.TellDistance(t.CueSpaceM, 1, orient.Day)
	if err != nil {
		return fmt.Errorf("how far the nose is told: %w", err)
	}
	m.Ask.TellM, m.Told.Cue = cue, fmt.Sprintf("%.0f m", math.Floor(cue))
	type one struct {
		st store.Student
		x  orient.Sight
	}
	var list []one
	err = s.store.InSchool(ctx, person(c).SchoolID, func(tx store.Tx) error {
		students, err := tx.StudentsWhoCalled(ctx, t.Key, mostTold)
		if err != nil {
			return err
		}
		for _, st := range students {
			calls, err := tx.Calls(ctx, st.ID, t.Key, mostCalls)
			if err != nil {
				return err
			}
			x, err := orient.SightOf(t.CueSpaceM, orient.Day, store.OrientCalls(calls))
			if err != nil {
				return fmt.Errorf("how far the nose is told: %w", err)
			}
			if !x.FromCue {
				list = append(list, one{st, x})
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	slices.SortStableFunc(list, func(a, b one) int { return cmp.Compare(a.x.TellM, b.x.TellM) })
	for i, k := range list {
		if i == 0 {
			m.Ask.TellM = k.x.TellM
		}
		m.Told.By = append(m.Told.By, toldBy{k.st.ID.String(), k.st.Name, fmt.Sprintf("%.0f m", math.Floor(k.x.TellM))})
	}
	return nil
}
