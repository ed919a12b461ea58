package course

import (
	"errors"
	"maps"
	"math"
	"slices"
	"strconv"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/yamldoc"
)

// Parse reads a maestrale-course/1 file.
func Parse(data []byte) (*Course, error) {
	d, top := yamldoc.Read(data)
	m := top.Map()
	m.Need("format").Word("maestrale-course/1")
	c := &Course{Markers: map[string]field.Point{}}
	if n := m.Get("name"); n.Present() {
		c.Name = n.Text()
	}
	originNode, awayNode := m.Get("origin"), m.Get("away_deg")
	origin := originNode.Map()
	geo := field.Geo{
		LatDeg: origin.Need("lat").Number(-90, 90),
		LonDeg: origin.Need("lon").Number(-180, 180),
		AltM:   origin.Get("alt_m").Number(-1000, 20000),
	}
	origin.Done()
	away := awayNode.Number(-360, 360)
	if originNode.Present() != awayNode.Present() {
		m.Node().Fail(msgHalfATie, msgWantBothOrNone)
	}
	if s := m.Get("station"); s.Present() {
		c.Station = ReadPoint(s)
	}
	mn := m.Get("markers")
	markers := mn.Map()
	for _, k := range markers.Keys() {
		c.Markers[k] = ReadPoint(markers.Get(k))
	}
	crowd := m.Get("crowd")
	c.Crowd = readCrowd(crowd)
	if s := m.Get("surface"); s.Present() {
		c.Surface = s.Text()
	}
	if s := m.Get("class"); s.Present() {
		c.Class = craft.Class(s.Word(string(craft.Micro), string(craft.Light), string(craft.Medium), string(craft.Heavy)))
	}
	hazards := m.Get("hazards")
	for _, n := range hazards.List() {
		c.Hazards = append(c.Hazards, readHazard(n))
	}
	m.Done()
	if d.Err() != nil {
		return nil, d.Err()
	}
	if originNode.Present() {
		p, err := field.NewPlane(geo, away)
		if err != nil {
			return nil, &yamldoc.Error{Line: originNode.Line(), What: err.Error()}
		}
		c.Plane = p
	}
	if err := c.Check(); err != nil {
		return nil, atLine(err, map[string]int{"marker": mn.Line(), "crowd": crowd.Line(), "hazard": hazards.Line()})
	}
	return c, nil
}

// atLine gives a mistake of Check the line of the part that it speaks of.
func atLine(err error, lines map[string]int) error {
	var e *misread.Error
	if !errors.As(err, &e) {
		return err
	}
	for word, line := range lines {
		if len(e.What) >= len(word) && e.What[:len(word)] == word {
			return &misread.Error{Line: line, What: e.What, Expected: e.Expected}
		}
	}
	return err
}

// readCrowd reads one line of points, or several.
func readCrowd(n yamldoc.Node) [][]field.Point {
	l := n.List()
	if len(l) == 0 {
		return nil
	}
	if first := l[0].List(); len(first) > 0 && first[0].IsList() {
		var out [][]field.Point
		for _, line := range l {
			out = append(out, readPoints(line))
		}
		return out
	}
	return [][]field.Point{readPoints(n)}
}

// readHazard reads one hazard.
func readHazard(n yamldoc.Node) Hazard {
	m := n.Map()
	h := Hazard{Kind: m.Need("kind").Word(HazardKinds...)}
	if s := m.Get("name"); s.Present() {
		h.Name = s.Text()
	}
	at, line, ring := m.Get("at"), m.Get("line"), m.Get("ring")
	switch {
	case at.Present():
		h.At = []field.Point{ReadPoint(at)}
	case line.Present():
		h.At = readPoints(line)
	case ring.Present():
		h.At, h.Closed = readPoints(ring), true
	default:
		m.Node().Fail(msgHazardNoPlace, msgWantHazardPlace)
	}
	h.HeightM = m.Get("height_m").Number(0, 1000)
	m.Done()
	return h
}

