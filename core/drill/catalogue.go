package drill

import (
	"bytes"
	"embed"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"sort"
	"strings"
	"sync"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/yamldoc"
)

// Drills, programmes, gates and craft types refer to each other by key. A
// catalogue is only ever changed as a whole, after everything in it has been
// found to fit.

// shipped are the drills, programmes and gates that come with the program; the
// craft types come with core/craft.
//
//go:embed catalogue/*.yaml
var shipped embed.FS

// Catalogue is everything that a school flies by, by key: drills, programmes,
// gates and craft types. A school's own files are laid over the shipped ones
// (With), so that a school's catalogue is complete in itself. One that is in
// use is not changed.
type Catalogue struct {
	// Everything by its key.
	Drills     map[string]Drill
	Programmes map[string]Programme
	Gates      map[string]Gate
	Craft      craft.Catalogue
	// The order is worked out whenever drills have changed.
	order []string // drills in the order of the ladder
}

// Shipped returns the catalogue that ships with the program. Its files are read
// once; each caller gets maps of its own.
func Shipped() *Catalogue {
	c := readShipped().clone()
	c.sort()
	return c
}

// readShipped reads the shipped files. They are tested, so that one that does
// not fit is a programmer's error.
var readShipped = sync.OnceValue(func() *Catalogue {
	c := &Catalogue{Drills: map[string]Drill{}, Programmes: map[string]Programme{}, Gates: map[string]Gate{},
		Craft: craft.Shipped()}
	if err := c.Add(shipped); err != nil {
		panic(err) // the shipped files are tested
	}
	return c
})

// Add reads every YAML file of a folder and the folders under it, whatever its
// format, and lays it over the catalogue: a known key is replaced. Nothing is
// added when one of the files is wrong; the error begins with FILE:LINE.
func (c *Catalogue) Add(files fs.FS) error {
	text, err := textsIn(files)
	if err != nil {
		return err
	}
	return c.AddFiles(text)
}

// ShippedDocuments returns all texts that are read for the shipped catalogue,
// in the order of their names. A browser that reads no YAML gets them parsed
// instead (cmd/padtrees).
func ShippedDocuments() ([][]byte, error) {
	text, err := textsIn(shipped)
	if err != nil {
		return nil, err
	}
	types, err := textsIn(craft.Files())
	return append(Documents(text), Documents(types)...), err
}

// textsIn returns the YAML files of a folder and the folders under it, by their
// path from there. Other files are passed over.
func textsIn(files fs.FS) (map[string][]byte, error) {
	text := map[string][]byte{}
	err := fs.WalkDir(files, ".", func(name string, e fs.DirEntry, err error) error {
		if err != nil {
			return fmt.Errorf("read the school's folder: %w", err)
		}
		// A folder may hold notes and pictures as well.
		if ext := path.Ext(name); e.IsDir() || (ext != ".yaml" && ext != ".yml") {
			return nil
		}
		data, err := fs.ReadFile(files, name)
		if err != nil {
			return fmt.Errorf("read the school's folder: %w", err)
		}
		text[name] = data
		return nil
	})
	return text, err
}

// With returns the catalogue with files laid over it, by their names. c is not
// changed; where a file is wrong, what is returned beside the error is not to
// be used.
func (c *Catalogue) With(text map[string][]byte) (*Catalogue, error) {
	next := c.clone()
	next.sort()
	return next, next.AddFiles(text)
}

// AddFiles lays files over the catalogue as Add does. The order in which they
// are read follows what they refer to: craft types, drills, programmes, gates;
// and within a format their names, so that errors are always the same ones.
func (c *Catalogue) AddFiles(text map[string][]byte) error {
	// Every file says first what it is.
	byFormat := map[string][]string{}
	for _, name := range slices.Sorted(maps.Keys(text)) {
		format, err := formatOf(text[name])
		if err != nil {
			return misread.InFile(name, err)
		}
		byFormat[format] = append(byFormat[format], name)
	}
	next := c.clone()
	for _, name := range byFormat["maestrale-craft/1"] {
		t, err := craft.Parse(text[name])
		if err != nil {
			return misread.InFile(name, err)
		}
		next.Craft[t.Key] = t
	}
	// One file may hold a whole family of drills; each is a text of its own.
	drills := map[string][][]byte{}
	for _, name := range byFormat["maestrale-drill/1"] {
		var err error
		if drills[name], err = expand(text[name]); err != nil {
			return misread.InFile(name, err)
		}
		for _, one := range drills[name] {
			d, err := Parse(one)
			if err != nil {
				return misread.InFile(name, err)
			}
			next.Drills[d.Key] = d
		}
	}
	// A drill may build on one of a later file, so this waits until all are
	// known.
	for _, name := range byFormat["maestrale-drill/1"] {
		for _, one := range drills[name] {
			if err := next.checkBuilds(one); err != nil {
				return misread.InFile(name, err)
			}
		}
	}
	if err := next.addLadders(text, byFormat, len(drills) > 0); err != nil {
		return err
	}
	next.sort()
	// Everything fits, so all of it is taken at once.
	*c = *next
	return nil
}

