package drill

import (
	"fmt"
	"strings"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/yamldoc"
)

// Reading is strict: a file that is nearly right is refused with its line, so
// that a school's own drill never means something else than its author thought.
// The readers note what is wrong and go on; Parse returns the first.

// isKey tells whether a text is words of lower-case letters and digits with
// hyphens between them.
func isKey(s string) bool {
	for word := range strings.SplitSeq(s, "-") {
		if word == "" || strings.Trim(word, "abcdefghijklmnopqrstuvwxyz0123456789") != "" {
			return false
		}
	}
	return true
}

// readKey reads a key; the empty one of a key that is not there has been
// refused already.
func readKey(n yamldoc.Node) string {
	s := n.Text()
	if s != "" && !isKey(s) {
		n.Fail(fmt.Sprintf("key %q", s), msgWantKey)
	}
	return s
}

// Parse reads a maestrale-drill/1 file. It collects what is wrong and returns
// the first as a *yamldoc.Error, with the line, what stands there and what was
// expected. A key that means nothing is wrong as well.
func Parse(data []byte) (Drill, error) {
	doc, top := yamldoc.Read(data)
	m := top.Map()
	m.Need("format").Word("maestrale-drill/1")
	// What every drill has; each reader notes what is wrong and goes on.
	d := Drill{
		Key: readKey(m.Need("key")), Title: m.Need("title").Text(), Family: readKey(m.Need("family")),
		Sided: m.Get("sided").Bool(), ManualTakeoff: m.Get("manual_takeoff").Bool(), ToHand: m.Get("to_hand").Bool(),
		Purpose: m.Get("purpose").Text(), Caution: m.Get("caution").Text(),
		Minutes: m.Get("minutes").Number(0, 120), MaxFaults: m.Get("max_faults").Int(0, 100),
		Source: data,
	}
	if c := m.Get("closed"); c.Present() {
		d.Closed = Closing(c.Word(string(ByLadder), string(BySwitch)))
	}
	if v := m.Get("version_of"); v.Present() {
		vm := v.Map()
		d.Version = Version{readKey(vm.Need("drill")), vm.Need("as").Word("alternative", "stretch", "camera", "goggles")}
		vm.Done()
	}
	for _, n := range m.Get("builds").List() {
		d.Builds = append(d.Builds, readKey(n))
	}
	for _, n := range m.Get("aids").List() {
		d.Aids = append(d.Aids, craft.ReadAids(n))
	}
	readSetup(m.Get("setup"), &d)
	d.Levels = readLevels(m.Get("levels"))
	steps := m.Need("steps")
	for _, n := range steps.List() {
		d.Steps = append(d.Steps, readStep(n))
	}
	if steps.Present() && len(d.Steps) == 0 {
		steps.Fail(msgNoSteps, msgWantStep)
	}
	m.Done()
	// Only whole steps can be in the wrong order.
	checkOrder(steps, d.Steps)
	if doc.Err() != nil {
		return Drill{}, doc.Err()
	}
	return d, nil
}

// readSetup reads on which course and in which wind a drill is flown; without
// the key, on the box in any wind.
func readSetup(n yamldoc.Node, d *Drill) {
	d.Template, d.Wind.From = "box", "any"
	m := n.Map()
	if c := m.Get("course"); c.Present() {
		d.Template = c.Word(course.TemplateKeys()...)
	}
	wind := m.Get("wind")
	w := wind.Map()
	if f := w.Get("from"); f.Present() {
		d.Wind.From = f.Word("any", "behind", "ahead", "left", "right")
	}
	d.Wind.MaxMps = w.Get("max_mps").Number(0, 40)
	w.Done()
	m.Done()
}

// readLevels reads the levels; without any, the drill has one at its own size.
func readLevels(n yamldoc.Node) []Level {
	levels := []Level{}
	for _, item := range n.List() {
		m := item.Map()
		l := Level{Scale: 1}
		if s := m.Get("scale"); s.Present() {
			l.Scale = s.Number(0.05, 20)
		}
		l.HeightM = m.Get("height_m").Number(0, 120)
		m.Done()
		levels = append(levels, l)
	}
	if len(levels) == 0 {
		levels = append(levels, Level{Scale: 1})
	}
	return levels
}

// readStep reads one step: what all steps have, around what its kind has of its
// own.
func readStep(n yamldoc.Node) Step {
	m := n.Map()
	// What the kind does not know has been refused by the end of the step: Done
	// lists every key that nobody asked for.
	kind := m.Need("kind")
	s := Step{Kind: Kind(kind.Word(kindWords()...)), Line: n.Line()}
	within := m.Get("within")
	w := within.Map()
	kindOf(s.Kind).read(&s, &stepReader{&m, &w, within})
	s.During = readDuring(m.Get("during"), s.Kind)
	// Rules of a path need one, and a limit of the nose needs a rule.
	if s.Heading.Kind >= Along && s.Kind != Path {
		m.Node().Fail(fmt.Sprintf(msgNoPathForNose, s.Kind),
			msgWantFieldRule)
	}
	if s.Within.NoseDeg.Set && s.Heading.Kind == Free {
		within.Fail(msgNoseWithoutRule, msgWantRule)
	}
	s.SecondsMax = m.Get("seconds_max").Number(0, 3600)
	w.Done()
	m.Done()
	return s
}

