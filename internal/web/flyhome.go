package web

import (
	"encoding/json"
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/flight/rig"
	"maestrale/core/flight/trace"
	"maestrale/core/radio"
	"maestrale/internal/live"
	"maestrale/internal/store"
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

func (s *Server) flyHome(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var m flyHomeModel
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
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
		s.failed(c, err)
		return
	}
	if p.Role == store.Learner && p.StudentID != nil {
		m.Own = *p.StudentID
	} else {
		m.Watches, m.Aloft = true, s.aloft(p, m.Students)
		for _, key := range s.cat.Craft.Keys() {
			m.Craft = append(m.Craft, s.cat.Craft[key])
		}
	}
	s.render(c, http.StatusOK, "flyhome", page{Title: "Fly", Place: "Fly", Body: m})
}

// ownFlights opens the record of one who teaches: what is flown there is nobody's pass,
// and every student of the drill can lay it beside the own flight.
func (s *Server) ownFlights(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var own store.Student
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		own, err = tx.OwnRecord(ctx, p.ID, store.Student{ID: store.NewID(), Name: p.Name, Programme: s.cat.ProgrammeKeys()[0], CraftType: s.cat.Craft.Keys()[0], StartedOn: s.now()})
		return err
	})
	craftKey := c.PostForm("craft")
	if _, ok := s.cat.Craft[craftKey]; err == nil && ok && craftKey != own.CraftType {
		err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.FliesNow(ctx, own.ID, craftKey) })
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/students/"+own.ID.String()+"/fly")
}

// aloft lists what is flown in the simulator now.
func (s *Server) aloft(p *store.Person, students []store.Student) []aloftRow {
	names := map[uuid.UUID]string{}
	for _, st := range students {
		names[st.ID] = st.Name
	}
	var out []aloftRow
	for _, a := range s.live.Aloft(p.SchoolID) {
		what := "free flight"
		if d, ok := s.cat.Drills[a.Spec.Drill]; ok {
			what = d.Title
		}
		out = append(out, aloftRow{a.Student, names[a.Student], what, ago(s.now().Sub(a.Began))})
	}
	return out
}

// aloftPart is the list of who flies, for the page that asks every few seconds.
func (s *Server) aloftPart(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	var students []store.Student
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		students, err = tx.Students(ctx)
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	s.part(c, "aloft", s.aloft(p, students))
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

func (s *Server) watchPage(c *gin.Context) {
	p := person(c)
	j, err := s.theirs(c, nil)
	if err != nil {
		s.failed(c, err)
		return
	}
	m := watchModel{Student: j.student, Title: "Nothing is flown", CanAct: p.Role == store.Chief || p.Role == store.Instructor}
	f, on := s.live.Flying(live.Pilot{School: p.SchoolID, Student: j.student.ID})
	sc := scene{Student: j.student.ID.String(), Fields: trace.Fields[:]}
	if on {
		g, err := s.courseIn(c, f.Spec.Course)
		var setup rig.Setup
		if err == nil {
			setup, err = rig.Of(f.Spec, s.cat, g.Laid)
		}
		if err == nil {
			sc, err = s.scene(setup, f.Spec, s.cat.Craft[f.Spec.Craft])
		}
		if err != nil {
			s.failed(c, err)
			return
		}
		sc.Student, sc.Run = j.student.ID.String(), f.Run.String()
		m.On, m.By, m.Craft, m.Title = true, f.By, s.cat.Craft[f.Spec.Craft].Title, "free flight"
		if d, ok := s.cat.Drills[f.Spec.Drill]; ok {
			m.Title = d.Title
		}
		for i := range setup.Config.Craft.Rotors {
			m.Rotors = append(m.Rotors, i+1)
		}
	}
	data, err := json.Marshal(sc)
	if err != nil {
		s.failed(c, err)
		return
	}
	m.Config = string(data)
	s.render(c, http.StatusOK, "watch", page{Title: "Watch " + j.student.Name, Place: "Fly", Body: m, Script: "watch.js"})
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

// mixingPage shows a craft on a bench, with four rotors or six.
func (s *Server) mixingPage(c *gin.Context) {
	key := "poiana"
	if c.Query("rotors") == "6" {
		key = "airone"
	}
	kind, ok := s.cat.Craft[key]
	if !ok {
		s.failed(c, store.ErrNotFound)
		return
	}
	cfg, err := rig.Base(kind, nil)
	if err != nil {
		s.failed(c, err)
		return
	}
	cfg.Aids = cfg.Craft.Most()
	m := mixingModel{Six: key == "airone", Title: kind.Title}
	for i, r := range cfg.Craft.Rotors {
		m.Rotors = append(m.Rotors, rotorRow{i + 1, r.Where(), map[bool]string{true: "clockwise", false: "counter-clockwise"}[r.Clockwise]})
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
		s.failed(c, err)
		return
	}
	m.Config = string(data)
	allowWasm(c)
	s.render(c, http.StatusOK, "mixing", page{Title: "What the rotors do", Place: "Fly", Body: m, Script: "mixing.js", Wasm: true})
}

// radioModel is the page on which a radio is set.
type radioModel struct{ Config string }

func (s *Server) radioPage(c *gin.Context) {
	config, err := s.radiosOf(c)
	if err != nil {
		s.failed(c, err)
		return
	}
	data, err := json.Marshal(map[string]any{"radios": config})
	if err != nil {
		s.failed(c, err)
		return
	}
	s.render(c, http.StatusOK, "radio", page{Title: "Radio", Place: "Fly", Body: radioModel{string(data)}, Script: "radio.js"})
}

// radiosOf are the settings of a person's devices.
func (s *Server) radiosOf(c *gin.Context) (map[string]json.RawMessage, error) {
	ctx, p := c.Request.Context(), person(c)
	out := map[string]json.RawMessage{}
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := tx.Radios(ctx, p.ID)
		for _, r := range list {
			out[r.Device] = r.Settings
		}
		return err
	})
	return out, err
}

func (s *Server) postRadio(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
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
		s.wrongInput(c, "The radio was not kept: "+err.Error(), "Set it right and keep it again.")
		return
	}
	clean, err := json.Marshal(set)
	if err == nil {
		err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
			return tx.SetRadio(ctx, p.ID, store.Radio{Device: in.Device, Settings: clean})
		})
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	c.JSON(http.StatusOK, map[string]bool{"kept": true})
}