// addLadders reads programmes and gates, and holds those that were there to
// drills that have changed. Then it holds all programmes to the gates that they
// lead to, since either side may be new.
func (c *Catalogue) addLadders(text map[string][]byte, byFormat map[string][]string, drillsChanged bool) error {
	// Only what is new is named by its file; what was there is known by its
	// key.
	from := map[string]string{} // the file of each programme and gate that is new
	for _, name := range byFormat["maestrale-programme/1"] {
		p, err := parseProgramme(text[name], c.Drills)
		if err != nil {
			return misread.InFile(name, err)
		}
		c.Programmes[p.Key], from["programme "+p.Key] = p, name
	}
	// A school's drill may replace one that ladders and gates rest on.
	if drillsChanged {
		if err := c.fitAgain(); err != nil {
			return err
		}
	}
	for _, name := range byFormat["maestrale-gate/1"] {
		g, err := parseGate(text[name], c.Drills)
		if err != nil {
			return misread.InFile(name, err)
		}
		c.Gates[g.Key], from["gate "+g.Key] = g, name
	}
	// Gates are read last, so a programme's lines to them are checked at the
	// end.
	return c.checkLeads(from)
}

// fitAgain holds the programmes and gates that were there to drills that have
// changed: a drill may have lost a side or a level that they name. The error
// names what no longer fits, and the line in its own file.
func (c *Catalogue) fitAgain() error {
	for _, key := range c.ProgrammeKeys() {
		p, err := parseProgramme(c.Programmes[key].Source, c.Drills)
		if err != nil {
			return fmt.Errorf("the programme %s does not fit any more: its line %v", key, err)
		}
		c.Programmes[key] = p
	}
	for _, key := range c.GateKeys() {
		g, err := parseGate(c.Gates[key].Source, c.Drills)
		if err != nil {
			return fmt.Errorf("the gate %s does not fit any more: its line %v", key, err)
		}
		c.Gates[key] = g
	}
	return nil
}

// FormatOf returns the format that a YAML file says it has, of those that a
// school may hand in: a fleet as well, which is no part of a catalogue.
func FormatOf(data []byte) (string, error) {
	doc, top := yamldoc.Read(data)
	m := top.Map()
	f := m.Need("format").Word("maestrale-drill/1", "maestrale-programme/1", "maestrale-craft/1", "maestrale-course/1",
		"maestrale-gate/1", "maestrale-fleet/1")
	return f, doc.Err()
}

// KeyIn checks a drill, a programme, a gate or a craft type against the
// catalogue, and returns its key. The error says what is wrong with the file,
// with its line.
func (c *Catalogue) KeyIn(data []byte) (string, error) {
	if _, err := c.With(map[string][]byte{"the file": data}); err != nil {
		return "", err
	}
	doc, top := yamldoc.Read(data)
	m := top.Map()
	key := m.Need("key").Text()
	return key, doc.Err()
}

// formatOf returns the format that a file of a catalogue says it has.
func formatOf(data []byte) (string, error) {
	doc, top := yamldoc.Read(data)
	m := top.Map()
	f := m.Need("format").Word("maestrale-drill/1", "maestrale-programme/1", "maestrale-craft/1", "maestrale-course/1",
		"maestrale-gate/1")
	return f, doc.Err()
}

// clone returns a catalogue with maps of its own. It has no order yet: sort it.
func (c *Catalogue) clone() *Catalogue {
	return &Catalogue{Drills: maps.Clone(c.Drills), Programmes: maps.Clone(c.Programmes), Gates: maps.Clone(c.Gates),
		Craft: maps.Clone(c.Craft)}
}

