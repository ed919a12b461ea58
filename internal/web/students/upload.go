package students

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/readiness"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/core/units"
	"maestrale/internal/attempt"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// logModel is the form that scores a log, and its preview once a log is there.
type logModel struct {
	Student    store.Student
	Families   []readiness.Family
	Craft      []craft.Type
	Aids       []craft.Aids
	Chosen     logChoice
	Sided      bool
	Levels     []int
	Upload     *uploadModel
	Wrong      string
	Do         string
	Result     *score.Result
	Sign       string
	Plan       template.HTML
	Cleared    bool // what is drawn thick is the log without its noise
	Height     template.HTML
	TimeLine   template.HTML
	Steps      []stepRow
	Notes      []string
	Counts     bool
	WhyNot     string
	Caution    string
	DrillTitle string
	Flights    []partRow // of a log that holds more than one
	Courses    []frame.CourseChoice
	on         attempt.Course
	On         string
}

// logChoice is what is chosen in the form.
type logChoice struct {
	Drill, Side, Aids, Craft string
	Level                    int
	Lat, Lon, Alt, Away      string
	Course                   string // one of the school's; empty = the drill's own template
	Part                     string // FROM-TO in s of a log with more than one flight
	Heights                  string // what they count from: sea, pad, or as the file says
	When                     string
	Wind                     string
}

// Unjudged are the limits that were not judged, in words.
func (m logModel) Unjudged() (out []string) {
	for _, u := range m.Result.Unjudged {
		out = append(out, score.UnjudgedWords(u))
	}
	return out
}

type uploadModel struct {
	store.Upload
	Columns    []columnRow
	Rows       [][]string
	Semicolons bool // they separate the columns of this file
	Confirmed  bool // and may
	Geographic bool
	Heights    bool // the file may count its heights from the sea or from the pad
	Known      []string
	Needs      bool // columns have to be named
	Before     bool // its columns are read as they were before
}

type columnRow struct{ Name, As, Sample string }

func (s Pages) logBase(c *gin.Context, st store.Student) logModel {
	m := logModel{Student: st, Aids: craft.AidsOrder, Levels: []int{1},
		Families: readiness.ByFamily(readiness.InLadderOrder(s.Cat, s.Cat.Programmes[st.Programme]))}
	for _, k := range s.Cat.Craft.Keys() {
		m.Craft = append(m.Craft, s.Cat.Craft[k])
	}
	get := func(name, or string) string {
		if v := c.Query(name); v != "" {
			return v
		}
		if v := c.PostForm(name); v != "" {
			return v
		}
		return or
	}
	t := s.Cat.Craft[st.CraftType]
	m.Chosen = logChoice{Drill: get("drill", "hover-tail-in"), Side: get("side", "none"), Craft: get("craft",
		st.CraftType), Level: 1,
		Lat: get("lat", ""), Lon: get("lon", ""), Alt: frame.InSI(c, "alt", units.Length, ""), Away: get("away",
			""), Heights: heightsOf(get("heights",
			"")), Part: get("part", ""), Course: get("course", ""), When: get("when", ""), Wind: frame.InSI(c, "wind",
			units.Speed, "")}
	if l, err := strconv.Atoi(get("level", "1")); err == nil {
		m.Chosen.Level = l
	}
	if chosen, ok := s.Cat.Craft[m.Chosen.Craft]; ok {
		t = chosen
	}
	m.Chosen.Aids = get("aids", string(t.Aids[0]))
	if !t.Has(craft.Aids(m.Chosen.Aids)) {
		m.Chosen.Aids = string(t.Aids[0])
	}
	m.Aids = append(slices.Clone(t.Aids), t.OptionalAids...)
	if d, ok := s.Cat.Drills[m.Chosen.Drill]; ok {
		m.Sided, m.Caution, m.DrillTitle = d.Sided, d.Caution, d.Title
		switch {
		case !d.Sided:
			m.Chosen.Side = "none"
		case m.Chosen.Side == "none":
			m.Chosen.Side = "left"
		}
		m.Levels = nil
		for i := range d.Levels {
			m.Levels = append(m.Levels, i+1)
		}
		if m.Chosen.Level < 1 || m.Chosen.Level > len(d.Levels) {
			m.Chosen.Level = 1
		}
	}
	return m
}

// heightsOf takes only what is known.
func heightsOf(s string) string {
	if h := track.Heights(s); h == track.AboveSea || h == track.AbovePad {
		return s
	}
	return ""
}

func (s Pages) studentOf(c *gin.Context) (store.Student, error) {
	id, err := frame.Param(c, "student")
	if err != nil {
		return store.Student{}, err
	}
	var st store.Student
	err = s.Store.InSchool(c.Request.Context(), frame.Person(c).SchoolID, func(tx store.Tx) error {
		st, err = tx.Student(c.Request.Context(), id)
		return err
	})
	return st, err
}

