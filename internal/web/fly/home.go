package fly

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/flight/trace"
	"maestrale/core/radio"
	"maestrale/core/rig"
	"maestrale/internal/live"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// flyHomeModel is the place from which the simulator is flown and watched.
type flyHomeModel struct {
	Own      uuid.UUID // of a student
	Students []store.Student
	Aloft    []aloftRow
	Watches  bool
	Radios   []string
	Craft    []craft.Type // that one who teaches may show a drill on
}

type aloftRow struct {
	Student uuid.UUID
	Name    string
	What    string
	Since   string
}

func (s Pages) FlyHome(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var m flyHomeModel
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		radios, err := tx.Radios(ctx, p.ID)
		for _, r := range radios {
			m.Radios = append(m.Radios, r.Device)
		}
		if err != nil || p.Role == store.Learner {
			return err
		}
		m.Students, err = tx.Students(ctx)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	if p.Role == store.Learner && p.StudentID != nil {
		m.Own = *p.StudentID
	} else {
		m.Watches, m.Aloft = true, s.aloft(p, m.Students)
		for _, key := range s.Cat.Craft.Keys() {
			m.Craft = append(m.Craft, s.Cat.Craft[key])
		}
	}
	s.Render(c, http.StatusOK, "flyhome", frame.Page{Title: "Fly", Place: "Fly", Body: m})
}

// OwnFlights opens the record of one who teaches: what is flown there is nobody's pass,
// and every student of the drill can lay it beside the own flight.
func (s Pages) OwnFlights(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var own store.Student
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		own, err = tx.OwnRecord(ctx, p.ID, store.Student{ID: store.NewID(), Name: p.Name, Programme: s.Cat.ProgrammeKeys()[0],
			CraftType: s.Cat.Craft.Keys()[0], StartedOn: s.Now()})
		return err
	})
	craftKey := c.PostForm("craft")
	if _, ok := s.Cat.Craft[craftKey]; err == nil && ok && craftKey != own.CraftType {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.FliesNow(ctx, own.ID, craftKey) })
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/students/"+own.ID.String()+"/fly")
}

// aloft lists what is flown in the simulator now.
func (s Pages) aloft(p *store.Person, students []store.Student) []aloftRow {
	names := map[uuid.UUID]string{}
	for _, st := range students {
		names[st.ID] = st.Name
	}
	var out []aloftRow
	for _, a := range s.Live.Aloft(p.SchoolID) {
		what := "free flight"
		if d, ok := s.Cat.Drills[a.Spec.Drill]; ok {
			what = d.Title
		}
		out = append(out, aloftRow{a.Student, names[a.Student], what, words.Ago(s.Now().Sub(a.Began))})
	}
	return out
}

// AloftPart is the list of who flies, for the page that asks every few seconds.
func (s Pages) AloftPart(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var students []store.Student
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		students, err = tx.Students(ctx)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Part(c, "aloft", s.aloft(p, students))
}

// watchModel is the instructor's panel beside a student's flight.
type watchModel struct {
	Student store.Student
	Title   string
	Craft   string
	By      string
	On      bool
	Config  string
	CanAct  bool
	Rotors  []int
}

func (s Pages) WatchPage(c *gin.Context) {
	p := frame.Person(c)
	j, err := s.Theirs(c, nil)
	if err != nil {
		s.Failed(c, err)
		return
	}
	m := watchModel{Student: j.Student, Title: msgNothingFlown, CanAct: p.Role == store.Chief ||
		p.Role == store.Instructor}
	f, on := s.Live.Flying(live.Pilot{School: p.SchoolID, Student: j.Student.ID})
	sc := scene{Student: j.Student.ID.String(), Fields: trace.Fields[:]}
	if on {
		g, err := s.CourseIn(c, f.Spec.Course)
		var setup rig.Setup
		if err == nil {
			setup, err = rig.SetUp(f.Spec, s.Cat, g.Laid)
		}
		if err == nil {
			sc, err = s.scene(setup, f.Spec, s.Cat.Craft[f.Spec.Craft])
		}
		if err != nil {
			s.Failed(c, err)
			return
		}
		sc.Student, sc.Run = j.Student.ID.String(), f.Run.String()
		m.On, m.By, m.Craft, m.Title = true, f.By, s.Cat.Craft[f.Spec.Craft].Title, "free flight"
		if d, ok := s.Cat.Drills[f.Spec.Drill]; ok {
			m.Title = d.Title
		}
		for i := range setup.Config.Craft.Rotors {
			m.Rotors = append(m.Rotors, i+1)
		}
	}
	data, err := json.Marshal(sc)
	if err != nil {
		s.Failed(c, err)
		return
	}
	m.Config = string(data)
	s.Render(c, http.StatusOK, "watch", frame.Page{Title: "Watch " + j.Student.Name, Place: "Fly", Body: m,
		Script: "watch.js"})
}

