package demo

import (
	"bytes"
	"flag"
	"math"
	"os"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/score"
	"maestrale/core/track"
)

var update = flag.Bool("update", false, "write examples/ anew")

const exampleFile = "../../examples/hover-drift.csv"

func TestTheShippedExampleIsTheOneThatIsMade(t *testing.T) {
	made, err := Example(drill.Shipped())
	if err != nil {
		t.Fatal(err)
	}
	var want bytes.Buffer
	if err := track.WriteCSV(&want, made); err != nil {
		t.Fatal(err)
	}
	if *update {
		if err := os.WriteFile(exampleFile, want.Bytes(), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	got, err := os.ReadFile(exampleFile)
	if err != nil || !bytes.Equal(got, want.Bytes()) {
		t.Fatalf("examples/hover-drift.csv is not what is made; run go test ./internal/demo -update (%v)", err)
	}
	read, notes, err := track.ReadCSV(bytes.NewReader(got), track.CSVOptions{})
	if err != nil || len(notes) > 0 {
		t.Fatal(err, notes)
	}
	d, _ := drill.Shipped().Drill(ExampleDrill)
	task, _ := d.Lay(field.NoSide, 1, craft.Light, nil)
	r, err := score.Track(task, read, score.FromLog)
	if err != nil {
		t.Fatal(err)
	}
	if r.Verdict != score.Fail || len(r.Faults) != 1 {
		t.Fatalf("%s %+v", r.Verdict, r.Faults)
	}
	f := r.Faults[0]
	if f.Code != score.LeftBox || f.Toward != "right" || math.Abs(f.TS-exampleGustAt) > 4 || *f.Value < 1.2 ||
		*f.Value > 1.6 {
		t.Errorf("the gust at %v s was found as %+v", exampleGustAt, f)
	}
}