func (s Pages) LogPage(c *gin.Context) {
	st, err := s.studentOf(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	m := s.logBase(c, st)
	if err := s.chooseCourse(c, &m); err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, http.StatusOK, "log", frame.Page{Title: "Score a log, " + st.Name, Place: "Students", Body: m})
}

// UploadLog takes a log. What no mapping of columns can mend is refused at
// once; the rest is held for a day, until it is kept or thrown away.
func (s Pages) UploadLog(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	st, err := s.studentOf(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	name, data, form, err := frame.ReadUpload(c)
	for k, v := range form {
		c.Request.Form.Set(k, v)
		c.Request.PostForm.Set(k, v)
	}
	if err != nil {
		m := s.logBase(c, st)
		status := http.StatusUnprocessableEntity
		m.Wrong, m.Do = fmt.Sprintf(msgLogCouldNot, err.Error()), msgChooseLogOne
		if errors.Is(err, track.ErrTooLarge) {
			status, m.Wrong = http.StatusRequestEntityTooLarge, msgFileLargerMb
		}
		s.Render(c, status, "log", frame.Page{Title: "Score a log, " + st.Name, Place: "Students", Body: m})
		return
	}
	m := s.logBase(c, st)
	_, _, err = track.Read(bytes.NewReader(data), track.Options{})
	if err != nil && !frame.Mendable(data, err) {
		m.Wrong, m.Do = frame.Sentence(name, err), msgMendFileChoose
		s.Render(c, http.StatusUnprocessableEntity, "log", frame.Page{Title: "Score a log, " + st.Name, Place: "Students",
			Body: m})
		return
	}
	u := store.Upload{ID: store.NewID(), StudentID: st.ID, Name: name, File: data}
	if err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.AddUpload(ctx, u,
			p.ID)
	}); err != nil {
		s.Failed(c, err)
		return
	}
	q := fmt.Sprintf("?drill=%s&side=%s&level=%d&craft=%s&aids=%s&course=%s", m.Chosen.Drill, m.Chosen.Side,
		m.Chosen.Level, m.Chosen.Craft, m.Chosen.Aids, url.QueryEscape(m.Chosen.Course))
	c.Redirect(http.StatusSeeOther, "/students/"+st.ID.String()+"/log/"+u.ID.String()+q)
}

// mapBefore is how the columns of the header were read when a log with the same was
// kept, unless the form says how to read them.
func (s Pages) mapBefore(c *gin.Context, names []string) (before map[string]string, err error) {
	for _, n := range names {
		if c.Query("col-"+n) != "" || c.PostForm("col-"+n) != "" {
			return nil, nil //nolint:nilnil // the form says it
		}
	}
	if len(names) == 0 {
		return nil, nil //nolint:nilnil // not CSV
	}
	err = s.Store.InSchool(c.Request.Context(), frame.Person(c).SchoolID, func(tx store.Tx) error {
		before, err = tx.ColumnMap(c.Request.Context(), names)
		return err
	})
	return before, err
}

// held finds the log of the address and reads it as the form says.
func (s Pages) held(c *gin.Context) (logModel, *track.Track, store.Reading, error) {
	ctx, p := c.Request.Context(), frame.Person(c)
	st, err := s.studentOf(c)
	if err != nil {
		return logModel{}, nil, store.Reading{}, err
	}
	id, err := frame.Param(c, "upload")
	if err != nil {
		return logModel{}, nil, store.Reading{}, err
	}
	var u store.Upload
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		u, err = tx.Upload(ctx, id, st.ID)
		return err
	})
	if err != nil {
		return logModel{}, nil, store.Reading{}, err
	}
	m := s.logBase(c, st)
	if err := s.chooseCourse(c, &m); err != nil {
		return m, nil, store.Reading{}, err
	}
	var names []string
	var rows [][]string
	var semicolons bool
	format := track.Sniff(u.File[:min(len(u.File), 4096)])
	if format == track.CSV {
		if names, rows, semicolons, err = track.Header(bytes.NewReader(u.File), 4); err != nil {
			return m, nil, store.Reading{}, err
		}
	}
	m.Upload = &uploadModel{Upload: u, Rows: rows, Semicolons: semicolons, Known: track.ColumnNames(),
		Geographic: format != track.CSV, Heights: format != track.CSV}
	value := func(k string) string { return cmp.Or(c.Query(k), c.PostForm(k)) }
	m.Upload.Confirmed = value("semicolons") != ""
	before, err := s.mapBefore(c, names)
	if err != nil {
		return m, nil, store.Reading{}, err
	}
	how := store.Reading{Semicolons: semicolons && m.Upload.Confirmed, Rename: map[string]string{},
		Heights: m.Chosen.Heights}
	m.Upload.nameColumns(names, rows, before, value, how.Rename)
	if err := m.placeOnEarth(&how); err != nil {
		return m, nil, how, err
	}
	if semicolons && !m.Upload.Confirmed {
		return m, nil, how, errAskSemicolons
	}
	whole, notes, err := attempt.ReadLog(u.File, how)
	m.Notes = notes
	if err != nil {
		return m, nil, how, err
	}
	s.flightsIn(&m, whole)
	var from, to float64
	if n, serr := fmt.Sscanf(m.Chosen.Part, "%f-%f", &from, &to); serr == nil && n == 2 && to > from {
		how.Part = &[2]float64{from, to}
		return m, whole.Between(from, to), how, nil
	}
	return m, whole, how, nil
}

