package fly

import (
	"encoding/json"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/marking"
	"maestrale/core/orient"
	"maestrale/internal/draw"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// sightWords say how far a student tells a craft's aspect.
type sightWords struct{ Tell, From, Interval string }

func sightSays(x orient.Sight) sightWords {
	w := sightWords{Tell: fmt.Sprintf("%.0f m", math.Floor(x.TellM)), From: msgCraftColourCue}
	switch {
	case x.FromCue && x.Calls > 0:
		w.From = fmt.Sprintf(msgCraftColourCueCalls, x.Calls)
	case !x.FromCue:
		w.From = fmt.Sprintf("by %d calls", x.Calls)
		w.Interval = fmt.Sprintf("%.0f m, %.0f to %.0f m", x.HalfM, x.Low, x.High)
	}
	return w
}

// acuities are those of an eye that the page offers; 1 reads a minute of arc.
var acuities = []float64{1.25, 1, 0.8, 0.5}

// sightModel is the page of how far a student tells the aspect.
type sightModel struct {
	Student  store.Student
	Craft    string
	Light    orient.Light
	Lights   []orient.Light
	Acuity   float64 // of the eye, for the cue
	Eyes     []float64
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

func calledName(i int) string {
	if i < 0 || i >= len(marking.CalledNames) {
		return msgCouldNotTell
	}
	return marking.CalledNames[i]
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

func (s Pages) SightPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var calls []store.Call
	j, err := s.Theirs(c, func(tx store.Tx, id uuid.UUID) error {
		st, err := tx.Student(ctx, id)
		if err == nil {
			calls, err = tx.Calls(ctx, id, st.CraftType, knowledge.MostCalls)
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	kind := s.Cat.Craft[j.Student.CraftType]
	m := sightModel{Student: j.Student, Craft: kind.Title, Light: orient.LightOf(c.Query("light")), Lights: orient.Lights,
		Eyes: acuities, CanNote: p.Role != store.Learner, Aspects: marking.CalledNames}
	if kind.CueSpaceM <= 0 {
		m.NoCue = true
		s.Render(c, http.StatusOK, "sight", frame.Page{Title: "How far " + j.Student.Name + " tells", Place: "Students",
			Body: m})
		return
	}
	list := store.OrientCalls(calls)
	m.Acuity = 1
	for _, a := range acuities {
		if c.Query("acuity") == words.Number(a) {
			m.Acuity = a
		}
	}
	if m.Sight, err = orient.SightOf(kind.CueSpaceM, m.Acuity, m.Light, list); err != nil {
		s.Failed(c, fmt.Errorf("how far it is told: %w", err))
		return
	}
	m.Says = sightSays(m.Sight)
	m.Cue = fmt.Sprintf("%.0f m", m.Sight.CueM)
	if m.Curve, err = draw.Tells(m.Sight, m.Light, list); err != nil {
		s.Failed(c, fmt.Errorf("how far it is told: %w", err))
		return
	}
	for i := len(calls) - 1; i >= 0 && len(m.Rows) < 40; i-- {
		k := calls[i]
		m.Rows = append(m.Rows, callRow{k.At.In(p.Zone()).Format("2 Jan 15:04"), fmt.Sprintf("%.0f m", k.DistanceM),
			calledName(k.Shown), calledName(k.Called), k.Light, k.Right()})
	}
	m.Limiting = s.tooFar(j, m.Sight)
	config := marking.Calls{Student: j.Student.ID.String(), Name: j.Student.Name, Craft: kind.Key, Title: kind.Title,
		SpacingM: kind.CueSpaceM, Light: m.Light, Calls: append([]orient.Call{}, list...), Names: marking.CalledNames}
	data, err := json.Marshal(config)
	if err != nil {
		s.Failed(c, fmt.Errorf("the page: %w", err))
		return
	}
	m.Config = string(data)
	frame.AllowWasm(c)
	s.Render(c, http.StatusOK, "sight", frame.Page{Title: "How far " + j.Student.Name + " tells", Place: "Students",
		Body: m, Script: "sight.js", Wasm: m.CanNote})
}

// tooFar are the drills of the student's ladder that go beyond where the aspect is told.
func (s Pages) tooFar(j *knowledge.Student, x orient.Sight) (out []string) {
	seen := map[string]bool{}
	for _, cell := range j.Programme.Cells() {
		d := s.Cat.Drills[cell.Drill]
		if seen[d.Key] {
			continue
		}
		seen[d.Key] = true
		if level, reach, err := d.Within(d.Sides()[0], max(1, cell.Level), j.On.Class, nil, x.TellM); err == nil &&
			level == 0 {
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

// PostCall keeps a call that was noted now, or earlier without a network.
func (s Pages) PostCall(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	student, err := frame.Param(c, "student")
	if err != nil {
		s.Failed(c, err)
		return
	}
	var in sentCall
	if err := json.NewDecoder(http.MaxBytesReader(c.Writer, c.Request.Body, 4<<10)).Decode(&in); err != nil {
		s.WrongInput(c, msgCallCouldNot, msgReloadPageWhat)
		return
	}
	n := len(orient.CalledAmong)
	known := orient.LightOf(in.Light) == orient.Light(in.Light)
	if _, ok := s.Cat.Craft[in.Craft]; !ok || in.ID == uuid.Nil || !(in.DistanceM >= 1 && in.DistanceM <= 1000) ||
		in.Shown < 0 || in.Shown >= n || in.Called < -1 || in.Called >= n || !known {
		s.WrongInput(c, msgCallCouldNotRead, msgReloadPage)
		return
	}
	now := s.Now()
	if in.At.IsZero() || in.At.After(now) || now.Sub(in.At) > 90*24*time.Hour {
		in.At = now
	}
	var x orient.Sight
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		err := tx.AddCall(ctx, student, store.Call{ID: in.ID, CraftType: in.Craft, At: in.At.UTC().Truncate(time.Microsecond),
			DistanceM: in.DistanceM, Light: in.Light, Shown: in.Shown, Called: in.Called, NotedBy: p.ID})
		if err == nil {
			x, err = s.Students().Sight(ctx, tx, student, in.Light)
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"kept": true, "fit": answerOf(x)})
}