// mixingModel is the trainer of what rotors do.
type mixingModel struct {
	Config string
	Six    bool
	Title  string
	Rotors []rotorRow
}

type rotorRow struct {
	N          int
	Where, Way string
}

// MixingPage shows a craft on a bench, with four rotors or six.
func (s Pages) MixingPage(c *gin.Context) {
	key := "poiana"
	if c.Query("rotors") == "6" {
		key = "airone"
	}
	kind, ok := s.Cat.Craft[key]
	if !ok {
		s.Failed(c, store.ErrNotFound)
		return
	}
	cfg, err := rig.Base(kind, nil)
	if err != nil {
		s.Failed(c, err)
		return
	}
	cfg.Aids = cfg.Craft.Most()
	m := mixingModel{Six: key == "airone", Title: kind.Title}
	for i, r := range cfg.Craft.Rotors {
		m.Rotors = append(m.Rotors, rotorRow{i + 1, r.Where(), map[bool]string{true: "clockwise",
			false: "counter-clockwise"}[r.Clockwise]})
	}
	sc := struct {
		Numbers []float64    `json:"numbers"`
		Names   []string     `json:"names"`
		Rotors  []sceneRotor `json:"rotors"`
		Radius  float64      `json:"radius_m"`
		Span    float64      `json:"span_m"`
	}{Rotors: rotorsOf(&cfg.Craft), Radius: cfg.Craft.Radius, Span: cfg.Craft.Span}
	if sc.Numbers, sc.Names = trace.Flatten(&cfg); sc.Names == nil {
		sc.Names = []string{}
	}
	data, err := json.Marshal(sc)
	if err != nil {
		s.Failed(c, err)
		return
	}
	m.Config = string(data)
	frame.AllowWasm(c)
	s.Render(c, http.StatusOK, "mixing", frame.Page{Title: msgWhatRotorsDo, Place: "Fly", Body: m,
		Script: "mixing.js", Wasm: true})
}

// radioModel is the page on which a radio is set.
type radioModel struct{ Config string }

func (s Pages) RadioPage(c *gin.Context) {
	config, err := s.radiosOf(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	data, err := json.Marshal(map[string]any{"radios": config})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, http.StatusOK, "radio", frame.Page{Title: "Radio", Place: "Fly", Body: radioModel{string(data)},
		Script: "radio.js"})
}

// radiosOf are the settings of a person's devices.
func (s Pages) radiosOf(c *gin.Context) (map[string]json.RawMessage, error) {
	ctx, p := c.Request.Context(), frame.Person(c)
	out := map[string]json.RawMessage{}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := tx.Radios(ctx, p.ID)
		for _, r := range list {
			out[r.Device] = r.Settings
		}
		return err
	})
	return out, err
}

func (s Pages) PostRadio(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var in struct {
		Device   string          `json:"device"`
		Settings json.RawMessage `json:"settings"`
	}
	err := json.NewDecoder(http.MaxBytesReader(c.Writer, c.Request.Body, 16<<10)).Decode(&in)
	if err == nil && (in.Device == "" || len(in.Device) > 200) {
		err = errors.New("the device has no name; expected the one that it shows itself by")
	}
	var set *radio.Settings
	if err == nil {
		set, err = radio.Read(in.Settings)
	}
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgRadioNotKept, err.Error()), msgSetRightKeep)
		return
	}
	clean, err := json.Marshal(set)
	if err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			return tx.SetRadio(ctx, p.ID, store.Radio{Device: in.Device, Settings: clean})
		})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.JSON(http.StatusOK, map[string]bool{"kept": true})
}
