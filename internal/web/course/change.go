package course

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/units"
	"maestrale/internal/sheet"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// far is the farthest place that is read, in metres from the station.
const far = 100_000

// placeOf is the place that a form says, in metres from the station.
func placeOf(c *gin.Context) (field.Point, error) {
	x, err1 := frame.NeedMeasure(c, "x", units.Length, -far, far)
	y, err2 := frame.NeedMeasure(c, "y", units.Length, -far, far)
	return field.Point{X: x, Y: y}, errors.Join(err1, err2)
}

// courseChange reads what is to be changed: a change of the course, or, for an
// undo and an import, the source that takes its place.
func (s Pages) courseChange(c *gin.Context, tx store.Tx, id uuid.UUID, k store.Course,
	laid *course.Course) (change func(*course.Course), says, source string, err error) {
	num := func(name string, low, high float64) float64 {
		v, e := frame.NeedNumber(c, name, low, high)
		if e != nil && err == nil {
			err = e
		}
		return v
	}
	what, do := c.PostForm("what"), c.PostForm("do")
	if instead := c.PostForm("instead"); instead != "" { // the other button of a form
		do = instead
	}
	switch do {
	case "move":
		to, e := placeOf(c)
		return func(c *course.Course) { place(c, what, to) }, "moved " + whatWords(laid, what), "", errors.Join(e,
			knows(laid, what))
	case "turn":
		by := num("degrees", -360, 360)
		if err == nil {
			source, err = whole(laid, func() error { return laid.Turn(field.Degrees(by)) })
		}
		return nil, "turned " + turnWords(int(by)), source, err
	case "scale":
		by := num("percent", 10, 1000) / 100
		if err == nil {
			source, err = whole(laid, func() error { return laid.Scale(by) })
		}
		return nil, fmt.Sprintf("scaled to %.0f %%", 100*by), source, err
	case "template":
		change, says, err = templateChange(c)
		return change, says, "", err
	case "marker":
		name := strings.TrimSpace(strings.ToLower(c.PostForm("name")))
		to, e := placeOf(c)
		return func(c *course.Course) { c.Markers[name] = to }, fmt.Sprintf(msgSetMarker, name), "", e
	case "hazard":
		h, e := hazardOf(c)
		return func(c *course.Course) { c.Hazards = append(c.Hazards, h) }, "added " + h.Words(), "", e
	case "crowd":
		at, e := course.ReadPlaces(c.PostForm("places"))
		return func(c *course.Course) { c.Crowd = append(c.Crowd, at) }, msgAddedCrowdLine, "", e
	case "height":
		change, says, err = heightChange(c, laid, what)
		return change, says, "", err
	case "remove":
		return func(c *course.Course) { remove(c, what) }, "took away " + whatWords(laid, what), "", knows(laid, what)
	case "surface":
		surface := c.PostForm("surface")
		if !slices.Contains(course.Surfaces, surface) {
			return nil, "", "", misread.At(0, strings.Join(course.Surfaces, ", "), "the surface %q", surface)
		}
		return func(c *course.Course) { c.Surface = surface }, "surface: " + surface, "", nil
	case "undo", "restore", "import":
		return s.otherCourse(c, tx, id, k, laid, do)
	}
	return nil, "", "", misread.At(0, "one of the page's own changes", "the change %q", do)
}

// templateChange lays a template over a course.
func templateChange(c *gin.Context) (func(*course.Course), string, error) {
	key, class := c.PostForm("template"), craft.Class(c.PostForm("class"))
	if !slices.Contains(course.TemplateKeys(), key) || !slices.Contains(craft.Classes, class) {
		return nil, "", misread.At(0, "one of the list", "the template %q for %q", key, string(class))
	}
	return func(c *course.Course) { c.LayOver(key, class) }, fmt.Sprintf(msgLaidTemplate, key, string(class)), nil
}

// heightChange sets how high a hazard of a course stands.
func heightChange(c *gin.Context, laid *course.Course, what string) (func(*course.Course), string, error) {
	h, err := frame.NeedMeasure(c, "height_m", units.Length, 0, 1000)
	_, i, _, e := splitWhat(what)
	if e == nil && (i < 0 || i >= len(laid.Hazards)) {
		e = misread.At(0, "a hazard of this course", "%q", what)
	}
	return func(c *course.Course) { c.Hazards[i].HeightM = h }, fmt.Sprintf(msgSetHeight, whatWords(laid, what)),
		errors.Join(err, e)
}

