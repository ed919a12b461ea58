package drill

import (
	"strings"
	"testing"

	"maestrale/core/course"
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

func TestWordsOfItemsAndCalls(t *testing.T) {
	c := Shipped()
	if got := c.CellWords(Cell{}); got != "" {
		t.Errorf("no item is called %q", got)
	}
	if got := c.CellWords(Cell{Drill: "yaw-quarter", Side: field.LeftSide, Aids: craft.PositionHold,
		Level: 1}); !strings.Contains(got, ", position hold") {
		t.Errorf("an item is called %q", got)
	}
	for words, d := range map[string]Due{"On the call “Land”": {Event: "call", Say: "Land"},
		"On a call": {Event: "call"}} {
		if got := d.Words(); !strings.HasPrefix(got, words) || words == "On a call" && strings.Contains(got, "“") {
			t.Errorf("%+v is said %q", d, got)
		}
	}
	if got := (Due{Event: "gust=6", Say: "Hold it"}).Words(); strings.HasPrefix(got, "on a call (") {
		t.Errorf("a gust is said %q", got)
	}
}

// What a step may leave out, and what it needs.
func TestWhatStepsNeed(t *testing.T) {
	hover := string(Shipped().Drills["hover-tail-in"].Source)
	read := func(source string) (Drill, error) { return Parse([]byte(source)) }
	d, err := read(hover)
	if err != nil || d.Steps[0].Automatic {
		t.Fatalf("a manual take-off is automatic: %v", err)
	}
	at := strings.Index(hover, "{kind: takeoff, ")
	if at < 0 {
		t.Fatal("the drill has no take-off in one line")
	}
	by := at + len("{kind: takeoff, ")
	if d, err = read(hover[:by] + "automatic: allowed, " + hover[by:]); err != nil || !d.Steps[0].Automatic {
		t.Errorf("an automatic one is not: %v", err)
	}
	if _, err = read(strings.Replace(hover, "    height_m: 1.5\n", "", 1)); err == nil ||
		!strings.Contains(err.Error(), "no height to hold") {
		t.Errorf("a height band without a height: %v", err)
	}
	land := strings.Index(hover, "  - {kind: land")
	for line, good := range map[string]bool{
		"points: [[0, 6], [4, 10], [-4, 10]], closed: true": true,
		"points: [[0, 6], [4, 10]], closed: true":           false,
		"points: [[0, 6], [4, 10]]":                         true,
		"points: [[0, 6]]":                                  false,
	} {
		step := "  - {kind: path, shape: line, " + line + ", height_m: 1.5, within: {cross_m: 1}}\n"
		_, err := read(hover[:land] + step + hover[land:])
		if (err == nil) != good || !good && !strings.Contains(err.Error(), "too few points") {
			t.Errorf("%s: %v", line, err)
		}
	}
}

// A drill that has sides takes its room once for each, and says which.
func TestRoomsNameTheirSides(t *testing.T) {
	c := Shipped()
	rooms, _ := c.Rooms(laidFrom(t, "box", craft.Light), craft.Light, craft.PositionHold)
	sided, plain := 0, 0
	for _, r := range rooms {
		if strings.HasSuffix(r.Title, ", left") || strings.HasSuffix(r.Title, ", right") {
			sided++
		} else if strings.HasSuffix(r.Title, ", none") {
			t.Errorf("a room is called %q", r.Title)
		} else {
			plain++
		}
	}
	if sided == 0 || plain == 0 || sided%2 != 0 {
		t.Errorf("%d rooms with a side, %d without", sided, plain)
	}
}

func laidFrom(t *testing.T, template string, class craft.Class) *course.Course {
	t.Helper()
	laid, ok := course.Lay(template, class)
	if !ok {
		t.Fatalf("no template %s", template)
	}
	return laid
}