// ReadPoint reads a place [x, y] in metres.
func ReadPoint(n yamldoc.Node) field.Point {
	l := n.List()
	if n.Present() && len(l) != 2 {
		n.Fail(msgWantAnotherLength, "[x, y] in metres")
		return field.Point{}
	}
	if len(l) != 2 {
		return field.Point{}
	}
	return field.Point{X: l[0].Number(-farthest, farthest), Y: l[1].Number(-farthest, farthest)}
}

// readPoints reads a list of places.
func readPoints(n yamldoc.Node) []field.Point {
	var out []field.Point
	for _, p := range n.List() {
		out = append(out, ReadPoint(p))
	}
	return out
}

// YAML writes the course as a maestrale-course/1 file that Parse reads back,
// places to the millimetre. It is written by hand: a course is written whenever a
// marker is dragged, and the form is fixed.
func (c *Course) YAML() ([]byte, error) {
	var w writer
	w.text("format: maestrale-course/1\n")
	if c.Name != "" {
		w.text("name: ", quoted(c.Name), "\n")
	}
	if c.Plane != nil {
		o := c.Plane.Origin()
		w.text("origin: {lat: ", decimal(o.LatDeg), ", lon: ", decimal(o.LonDeg), ", alt_m: ", decimal(o.AltM), "}\n")
		w.text("away_deg: ", decimal(math.Round(c.Plane.AwayDeg()*1e6)/1e6), "\n")
	}
	w.text("station: ")
	w.point(c.Station)
	w.text("\n")
	if len(c.Markers) > 0 {
		w.text("markers:\n")
		for _, name := range slices.Sorted(maps.Keys(c.Markers)) {
			w.text("  ", quoted(name), ": ")
			w.point(c.Markers[name])
			w.text("\n")
		}
	}
	switch len(c.Crowd) {
	case 0:
	case 1:
		w.text("crowd: ")
		w.points(c.Crowd[0])
		w.text("\n")
	default:
		w.text("crowd:\n")
		for _, l := range c.Crowd {
			w.text("  - ")
			w.points(l)
			w.text("\n")
		}
	}
	if c.Surface != "" {
		w.text("surface: ", quoted(c.Surface), "\n")
	}
	if c.Class != "" {
		w.text("class: ", string(c.Class), "\n")
	}
	if len(c.Hazards) > 0 {
		w.text("hazards:\n")
	}
	for _, h := range c.Hazards {
		w.hazard(h)
	}
	return w.out, nil
}

// writer writes a course as YAML.
type writer struct{ out []byte }

// text appends texts.
func (w *writer) text(list ...string) {
	for _, s := range list {
		w.out = append(w.out, s...)
	}
}

// hazard writes one hazard on a line.
func (w *writer) hazard(h Hazard) {
	w.text("  - {kind: ", quoted(h.Kind))
	if h.Name != "" {
		w.text(", name: ", quoted(h.Name))
	}
	switch {
	case h.Closed:
		w.text(", ring: ")
		w.points(h.At)
	case len(h.At) == 1:
		w.text(", at: ")
		w.point(h.At[0])
	default:
		w.text(", line: ")
		w.points(h.At)
	}
	if h.HeightM != 0 {
		w.text(", height_m: ", decimal(h.HeightM))
	}
	w.text("}\n")
}

// point keeps the millimetre, which no tape does.
func (w *writer) point(p field.Point) {
	w.text("[", decimal(math.Round(p.X*1000)/1000), ", ", decimal(math.Round(p.Y*1000)/1000), "]")
}

// points writes a list of places on a line.
func (w *writer) points(at []field.Point) {
	w.text("[")
	for i, p := range at {
		if i > 0 {
			w.text(", ")
		}
		w.point(p)
	}
	w.text("]")
}

// decimal writes a number with the digits that it has.
func decimal(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// quoted writes a text as YAML: the words of the form plain, every other between
// quotes with Go's escapes, all of which YAML reads the same.
func quoted(s string) string {
	for _, words := range [][]string{HazardKinds, Reserved, Surfaces} {
		if slices.Contains(words, s) {
			return s
		}
	}
	return strconv.Quote(s)
}