// otherCourse is a change that puts another course in the place of this one: an earlier version, or a file.
func (s Pages) otherCourse(c *gin.Context, tx store.Tx, id uuid.UUID, k store.Course, laid *course.Course, do string) (
	change func(*course.Course), says, source string, err error) {
	switch do {
	case "undo":
		list, e := tx.Versions(c.Request.Context(), id, 200)
		if e != nil {
			return nil, "", "", e
		}
		says, seq, e := undone(list)
		if e == nil {
			source, e = tx.VersionSource(c.Request.Context(), id, seq)
		}
		return nil, "undid: " + says, source, e
	case "restore":
		seq, err := frame.NeedNumber(c, "seq", 1, 1e9)
		if err == nil {
			source, err = tx.VersionSource(c.Request.Context(), id, int(seq))
		}
		if errors.Is(err, store.ErrNotFound) {
			err = misread.At(0, "one of its versions", "version %.0f", seq)
		}
		return nil, fmt.Sprintf(msgBackVersion, seq), source, err
	case "import":
		next, e := s.imported(c, laid)
		if e != nil {
			return nil, "", "", e
		}
		next.Name = k.Name
		if next.Surface == "" {
			next.Surface = laid.Surface
		}
		data, e := next.YAML()
		return nil, "imported a file", string(data), e
	}
	return nil, "", "", nil
}

// whole applies a change that checks itself, and gives the course's text.
func whole(laid *course.Course, apply func() error) (string, error) {
	if err := apply(); err != nil {
		return "", err
	}
	data, err := laid.YAML()
	return string(data), err
}

// undone finds the version to go back to. Undoing again goes farther back: each
// "undid" takes one earlier change with it.
func undone(list []store.Version) (says string, seq int, err error) {
	depth, i := 1, 0
	for i < len(list) && depth > 0 {
		if strings.HasPrefix(list[i].Says, "undid: ") {
			depth++
		} else {
			depth--
			if depth == 0 {
				break
			}
		}
		i++
	}
	if i+1 >= len(list) {
		return "", 0, misread.At(0, "a change to undo", "the course is as it was first laid")
	}
	return list[i].Says, list[i+1].Seq, nil
}

// splitWhat reads what is moved: station, marker:NAME, hazard:I:J, crowd:I:J.
func splitWhat(what string) (kind string, i, j int, err error) {
	parts := strings.Split(what, ":")
	kind = parts[0]
	if kind == "station" && len(parts) == 1 || kind == "marker" && len(parts) == 2 {
		return kind, 0, 0, nil
	}
	if (kind == "hazard" || kind == "crowd") && len(parts) >= 2 && len(parts) <= 3 {
		if i, err = strconv.Atoi(parts[1]); err == nil && len(parts) == 3 {
			j, err = strconv.Atoi(parts[2])
		}
		if err == nil {
			return kind, i, j, nil
		}
	}
	return "", 0, 0, misread.At(0, "station, marker:NAME, hazard:I:J or crowd:I:J", "%.60q", what)
}

func knows(laid *course.Course, what string) error {
	kind, i, j, err := splitWhat(what)
	if err != nil {
		return err
	}
	in := func(n int) bool { return j >= 0 && j < n }
	ok := true
	switch kind {
	case "marker":
		_, ok = laid.Markers[strings.TrimPrefix(what, "marker:")]
	case "hazard":
		ok = i >= 0 && i < len(laid.Hazards) && in(len(laid.Hazards[i].At))
	case "crowd":
		ok = i >= 0 && i < len(laid.Crowd) && in(len(laid.Crowd[i]))
	}
	if !ok {
		return misread.At(0, "something of this course", "%.60q is not there", what)
	}
	return nil
}

func place(c *course.Course, what string, to field.Point) {
	kind, i, j, _ := splitWhat(what)
	switch kind {
	case "station":
		c.Station = to
	case "marker":
		c.Markers[strings.TrimPrefix(what, "marker:")] = to
	case "hazard":
		c.Hazards[i].At[j] = to
	case "crowd":
		c.Crowd[i][j] = to
	}
}

func remove(c *course.Course, what string) {
	kind, i, _, _ := splitWhat(what)
	switch kind {
	case "marker":
		delete(c.Markers, strings.TrimPrefix(what, "marker:"))
	case "hazard":
		c.Hazards = slices.Delete(c.Hazards, i, i+1)
	case "crowd":
		c.Crowd = slices.Delete(c.Crowd, i, i+1)
	}
}

