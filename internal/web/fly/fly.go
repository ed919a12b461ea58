package fly

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/readiness"
	"maestrale/core/rig"
	"maestrale/internal/knowledge"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// flyModel is the Fly screen.
type flyModel struct {
	Student  store.Student
	Title    string
	Drill    *drill.Drill
	Side     field.Side
	Level    int
	Aids     craft.Aids
	Craft    craft.Type
	Families []readiness.Family
	Closed   bool // the chosen drill is not in the list, since it is closed to the student
	Levels   []int
	Sides    []field.Side
	AidsOf   []craft.Aids
	Steps    []string
	Caution  string
	WindMps  float64
	From     float64
	Gusts    string
	GustsOf  []string
	Courses  []frame.CourseChoice
	On       string // which course, in words
	Winds    []windChoice
	Config   string
	HideNose bool // on the plan
	Aid      []sceneAids
	Refused  []refusedRow // the newest, for those who teach
	Lost     *lostModel   // the lost-craft trainer
	TooFar   string       // it goes farther than the student tells the nose
}

type refusedRow struct{ ID, When, Why string }

type windChoice struct {
	Mps, From float64
	Words     string
}

// winds are the winds that can be practised in.
var winds = []windChoice{{0, 0, "calm"}, {3, 180, "3 m/s from behind"}, {3, 270, msgFromLeft},
	{3, 0, "3 m/s from ahead"}, {6, 180, "6 m/s from behind"}, {6, 90, msgFromRight}}

// crowdBehind is how far behind the pilot the crowd line runs where a course lays
// none, m.
const crowdBehind = 5

// scene is what the page draws and flies: nothing of it is decided by the page.
type scene struct {
	Student string                     `json:"student"`
	Spec    trace.Spec                 `json:"spec"`
	Numbers []float64                  `json:"numbers"`
	Names   []string                   `json:"names"`
	Start   [4]float64                 `json:"start"` // right, away and up in m, heading in rad: for the first picture
	Gates   []float64                  `json:"gate_numbers"`
	Cues    []string                   `json:"gate_names"`
	Aid     int                        `json:"aid"` // at the start, a place in Aids
	Aids    []sceneAids                `json:"aids"`
	Frames  []string                   `json:"frames"`
	Modes   []string                   `json:"modes"`
	Craft   sceneCraft                 `json:"craft"`
	Markers map[string][2]float64      `json:"markers"`
	Limits  []sceneLimit               `json:"limits"`
	Figures []sceneFigure              `json:"figures"`
	Solids  []flight.Solid             `json:"solids"`
	Crowd   [][][2]float64             `json:"crowd"`  // the line that nobody flies over
	Fields  []string                   `json:"fields"` // of a state, in order
	Run     string                     `json:"run"`    // that is watched
	Radios  map[string]json.RawMessage `json:"radios"`
	Words   []string                   `json:"words"` // what each step asks
	Eye     float64                    `json:"eye_m"`
	Lost    *sceneLost                 `json:"lost,omitempty"`
	Hide    bool                       `json:"hide_nose,omitempty"` // on the plan: the drill trains to read it
}

type sceneAids struct {
	Key   string `json:"key"`
	Words string `json:"words"`
	Has   bool   `json:"has"`
	Holds bool   `json:"holds_height"`
}

type sceneCraft struct {
	Span   float64      `json:"span_m"`
	Radius float64      `json:"radius_m"`
	Rotors []sceneRotor `json:"rotors"`
	Colour string       `json:"colour"`
	Lights bool         `json:"lights"`
	Legs   float64      `json:"legs_m"`
	Land   float64      `json:"land_v"` // of the pack, in a hover
	Blades int          `json:"blades"` // of a propeller
	Hover  float64      `json:"hover_rps"`
}

type sceneRotor struct {
	Arm       float64 `json:"arm_m"`
	Angle     float64 `json:"angle_rad"`
	Clockwise bool    `json:"clockwise"`
}

func rotorsOf(c *flight.Craft) []sceneRotor {
	var out []sceneRotor
	for _, r := range c.Rotors {
		out = append(out, sceneRotor{r.Arm, r.Angle, r.Clockwise})
	}
	return out
}

// sceneFigure is a path: its places, and how far off it may be flown.
type sceneFigure struct {
	Points [][3]float64 `json:"points"`
	Cross  float64      `json:"cross_m"`
}

func figureOf(t drill.Target) sceneFigure {
	f := sceneFigure{Cross: t.Limits.Cross}
	n := max(24, int(t.Path.Length/0.3))
	for i := range n + 1 {
		at, _ := t.Path.At(t.Path.Length * (float64(i) / float64(n)) * (1 - 1e-12))
		f.Points = append(f.Points, [3]float64{at.X, at.Y, at.Z})
	}
	return f
}

