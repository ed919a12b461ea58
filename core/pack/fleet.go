package pack

import (
	"bytes"
	"fmt"
	"time"

	"go.yaml.in/yaml/v3"

	"maestrale/core/craft"
	"maestrale/core/misread"
	"maestrale/core/yamldoc"
)

// Fleet is a school's craft, packs and shelf, as a maestrale-fleet/1 file.
type Fleet struct {
	Craft []Named
	Packs []Record
	Shelf []Shelf
}

// Named is one craft of a type.
type Named struct {
	Name string `yaml:"name"`
	Type string `yaml:"type"`
}

// Shelf is how many of a part for a type lie on the shelf.
type Shelf struct {
	Type  string `yaml:"type"`
	Part  string `yaml:"part"`
	Count int    `yaml:"count"`
}

// ParseFleet reads a maestrale-fleet/1 file against the craft types that are
// known. A pack that does not fit its type, and a name that stands twice, are
// refused with their line.
func ParseFleet(data []byte, types craft.Catalogue) (Fleet, error) {
	d, top := yamldoc.Read(data)
	m := top.Map()
	m.Need("format").Word("maestrale-fleet/1")
	var f Fleet
	names := map[string]bool{}
	// Craft and packs share one list of names, as labels lie side by side.
	name := func(n yamldoc.Node) string {
		s := n.Text()
		if n.Present() && (s == "" || len(s) > 60 || names[s]) {
			n.Fail(fmt.Sprintf(msgNameWrong, s), msgWantOwnName)
		}
		names[s] = true
		return s
	}
	known := types.Keys()
	for _, n := range m.Get("craft").List() {
		cm := n.Map()
		f.Craft = append(f.Craft, Named{name(cm.Need("name")), cm.Need("type").Word(known...)})
		cm.Done()
	}
	for _, n := range m.Get("packs").List() {
		pm := n.Map()
		r := Record{Name: name(pm.Need("name")), Type: pm.Need("type").Word(known...)}
		b := types[r.Type].Battery
		r.Chemistry, r.Cells, r.CapacityMah, r.MassKg = b.Chemistry, b.Cells, b.CapacityMah, b.MassKg
		if c := pm.Get("chemistry"); c.Present() {
			r.Chemistry = craft.ReadChemistry(c)
		}
		if c := pm.Get("cells"); c.Present() {
			r.Cells = c.Int(1, 24)
		}
		if c := pm.Get("capacity_mah"); c.Present() {
			r.CapacityMah = c.Number(50, 200_000)
		}
		if c := pm.Get("mass_kg"); c.Present() {
			r.MassKg = c.Number(0.001, 50)
		}
		if b := pm.Get("bought_on"); b.Present() {
			r.BoughtOn = readDay(b)
		}
		pm.Done()
		if d.Err() == nil {
			if err := r.Check(types[r.Type]); err != nil {
				n.Fail(err.(*misread.Error).What, err.(*misread.Error).Expected)
			}
		}
		f.Packs = append(f.Packs, r)
	}
	for _, n := range m.Get("shelf").List() {
		sm := n.Map()
		f.Shelf = append(f.Shelf, Shelf{sm.Need("type").Word(known...), sm.Need("part").Text(), sm.Need("count").Int(0,
			10_000)})
		sm.Done()
	}
	m.Done()
	if d.Err() != nil {
		return Fleet{}, d.Err()
	}
	return f, nil
}

// readDay reads a date; a key that is not there is the zero time.
func readDay(n yamldoc.Node) time.Time {
	s := n.Scalar()
	day, err := time.Parse(time.DateOnly, s)
	if err != nil && n.Present() {
		n.Fail(fmt.Sprintf(msgDayWrong, s), "a day as 2026-03-02")
	}
	return day
}

// fileFleet is a fleet as its file has it.
type fileFleet struct {
	Format string     `yaml:"format"`
	Craft  []Named    `yaml:"craft,omitempty"`
	Packs  []filePack `yaml:"packs,omitempty"`
	Shelf  []Shelf    `yaml:"shelf,omitempty"`
}

// filePack is one pack of a file.
type filePack struct {
	Name        string          `yaml:"name"`
	Type        string          `yaml:"type"`
	Chemistry   craft.Chemistry `yaml:"chemistry"`
	Cells       int             `yaml:"cells"`
	CapacityMah float64         `yaml:"capacity_mah"`
	MassKg      float64         `yaml:"mass_kg,omitempty"`
	BoughtOn    string          `yaml:"bought_on,omitempty"`
}

// YAML writes the fleet as a file that ParseFleet reads back.
func (f Fleet) YAML() ([]byte, error) {
	out := fileFleet{Format: "maestrale-fleet/1", Craft: f.Craft, Shelf: f.Shelf}
	for _, r := range f.Packs {
		p := filePack{r.Name, r.Type, r.Chemistry, r.Cells, r.CapacityMah, r.MassKg, ""}
		if !r.BoughtOn.IsZero() {
			p.BoughtOn = r.BoughtOn.Format(time.DateOnly)
		}
		out.Packs = append(out.Packs, p)
	}
	var b bytes.Buffer
	e := yaml.NewEncoder(&b)
	e.SetIndent(2)
	if err := e.Encode(out); err != nil {
		return nil, fmt.Errorf("write the fleet: %w", err)
	}
	return b.Bytes(), nil
}
