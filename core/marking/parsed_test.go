package marking

import (
	"os"
	"strings"
	"testing"

	"maestrale/core/drill"
	"maestrale/core/yamldoc"
)

// A pad reads no YAML: its day brings the school's own files and the course parsed, families with all their members.
func TestADayBringsItsDocumentsParsed(t *testing.T) {
	source, err := os.ReadFile("../drill/catalogue/family-off-tail.yaml")
	if err != nil {
		t.Fatal(err)
	}
	family := strings.Replace(string(source), "\nkey: ", "\nkey: ours-", 1)
	if family == string(source) || !strings.Contains(family, "\nvary:") {
		t.Fatal("the file is no family any more")
	}
	day := bundle(t, func(b *Bundle) {
		b.Files = map[string]string{"drills/ours.yaml": family}
		b.Course = CourseOf{"c@1", "Pan, small", "format: maestrale-course/1\nmarkers: {pad: [0, 6], centre: [0, 6]}\n"}
		b.Parse()
	})
	docs, err := drill.ShippedDocuments()
	if err != nil {
		t.Fatal(err)
	}
	ships := yamldoc.PackedTreesOf(docs...)
	yamldoc.Forget()
	if err := yamldoc.RememberPacked(ships); err != nil {
		t.Fatal(err)
	}
	before := yamldoc.Parsed()
	d, err := Open(day)
	if err != nil {
		t.Fatal(err)
	}
	if n := yamldoc.Parsed() - before; n != 0 {
		t.Errorf("%d documents had to be parsed", n)
	}
	if d.laid == nil {
		t.Error("there is no course")
	}
	own := 0
	for key := range d.cat.Drills {
		if strings.HasPrefix(key, "ours-") {
			own++
		}
	}
	if own < 2 {
		t.Errorf("%d drills of the school's own; expected a family of them", own)
	}

	d.Trees = d.Trees[:len(d.Trees)-1]
	if err := yamldoc.Remember(d.Trees); err == nil {
		t.Error("trees that were cut off are taken")
	}
}