func whatWords(laid *course.Course, what string) string {
	kind, i, _, err := splitWhat(what)
	switch {
	case err != nil:
		return "something"
	case kind == "marker":
		return strings.TrimPrefix(what, "marker:")
	case kind == "hazard" && i >= 0 && i < len(laid.Hazards):
		return laid.Hazards[i].Words()
	case kind == "crowd":
		return msgCrowdLine
	}
	return "the station"
}

func hazardOf(c *gin.Context) (course.Hazard, error) {
	at, err := course.ReadPlaces(c.PostForm("places"))
	h := course.Hazard{Kind: c.PostForm("kind"), Name: frame.CleanName(c.PostForm("name")), At: at,
		Closed: c.PostForm("shape") == "ring"}
	height, err2 := frame.FormMeasure(c, "height_m", units.Length, 0, 1000)
	if height != nil {
		h.HeightM = *height
	}
	if h.Closed && len(at) < 3 && err == nil {
		err = misread.At(0, "three or more", "a ring of %d places", len(at))
	}
	return h, errors.Join(err, err2)
}

// imported reads a course from an uploaded file, by what it begins with.
func (s Pages) imported(c *gin.Context, laid *course.Course) (*course.Course, error) {
	data, name, err := s.Uploaded(c, course.MaxFile)
	if err != nil {
		return nil, err
	}
	var next *course.Course
	switch text := strings.TrimSpace(strings.TrimPrefix(string(data), "\ufeff")); {
	case strings.HasPrefix(text, "{"):
		next, _, err = course.ReadGeoJSON([]byte(text), laid.Plane)
	case strings.HasPrefix(text, "<"):
		next, _, err = course.ReadKML([]byte(text), laid.Plane)
	default:
		next, err = course.Parse(data)
	}
	if err != nil {
		return nil, misread.InFile(name, err)
	}
	return next, nil
}

// CourseFile gives a course as a file, or as the sheet to print.
func (s Pages) CourseFile(c *gin.Context) {
	p := frame.Person(c)
	var m courseModel
	_, ok := s.About(c, "course", func(tx store.Tx, id uuid.UUID) (err error) {
		m, err = s.courseOf(c, tx, id, nil)
		return err
	})
	if !ok {
		return
	}
	name := strings.ReplaceAll(strings.ToLower(m.Course.Name), " ", "-")
	var data []byte
	var err error
	kind, ext := "application/yaml", "yaml"
	switch c.Param("file") {
	case "course.yaml":
		data, err = m.Laid.YAML()
	case "course.geojson":
		kind, ext = "application/geo+json", "geojson"
		data, err = m.Laid.GeoJSON()
	case "course.kml":
		kind, ext = "application/vnd.google-earth.kml+xml", "kml"
		data, err = m.Laid.KML()
	case "course.gpx":
		kind, ext = "application/gpx+xml", "gpx"
		data, err = m.Laid.GPX()
	case "sheet.pdf":
		kind, ext = "application/pdf", "pdf"
		data, err = sheet.Course(s.sheetOf(m, p))
	default:
		err = store.ErrNotFound
	}
	var wrong *misread.Error
	if errors.As(err, &wrong) {
		s.WrongInput(c, fmt.Sprintf(msgFileNotMade, wrong.Sentence()), msgGiveCourseOrigin)
		return
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	if ext == "pdf" {
		c.Header("Content-Disposition", fmt.Sprintf("inline; filename=%q", name+".pdf"))
		c.Data(http.StatusOK, kind, data)
		return
	}
	frame.Attach(c, name+"."+ext, kind, data)
}

// sheetOf gathers what the printed sheet says.
func (s Pages) sheetOf(m courseModel, p *store.Person) sheet.Page {
	out := sheet.Page{School: p.School, Site: m.Course.Site, Notes: m.Course.SiteNote, Name: m.Course.Name,
		Date: s.Now().In(p.Zone()).Format("Monday 2 January 2006"), Course: m.Laid, Survey: m.Survey, Ask: m.Ask,
		Craft: m.Ask.Craft.Title + ", " + m.AidsNow.Words(), Return: m.Return, Sun: m.Sun.Says + " " +
			m.Sun.Sector, Advice: m.Advice, PaceM: m.PaceM}
	out.Session = m.Settings.SessionFrom + " to " + m.Settings.SessionTo
	out.Wind = "not known"
	if m.Wind.Known {
		out.Wind = m.Wind.Says
	}
	for _, w := range m.Warnings {
		out.Warnings = append(out.Warnings, w.Says)
	}
	return out
}