// checkBuilds refuses a drill that builds on one that is not known or, by a way
// round, on itself, and a version of a drill that is not known. All drills must
// have been read.
func (c *Catalogue) checkBuilds(data []byte) error {
	doc, top := yamldoc.Read(data)
	m := top.Map()
	key := m.Get("key").Text()
	// A version of itself would hide that it is on no ladder.
	if v := m.Get("version_of"); v.Present() {
		vm := v.Map()
		of := vm.Need("drill")
		if _, ok := c.Drills[of.Text()]; !ok || of.Text() == key {
			of.Fail(fmt.Sprintf(msgVersionOfUnknown, of.Text()), msgWantDrillKey)
		}
	}
	for _, n := range m.Get("builds").List() {
		b := n.Text()
		if _, ok := c.Drills[b]; !ok {
			n.Fail(fmt.Sprintf(msgBuildsOnUnknown, b), msgWantDrillKey)
		} else if c.reaches(b, key, map[string]bool{}) {
			n.Fail(fmt.Sprintf(msgBuildsInCircle, b, key), msgWantLeadingDrills)
		}
	}
	return doc.Err()
}

// reaches tells whether the drill from builds on the drill to, through any
// number of others. seen are those that were looked at, so that a circle ends.
func (c *Catalogue) reaches(from, to string, seen map[string]bool) bool {
	if from == to {
		return true
	}
	if seen[from] {
		return false
	}
	seen[from] = true
	return slices.ContainsFunc(c.Drills[from].Builds, func(b string) bool { return c.reaches(b, to, seen) })
}

// sort orders the drills so that each stands after those it builds on: by the
// longest chain under it, and by key where that is the same.
func (c *Catalogue) sort() {
	// depth is the longest chain of drills under each.
	depth := map[string]int{}
	var of func(string) int
	of = func(k string) int {
		// Drills that build on one another in a circle were refused, so that
		// this ends.
		if d, ok := depth[k]; ok {
			return d
		}
		d := 0
		for _, b := range c.Drills[k].Builds {
			d = max(d, of(b)+1)
		}
		depth[k] = d
		return d
	}
	c.order = c.order[:0]
	for k := range c.Drills {
		of(k)
		c.order = append(c.order, k)
	}
	sort.Slice(c.order, func(i, j int) bool {
		a, b := c.order[i], c.order[j]
		if depth[a] != depth[b] {
			return depth[a] < depth[b]
		}
		return a < b
	})
}

// InOrder lists the drills, each after those it builds on.
func (c *Catalogue) InOrder() []Drill {
	out := make([]Drill, len(c.order))
	for i, k := range c.order {
		out[i] = c.Drills[k]
	}
	return out
}

// Drill returns a drill by its key. For one that is not known the error lists
// the keys.
func (c *Catalogue) Drill(key string) (Drill, error) {
	d, ok := c.Drills[key]
	if !ok {
		return Drill{}, fmt.Errorf("drill %q is not known; expected one of %s", key, strings.Join(c.order, ", "))
	}
	return d, nil
}

// TitleOf names a drill and its side on a screen. A drill that is no longer in
// the catalogue is named by its key.
func (c *Catalogue) TitleOf(key string, side field.Side) string {
	t := key
	if d, ok := c.Drills[key]; ok {
		t = d.Title
	}
	if side != field.NoSide && side != "" {
		t += ", " + string(side)
	}
	return t
}

// CellWords names a rung on a screen: the drill, its side and the aids. It is
// empty for a cell without a drill.
func (c *Catalogue) CellWords(x Cell) string {
	if x.Drill == "" {
		return ""
	}
	return c.TitleOf(x.Drill, x.Side) + ", " + x.Aids.Words()
}

// ProgrammeKeys lists the programmes by key.
func (c *Catalogue) ProgrammeKeys() []string { return sortedKeys(c.Programmes) }

// sortedKeys are the keys of a map in order.
func sortedKeys[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }

// YAML writes the drills as they were read, one document each, in the order of
// the ladder.
func (c *Catalogue) YAML() []byte {
	var out bytes.Buffer
	for i, d := range c.InOrder() {
		if i > 0 {
			out.WriteString("---\n")
		}
		out.Write(d.Source)
		if !bytes.HasSuffix(d.Source, []byte("\n")) {
			out.WriteByte('\n')
		}
	}
	return out.Bytes()
}