type sceneLimit struct {
	At     [2]float64 `json:"at"`
	Radius float64    `json:"radius_m"`
	Height float64    `json:"height_m"`
	Band   float64    `json:"band_m"`
}

func (s Pages) FlyPage(c *gin.Context) {
	p := frame.Person(c)
	var refused []store.Run
	tell := 0.0
	j, err := s.Theirs(c, func(tx store.Tx, student uuid.UUID) (err error) {
		if tell, err = s.Students().TellM(c.Request.Context(), tx, student); err != nil {
			return err
		}
		if p.Role != store.Learner {
			refused, err = tx.RefusedRuns(c.Request.Context(), student, 20)
		}
		return err
	})
	var m flyModel
	if err == nil {
		m, err = s.flyModel(c, j, tell)
	}
	var wrong refusal.Error
	switch {
	case errors.As(err, &wrong):
		s.WrongInput(c, err.Error(), msgChooseAnotherDrill)
		return
	case err != nil:
		s.Failed(c, err)
		return
	}
	for _, r := range refused {
		m.Refused = append(m.Refused, refusedRow{r.ID.String(), r.FlownAt.In(p.Zone()).Format("Mon 2 Jan 15:04"), r.Refused})
	}
	frame.AllowWasm(c)
	s.Render(c, http.StatusOK, "fly", frame.Page{Title: "Fly: " + m.Title, Place: "Students", Body: m})
}

func (s Pages) flyModel(c *gin.Context, j *knowledge.Student, tellM float64) (flyModel, error) {
	m := flyModel{Student: j.Student, Craft: s.Cat.Craft[j.Student.CraftType],
		Families: readiness.ByFamily(j.Drills(true)),
		GustsOf:  flight.GustsNames[:], Winds: winds, Gusts: c.DefaultQuery("gusts",
			"none"), Level: 1, Title: "free flight", Side: field.NoSide}
	m.AidsOf = append(append([]craft.Aids{}, m.Craft.Aids...), m.Craft.OptionalAids...)
	if w := c.Query("wind"); w != "" {
		var err error
		if m.WindMps, m.From, err = course.ReadWind(w); err != nil {
			return m, refusal.Error(fmt.Sprintf(msgTheWindIs, err.Error()))
		}
	}
	m.Aids = craft.Aids(c.Query("aids"))
	if c.Query("drill") != "free" {
		if err := s.chooseDrill(c, &m, j, tellM); err != nil {
			return m, err
		}
	}
	if !slices.Contains(m.AidsOf, m.Aids) {
		m.Aids = m.Craft.Aids[0]
	}
	spec := trace.Spec{Craft: m.Craft.Key, Side: string(m.Side), Level: m.Level, Aids: string(m.Aids), WindMps: m.WindMps,
		WindFromDeg: m.From, Gusts: m.Gusts, Seed: rand.Uint32()} //nolint:gosec // gusts, not secrets
	if seed, err := strconv.ParseUint(c.Query("seed"), 10, 32); err == nil {
		spec.Seed = uint32(seed)
	}
	if m.Drill != nil {
		spec.Drill, spec.DrillSHA = m.Drill.Key, m.Drill.SHA256()
	}
	spec, setup, err := s.setUp(c, &m, spec)
	if err != nil {
		return m, err
	}
	sc, err := s.scene(setup, spec, m.Craft)
	if err != nil {
		return m, err
	}
	if m.Lost != nil {
		sc.Lost = &m.Lost.scene
	}
	sc.Student = j.Student.ID.String()
	if sc.Radios, err = s.radiosOf(c); err != nil {
		return m, err
	}
	if setup.Task != nil {
		m.Steps = sc.Words
	}
	m.Aid = sc.Aids
	data, err := json.Marshal(sc)
	m.Config, m.HideNose = string(data), sc.Hide
	return m, err
}

// chooseDrill fills in the drill that is flown, at a level within the pilot's eyes.
func (s Pages) chooseDrill(c *gin.Context, m *flyModel, j *knowledge.Student, tellM float64) error {
	cell, err := s.Chosen(c, j)
	if err != nil {
		return err
	}
	d := s.Cat.Drills[cell.Drill]
	if within, reach, err := d.Within(cell.Side, cell.Level, j.On.Class, nil, tellM); err == nil && tellM > 0 &&
		within != cell.Level {
		m.TooFar = fmt.Sprintf(msgLevelGoesFrom, cell.Level, reach,
			j.Student.Name, math.Floor(tellM))
		if within > 0 && c.Query("level") == "" {
			cell.Level = within
			m.TooFar += fmt.Sprintf(msgLevelSet, within)
		}
	}
	m.Closed = !slices.ContainsFunc(j.Drills(true), func(open drill.Drill) bool { return open.Key == d.Key })
	m.Drill, m.Side, m.Level, m.Aids, m.Title, m.Caution, m.Sides = &d, cell.Side, cell.Level, cell.Aids,
		s.Cat.TitleOf(cell.Drill, cell.Side), d.Caution, d.Sides()
	for i := range d.Levels {
		m.Levels = append(m.Levels, i+1)
	}
	return nil
}

