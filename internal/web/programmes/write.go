package programmes

import (
	"errors"
	"fmt"
	"maps"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/score"
	"maestrale/core/yamldoc"
	"maestrale/internal/catalogue"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// longestFile is the largest drill or programme that is taken, in bytes.
const longestFile = 64 << 10

// writeModel is the page on which a school writes a drill or a programme.
type writeModel struct {
	Format, Key, Source string
	Drill               bool
	Kind                string // drill, programme or gate
	Ships, Own          bool   // whether one ships under the key, and whether the school has its own
	Said                saidModel
	Versions            []versionRow
	Seen                int    // the newest version that this page knew of
	Changed             string // what somebody else did meanwhile
}

type versionRow struct {
	Number   int
	By, When string
	Back     bool // it took the school's own back
	Source   string
}

// saidModel is what the text that is being written comes to: a mistake at a line, or
// a drawing and what is asked.
type saidModel struct {
	Wrong    string
	Line     int
	Expected string
	Text     string // of the line
	Title    string
	Plans    []planRow
	Steps    []string
	Rungs    []rungRow
	Note     string
	Loosened []string // what a gate asks less strictly than the one that ships
}

// read reads a text against the catalogue, and says what it comes to.
func (s Pages) read(format, source string) (key string, m saidModel) {
	wrong := func(err error) saidModel {
		out := saidModel{Wrong: err.Error()}
		var at *yamldoc.Error
		if errors.As(err, &at) {
			out.Line, out.Wrong, out.Expected = at.Line, at.What, at.Expected
			if lines := strings.Split(source, "\n"); at.Line >= 1 && at.Line <= len(lines) {
				out.Text = frame.Cut(strings.TrimSpace(lines[at.Line-1]), 120)
			}
		}
		return out
	}
	if len(source) > longestFile {
		return "", saidModel{Wrong: fmt.Sprintf(msgTextKbLong, len(source)>>10),
			Expected: fmt.Sprintf(msgKbMost, longestFile>>10)}
	}
	if format == catalogue.Gate {
		return s.readGate(source, wrong)
	}
	if format == catalogue.Programme {
		next, err := s.Cat.With(map[string][]byte{"text": []byte(source)})
		if err != nil {
			return "", wrong(err)
		}
		for _, k := range next.ProgrammeKeys() {
			if p := next.Programmes[k]; string(p.Source) == source {
				row := programmeRowOf(p, next, false)
				return k, saidModel{Title: p.Title, Rungs: row.Rungs, Note: say.Say(msgRungsItems, len(p.Rungs),
					len(p.Cells()))}
			}
		}
		return "", saidModel{Wrong: msgTextNotProgramme, Expected: catalogue.Programme}
	}
	d, err := drill.Parse([]byte(source))
	if err != nil {
		return "", wrong(err)
	}
	if _, err := s.Cat.With(map[string][]byte{"text": []byte(source)}); err != nil {
		return "", wrong(err)
	}
	m = saidModel{Title: d.Title}
	for _, side := range d.Sides() {
		task, err := d.Lay(side, 1, craft.Light, nil)
		if err != nil {
			return "", wrong(err)
		}
		words := ""
		if side != field.NoSide {
			words = string(side)
		}
		m.Plans = append(m.Plans, planRow{Side: words, Plan: draw.Plan(draw.Flight{Task: task, Result: &score.Result{}})})
		if len(m.Steps) == 0 {
			for _, st := range task.Steps {
				m.Steps = append(m.Steps, st.Words())
			}
		}
	}
	return d.Key, m
}

// readGate reads a gate, and says what it asks, and what less strictly than the one that
// ships.
func (s Pages) readGate(source string, wrong func(error) saidModel) (string, saidModel) {
	next, err := s.Cat.With(map[string][]byte{"text": []byte(source)})
	if err != nil {
		return "", wrong(err)
	}
	for _, k := range next.GateKeys() {
		g := next.Gates[k]
		if string(g.Source) != source {
			continue
		}
		m := saidModel{Title: g.Title, Note: say.Say("of a gate", len(g.Cells),
			len(g.Witnessed), g.SignedDays)}
		for _, c := range g.Cells {
			m.Steps = append(m.Steps, s.Cat.TitleOf(c.Drill, c.Side)+", "+c.Aids.Words())
		}
		if shipped, ok := s.Catalogues.Shipped.Gates[k]; ok {
			m.Loosened = drill.Loosened(shipped, g)
		}
		return k, m
	}
	return "", saidModel{Wrong: msgTextNotGate, Expected: catalogue.Gate}
}

// formatIn is the format that a form writes.
func formatIn(c *gin.Context) string {
	switch f := c.PostForm("format"); f {
	case catalogue.Programme, catalogue.Gate:
		return f
	}
	return catalogue.Drill
}

// kindOf says what a format holds.
func kindOf(format string) string {
	return map[string]string{catalogue.Drill: "drill", catalogue.Programme: "programme", catalogue.Gate: "gate"}[format]
}

// WritePage shows the text of a drill, a programme or a gate, to be changed.
func (s Pages) WritePage(c *gin.Context) {
	m := writeModel{Format: catalogue.Drill, Drill: true, Key: c.Query("drill")}
	if k := c.Query("programme"); k != "" {
		m.Format, m.Key, m.Drill = catalogue.Programme, k, false
	}
	if k := c.Query("gate"); k != "" {
		m.Format, m.Key, m.Drill = catalogue.Gate, k, false
	}
	if !s.fill(&m) {
		s.NotFound(c)
		return
	}
	_, m.Said = s.read(m.Format, m.Source)
	s.writing(c, http.StatusOK, m)
}

// fill puts the text in force into the page; it is false for a key that is not known.
func (s Pages) fill(m *writeModel) (ok bool) {
	var d drill.Drill
	var p drill.Programme
	m.Kind = kindOf(m.Format)
	if m.Format == catalogue.Gate {
		g, ok := s.Cat.Gates[m.Key]
		_, m.Ships = s.Catalogues.Shipped.Gates[m.Key]
		m.Source, m.Own = string(g.Source), ok && string(g.Source) != string(s.Catalogues.Shipped.Gates[m.Key].Source)
		return ok
	}
	if m.Drill {
		d, ok = s.Cat.Drills[m.Key]
		_, m.Ships = s.Catalogues.Shipped.Drills[m.Key]
		m.Source, m.Own = string(d.Source), ok && string(d.Source) != string(s.Catalogues.Shipped.Drills[m.Key].Source)
		return ok
	}
	p, ok = s.Cat.Programmes[m.Key]
	_, m.Ships = s.Catalogues.Shipped.Programmes[m.Key]
	m.Source, m.Own = string(p.Source), ok && string(p.Source) != string(s.Catalogues.Shipped.Programmes[m.Key].Source)
	return ok
}

// writing shows the page, with the versions that there are.
func (s Pages) writing(c *gin.Context, status int, m writeModel) {
	p := frame.Person(c)
	err := s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
		list, err := tx.FileVersions(c.Request.Context(), m.Format, m.Key)
		for _, f := range list {
			m.Seen = max(m.Seen, f.Version)
			m.Versions = append(m.Versions, versionRow{f.Version, f.By,
				f.WrittenAt.In(p.Zone()).Format("Mon 2 Jan 2006 15:04"),
				f.Source == "", f.Source})
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, status, "write", frame.Page{Title: "Write " + m.Key, Place: "Programmes", Body: m})
}

// TryText says what a text comes to while it is being written.
func (s Pages) TryText(c *gin.Context) {
	_, said := s.read(formatIn(c), c.PostForm("source"))
	s.Part(c, "said", said)
}

// PostText keeps the next version of a drill or a programme, or takes the school's
// own back. What stands under the versions before it was judged by them and stays.
func (s Pages) PostText(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := writeModel{Format: formatIn(c), Key: c.PostForm("key")}
	m.Drill, m.Kind = m.Format == catalogue.Drill, kindOf(m.Format)
	source := strings.ReplaceAll(c.PostForm("source"), "\r\n", "\n")
	key := m.Key
	if c.PostForm("do") == "back" {
		source = ""
		if err := s.without(c, m.Format, key); store.Trouble(err) {
			s.Failed(c, err)
			return
		} else if err != nil {
			s.WrongInput(c, fmt.Sprintf(msgCouldNotTaken, frame.FirstLine(err)), msgChangeWhatBuilds)
			return
		}
	} else if key, m.Said = s.read(m.Format, source); m.Said.Wrong != "" {
		known := m
		s.fill(&known)
		m.Kind, m.Ships, m.Own, m.Source = known.Kind, known.Ships, known.Own, source
		s.writing(c, http.StatusUnprocessableEntity, m)
		return
	}
	seen, known := seenIn(c, m.Key, key)
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		file := store.SchoolFile{Format: m.Format, Key: key, Source: source}
		if known {
			_, err = tx.AddFileAfter(ctx, p.ID, file, seen)
		} else {
			_, err = tx.AddFile(ctx, p.ID, file)
		}
		return err
	})
	if errors.Is(err, store.ErrChanged) {
		s.fill(&m)
		m.Changed = fmt.Sprintf(msgSomebodyElseKept, key)
		if key != m.Key {
			m.Changed = fmt.Sprintf(msgSchoolOwnUnder, m.Kind, key)
		}
		if source != "" {
			m.Source = source
		}
		s.writing(c, http.StatusConflict, m)
		return
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	if _, ships := s.Catalogues.Shipped.Drills[key]; m.Drill && (source != "" || ships) {
		c.Redirect(http.StatusSeeOther, "/programmes/drills/"+key)
		return
	}
	c.Redirect(http.StatusSeeOther, "/programmes")
}