// nameColumns says what each column of a file is: as the form has it, as the school named it before, or by its own
// name. What is renamed is noted in rename.
func (u *uploadModel) nameColumns(names []string, rows [][]string, before map[string]string, value func(string) string,
	rename map[string]string) {
	for i, name := range names {
		row := columnRow{Name: name, As: value("col-" + name)}
		if to, ok := before[name]; ok {
			if row.As = to; strings.HasPrefix(to, "left out: ") {
				row.As = "-"
			}
			u.Before = true
		}
		if row.As == "" && slices.Contains(u.Known, name) {
			row.As = name
		}
		if len(rows) > 0 && i < len(rows[0]) {
			row.Sample = rows[0][i]
		}
		if row.As != "" && row.As != "-" && row.As != name {
			rename[name] = row.As
		}
		if row.As == "-" && slices.Contains(u.Known, name) {
			rename[name] = "left out: " + name
		}
		if row.As == "lat_deg" {
			u.Geographic = true
		}
		u.Columns = append(u.Columns, row)
	}
}

// placeOnEarth says where the origin of the field lies on the earth: by the course, or by the form.
func (m *logModel) placeOnEarth(how *store.Reading) error {
	if on := m.on.Laid; m.Upload.Geographic && on != nil && on.Plane != nil { // the course says where it lies
		o := on.Plane.Origin()
		how.Origin, how.AwayDeg = &[3]float64{o.LatDeg, o.LonDeg, o.AltM}, on.Plane.AwayDeg()
	} else if m.Upload.Geographic && m.Chosen.Lat != "" {
		o, away, err := m.Chosen.place()
		if err != nil {
			return err
		}
		how.Origin, how.AwayDeg = &o, away
	}
	return nil
}

// flightsIn lists the flights of a log that holds more than one, as the drill that is
// chosen.
func (s Pages) flightsIn(m *logModel, t *track.Track) {
	d, err := s.Cat.Drill(m.Chosen.Drill)
	if err != nil {
		return
	}
	task, err := d.Lay(field.Side(m.Chosen.Side), m.Chosen.Level, s.Cat.Craft[m.Chosen.Craft].Class(), m.on.Laid)
	if err != nil {
		return
	}
	list, err := score.Find(task, t, score.FromLog)
	if err != nil || len(list) < 2 {
		return
	}
	likely := score.Proposed(list)
	for i, f := range list {
		part := fmt.Sprintf("%.1f-%.1f", f.FromS, f.ToS)
		words := fmt.Sprintf("flight %d, %.0f to %.0f s: %s", i+1, f.FromS, f.ToS, f.Result.Verdict)
		if i == likely {
			words += msgLikelyOne
		}
		m.Flights = append(m.Flights, partRow{part, words, part == m.Chosen.Part})
	}
}

// partRow is one flight of a longer log.
type partRow struct {
	Part, Words string
	Chosen      bool
}

var errAskSemicolons = errors.New("semicolons")

// place reads the field's place on earth.
func (l logChoice) place() (o [3]float64, away float64, err error) {
	for i, t := range []string{l.Lat, l.Lon, l.Alt, l.Away} {
		v, perr := strconv.ParseFloat(strings.Replace(strings.TrimSpace(t), ",", ".", 1), 64)
		if perr != nil {
			return o, 0, misread.At(0, "latitude, longitude, height and direction as numbers", "the field's place has %q", t)
		}
		if i < 3 {
			o[i] = v
		} else {
			away = v
		}
	}
	return o, away, nil
}

// chooseCourse finds the course that is chosen for a log.
func (s Pages) chooseCourse(c *gin.Context, m *logModel) (err error) {
	if m.on, err = s.CourseIn(c, m.Chosen.Course); err != nil {
		return err
	}
	m.Chosen.Course = m.on.Key
	m.Courses, err = s.CoursesToFlyOn(c, m.on.Key)
	return err
}