// setUp makes what is flown: a run of the lost-craft trainer, or a flight on a course.
func (s Pages) setUp(c *gin.Context, m *flyModel, spec trace.Spec) (_ trace.Spec, setup rig.Setup, err error) {
	if key := c.Query("lost"); key != "" {
		if spec, setup, err = s.lostRun(key, spec, m); err != nil {
			return spec, setup, refusal.Error(err.Error())
		}
	} else {
		g, err := s.CourseIn(c, c.Query("course"))
		if err != nil {
			return spec, setup, err
		}
		spec.Course = g.Key
		if m.Courses, err = s.CoursesToFlyOn(c, g.Key); err != nil {
			return spec, setup, err
		}
		if setup, err = rig.SetUp(spec, s.Cat, g.Laid); err != nil {
			return spec, setup, refusal.Error(err.Error())
		}
		if setup.Task != nil {
			m.On = g.Words(*setup.Task)
		}
	}
	return spec, setup, nil
}

// scene gathers what the page draws and flies.
func (s Pages) scene(setup rig.Setup, spec trace.Spec, kind craft.Type) (scene, error) {
	cfg := &setup.Config
	sc := scene{Spec: spec, Fields: trace.Fields[:], Aid: int(cfg.Aids), Frames: flight.FrameNames[:],
		Modes: flight.Modes[:], Solids: cfg.Solids, Eye: course.EyeM, Markers: map[string][2]float64{"pad": {cfg.Start.X,
			cfg.Start.Y}},
		Craft: sceneCraft{Span: cfg.Craft.Span, Radius: cfg.Craft.Radius, Rotors: rotorsOf(&cfg.Craft),
			Colour: kind.CueColour, Lights: kind.Lights, Legs: cfg.Craft.Legs(), Blades: max(2,
				kind.Propeller.Blades), Hover: cfg.Craft.HoverRps}}
	var err error
	if sc.Craft.Land, err = rig.LandVolts(kind, cfg.Density); err != nil {
		return sc, err
	}
	sc.Start = [4]float64{cfg.Start.X, cfg.Start.Y, cfg.Start.Z, cfg.Heading}
	if sc.Numbers, sc.Names = trace.Flatten(cfg); sc.Names == nil {
		sc.Names = []string{}
	}
	if sc.Gates, sc.Cues = trace.FlattenGates(setup.Gates); sc.Cues == nil {
		sc.Cues = []string{}
	}
	for i, l := range cfg.Craft.Limits {
		sc.Aids = append(sc.Aids, sceneAids{flight.AidsNames[i], craft.Aids(flight.AidsNames[i]).Words(), l.Has,
			flight.Aids(i) <= flight.HeightHold})
	}
	if setup.Course != nil {
		for _, line := range setup.Course.Crowd {
			var l [][2]float64
			for _, at := range line {
				l = append(l, [2]float64{at.X, at.Y})
			}
			sc.Crowd = append(sc.Crowd, l)
		}
		for name, at := range setup.Course.Markers {
			sc.Markers[name] = [2]float64{at.X, at.Y}
		}
	}
	if len(sc.Crowd) == 0 { // those who look on stand behind the pilot
		sc.Crowd = [][][2]float64{{{cfg.Station.X - 30, cfg.Station.Y - crowdBehind}, {cfg.Station.X + 30,
			cfg.Station.Y - crowdBehind}}}
	}
	if setup.Task != nil {
		sc.Hide = setup.Task.Drill.ReadsNose()
		for _, t := range setup.Task.Steps {
			sc.Words = append(sc.Words, t.Words())
			if t.Path != nil {
				sc.Figures = append(sc.Figures, figureOf(t))
			}
			if t.HasAt && t.Kind == drill.GoTo {
				sc.Limits = append(sc.Limits, sceneLimit{[2]float64{t.At.X, t.At.Y}, t.Limits.Past, t.HeightM, t.Limits.Height})
			}
			if t.HasAt && t.Limits.Radius > 0 {
				sc.Limits = append(sc.Limits, sceneLimit{[2]float64{t.At.X, t.At.Y}, t.Limits.Radius, t.HeightM, t.Limits.Height})
			}
		}
	}
	return sc, nil
}