// seenIn is the version that the text was made from; known is false where the form does not say. Under another key than
// the one that was opened there must be none.
func seenIn(c *gin.Context, opened, key string) (seen int, known bool) {
	said, ok := c.GetPostForm("seen")
	if !ok {
		return 0, false
	}
	if opened != key {
		return 0, true
	}
	n, err := strconv.Atoi(said)
	if err != nil {
		return -1, true // no version has this number
	}
	return n, true
}

// without is an error where the school's other files do not hold without one.
func (s Pages) without(c *gin.Context, format, key string) error {
	var list []store.SchoolFile
	err := s.Store.InSchool(c.Request.Context(), frame.Person(c).SchoolID, func(tx store.Tx) (err error) {
		list, err = tx.Files(c.Request.Context())
		return err
	})
	if err != nil {
		return err
	}
	text := catalogue.FilesIn(list)
	name := catalogue.FileName(format, key)
	if _, own := text[name]; !own {
		return errors.New("the school has none of its own under that key")
	}
	rest := maps.Clone(text)
	delete(rest, name)
	_, err = s.Catalogues.Shipped.With(rest)
	return err
}

// FileText gives a drill or a programme as a file.
func (s Pages) FileText(c *gin.Context) {
	name := strings.TrimSuffix(c.Param("file"), ".yaml")
	source := s.Cat.Drills[name].Source
	if k, ok := strings.CutPrefix(name, "gate-"); ok && source == nil {
		source = s.Cat.Gates[k].Source
	}
	if k, ok := strings.CutPrefix(name, "programme-"); ok && source == nil {
		source = s.Cat.Programmes[k].Source
	}
	if source == nil {
		s.NotFound(c)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="`+name+`.yaml"`)
	c.Data(http.StatusOK, "application/yaml; charset=utf-8", source)
}
