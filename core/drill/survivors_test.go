package drill

import (
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// The catalogue as one text has a document for each drill, with a line between them and none before the first.
func TestTheCatalogueIsOneDocumentADrill(t *testing.T) {
	c := Shipped()
	text := "\n" + string(c.YAML())
	if n := strings.Count(text, "\n---\n"); n != len(c.Drills)-1 || strings.HasPrefix(text, "\n---") {
		t.Errorf("%d lines between %d drills; it begins %.20q", n, len(c.Drills), text)
	}
}

// A craft type that is wrong is refused with its file, and the catalogue stays as it was.
func TestAWrongCraftTypeIsRefused(t *testing.T) {
	poiana := craft.Shipped()["poiana"]
	good, err := poiana.YAML()
	if err != nil {
		t.Fatal(err)
	}
	c := Shipped()
	bad := strings.Replace(string(good), "mass_kg: 0.92", "mass_kg: heavy", 1)
	if _, err := c.With(map[string][]byte{"own.yaml": []byte(bad)}); err == nil || !strings.Contains(err.Error(),
		"own.yaml") {
		t.Errorf("%v", err)
	}
	next, err := c.With(map[string][]byte{"own.yaml": []byte(strings.Replace(string(good), "mass_kg: 0.92", "mass_kg: 1.5",
		1))})
	if err != nil || next.Craft["poiana"].MassKg != 1.5 || c.Craft["poiana"].MassKg != 0.92 {
		t.Errorf("%v, %g and %g kg", err, next.Craft["poiana"].MassKg, c.Craft["poiana"].MassKg)
	}
	if key, err := c.KeyIn(good); key != "poiana" || err != nil {
		t.Errorf("%q, %v", key, err)
	}
}

// A drill whose places are far markers takes the room of a course; one that stays over the pad does not.
func TestFarMarkersTakeRoom(t *testing.T) {
	c := Shipped()
	for key, takes := range map[string]bool{"hover-tail-in": false, "square-turned": true, "circle-along": true} {
		d, err := c.Drill(key)
		if err != nil {
			t.Fatal(err)
		}
		if d.takesRoom() != takes {
			t.Errorf("%s takes room: %v", key, !takes)
		}
	}
	for marker, takes := range map[string]bool{"pad": false, "centre": false, "far-left": true} {
		d := Drill{Steps: []Step{{Kind: Hold, At: &Place{Marker: marker}}}}
		if d.takesRoom() != takes {
			t.Errorf("a hold at %s takes room: %v", marker, !takes)
		}
		d = Drill{Steps: []Step{{Kind: GoTo, To: &Place{Marker: marker}}}}
		if d.takesRoom() != takes {
			t.Errorf("a leg to %s takes room: %v", marker, !takes)
		}
	}
}

// A turn comes by the sector in which it ends.
func TestATurnReachesItsLastSector(t *testing.T) {
	c := Shipped()
	d, err := c.Drill("yaw-quarter")
	if err != nil {
		t.Fatal(err)
	}
	for _, side := range d.Sides() {
		task, err := d.Lay(side, 1, craft.Light, nil)
		if err != nil {
			t.Fatal(err)
		}
		in := task.Sectors()
		end := field.Sector(field.Degrees(map[field.Side]float64{field.LeftSide: -90, field.RightSide: 90}[side]))
		if !in[end] || !in[field.Sector(0)] {
			t.Errorf("%s: sectors %v, without the last one, %d, or the first", side, in, end)
		}
	}
}