// checkOrder refuses steps that cannot follow one another: in the air there is
// no take-off, on the ground nothing else, and a lost orientation comes first.
func checkOrder(list yamldoc.Node, steps []Step) {
	nodes := list.List()
	ground, known := false, false // before the first step the craft may be anywhere
	for i, s := range steps {
		if i >= len(nodes) {
			return
		}
		switch {
		case s.Kind == TakeOff && known && !ground:
			nodes[i].Fail(msgTakeOffInAir, msgWantLandingBefore)
		case s.Kind == Motors && known && !ground:
			nodes[i].Fail(msgMotorsInAir, msgWantLandingBefore)
		case s.Kind != TakeOff && s.Kind != Motors && known && ground:
			nodes[i].Fail(fmt.Sprintf(msgOnGround, s.Kind), msgWantTakeOffBefore)
		}
		if s.Kind == Regain && i > 0 {
			nodes[i].Fail(msgRegainNotFirst, msgWantRegainFirst)
		}
		// What the craft does after this step: on the ground, or in the air.
		ground, known = s.Kind == Land || s.Kind == Motors || (s.Kind == Return && s.TakeOverS == 0), true
	}
}

// readBand reads a band, [min, max], both from low to high; min must be the
// smaller.
func readBand(n yamldoc.Node, low, high float64) (band [2]float64) {
	l := n.List()
	if len(l) != 2 {
		n.Fail(msgBandLength, "[min, max]")
		return band
	}
	band = [2]float64{l[0].Number(low, high), l[1].Number(low, high)}
	if band[0] >= band[1] {
		n.Fail(msgEmptyBand, msgWantBand)
	}
	return band
}

// readLimit reads one number for every class, or a map from classes to numbers,
// all from low to high. A key that is not there is no limit.
func readLimit(n yamldoc.Node, low, high float64) Limit {
	if !n.Present() {
		return Limit{}
	}
	if !n.IsMap() {
		return Limit{Set: true, Any: n.Number(low, high)}
	}
	m := n.Map()
	l := Limit{Set: true, ByClass: map[craft.Class]float64{}}
	for _, c := range craft.Classes {
		if v := m.Get(string(c)); v.Present() {
			l.ByClass[c] = v.Number(low, high)
		}
	}
	if len(l.ByClass) == 0 {
		n.Fail(msgNoClass, msgWantClass)
	}
	m.Done()
	return l
}

// readPlace reads the name of a marker, or [x, y] or [x, y, z] in metres; nil
// for a key that is not there.
func readPlace(n yamldoc.Node) *Place {
	if !n.Present() {
		return nil
	}
	if !n.IsList() {
		return &Place{Marker: readKey(n)}
	}
	l := n.List()
	if len(l) != 2 && len(l) != 3 {
		n.Fail(msgPlaceLength, msgWantPlace)
		return nil
	}
	p := &Place{Point: field.Point{X: l[0].Number(-1e4, 1e4), Y: l[1].Number(-1e4, 1e4)}}
	if len(l) == 3 {
		p.HasZ, p.Z = true, l[2].Number(0, 1e3)
	}
	return p
}

// needHeight refuses a step that is flown at no height.
func (s *Step) needHeight(m *yamldoc.Map) {
	has := s.HeightM.Set || (s.To != nil && s.To.HasZ)
	if !has && m.Node().Present() {
		m.Node().Fail(fmt.Sprintf(msgNoHeight, s.Kind), msgWantHeight)
	}
}

// readFigure reads the figure of a path: what each shape needs, and no more.
func readFigure(m *yamldoc.Map) *PathSpec {
	p := &PathSpec{Laps: 1}
	p.Shape = Shape(m.Need("shape").Word(string(Line), string(Circle), string(Oval), string(Eight), string(Orbit),
		string(Spiral), string(Slant)))
	if l := m.Get("laps"); l.Present() {
		p.Laps = l.Int(1, 50)
	}
	if sub := m.Get("subject"); sub.Present() || p.Shape == Orbit {
		p.Subject = readPlace(m.Need("subject"))
	}
	switch p.Shape {
	// A line needs its points, a closed one three at least.
	case Line:
		points := m.Need("points")
		for _, n := range points.List() {
			if at := readPlace(n); at != nil {
				p.Points = append(p.Points, *at)
			}
		}
		p.Closed = m.Get("closed").Bool()
		if points.Present() && (len(p.Points) < 2 || (p.Closed && len(p.Points) < 3)) {
			points.Fail(msgTooFewPoints, msgWantPoints)
		}
	// A slant is nothing without its two heights.
	case Slant:
		p.From, p.To = readPlace(m.Need("from")), readPlace(m.Need("to"))
		for _, at := range []*Place{p.From, p.To} {
			if at != nil && !at.HasZ && m.Node().Present() {
				m.Node().Fail(msgSlantWithoutHeight, "[x, y, z]")
			}
		}
	case Orbit:
		p.RadiusM = readLimit(m.Need("radius_m"), 0.3, 1000)
	case Circle:
		p.Centre, p.RadiusM = readPlace(m.Need("centre")), readLimit(m.Need("radius_m"), 0.3, 1000)
	case Oval:
		p.Centre = readPlace(m.Need("centre"))
		p.LengthM, p.WidthM = readLimit(m.Need("length_m"), 0.3, 1000), readLimit(m.Need("width_m"), 0.3, 1000)
	case Eight:
		p.Centre, p.RadiusM = readPlace(m.Need("centre")), readLimit(m.Need("radius_m"), 0.3, 1000)
		p.CrossingDeg = m.Get("crossing_deg").Number(0, 150)
		if c := m.Get("crossing"); c.Present() {
			p.Away = c.Word("toward", "away") == "away"
		}
	case Spiral:
		p.Centre = readPlace(m.Need("centre"))
		p.FromM, p.ToM = readLimit(m.Need("from_m"), 0.1, 1000), readLimit(m.Need("to_m"), 0.1, 1000)
		p.Turns = m.Need("turns").Number(0.25, 20)
	}
	return p
}
