package weeks

import (
	"bytes"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"maestrale/core/drill"
	"maestrale/core/flight/trace"
	"maestrale/core/rig"
	"maestrale/core/score"
	"maestrale/internal/demo/pilot"
)

// The weeks are made alike each time, and come out of their package as they went in.
func TestWeeksRepeatAndPack(t *testing.T) {
	if testing.Short() {
		t.Skip("the weeks are flown twice")
	}
	cat := drill.Shipped()
	const ilario = 1
	a, err := Make(cat, ilario)
	if err != nil {
		t.Fatal(err)
	}
	b, err := Make(cat, ilario)
	if err != nil || !reflect.DeepEqual(a, b) {
		t.Errorf("made again they differ (%v)", err)
	}
	var file bytes.Buffer
	if err := Write(&file, a); err != nil {
		t.Fatal(err)
	}
	if c, err := Read(bytes.NewReader(file.Bytes())); err != nil || !reflect.DeepEqual(a, c) {
		t.Errorf("packed and read they differ (%v)", err)
	}
	// From what is kept of a flight comes the same result again.
	again := slices.Clone(a)
	for i := range again {
		again[i].Result = nil
	}
	if err := Judge(cat, again); err != nil || !reflect.DeepEqual(a, again) {
		t.Errorf("judged anew they differ (%v)", err)
	}
	for _, cut := range []int{0, 3, file.Len() / 2} {
		if _, err := Read(bytes.NewReader(file.Bytes()[:cut])); err == nil {
			t.Errorf("%d bytes of %d are read", cut, file.Len())
		}
	}
	// Its right side is the weaker one; what is flown rises in the course of a day.
	tries, lost := map[string]int{}, map[string]int{}
	sources := map[score.Source]int{}
	for i, f := range a {
		sources[f.Source]++
		if f.Side != "none" {
			tries[string(f.Side)]++
			if f.Result.Verdict != score.Pass {
				lost[string(f.Side)]++
			}
		}
		if i > 0 && (f.Day < a[i-1].Day || f.Day == a[i-1].Day && f.Minute <= a[i-1].Minute) {
			t.Errorf("flight %d is before the one before it", i)
		}
	}
	if lost["right"]*tries["left"] <= lost["left"]*tries["right"] {
		t.Errorf("of %v, lost %v: the right is not the weaker side", tries, lost)
	}
	if sources[score.Observed] == 0 || sources[score.FromLog] == 0 || sources[score.Sim] == 0 {
		t.Errorf("sources %v", sources)
	}
}

// Eye and log agree on nearly every flight.
func TestTheEyeAgreesWithTheLog(t *testing.T) {
	cat := drill.Shipped()
	if testing.Short() {
		t.Skip("every drill is flown eight times; make test does")
	}
	seeds := 8
	if os.Getenv("MAESTRALE_NIGHTLY") != "" {
		seeds = 16
	}
	flown := map[string]bool{} // by the programmes of the sample school
	for _, l := range Learners {
		for _, c := range cat.Programmes[l.Programme].Cells() {
			flown[c.Drill] = true
		}
	}
	for _, d := range cat.InOrder() {
		if !flown[d.Key] {
			continue
		}
		agree, n := 0, 0
		for _, side := range d.Sides() {
			for seed := range seeds {
				spec := trace.Spec{Craft: "poiana", Drill: d.Key, Side: string(side), Level: 1, Aids: "height-hold", WindMps: 2.5,
					WindFromDeg: 170, Gusts: "none", Seed: uint32(seed)}
				if len(d.Aids) > 0 {
					spec.Aids = string(d.Aids[0])
				}
				setup, err := rig.SetUp(spec, cat, nil)
				if err != nil {
					t.Fatal(err)
				}
				task := *setup.Task
				f, err := pilot.Fly(spec, cat, pilot.Of([]float64{0.1, 0.35}[seed%2], 1), uint64(seed))
				if err != nil {
					t.Fatal(err)
				}
				r, err := score.Track(task, Log(f.Track), score.FromLog)
				if err != nil {
					t.Fatal(err)
				}
				n++
				if score.Marks(task, Watch(task, f.Track, f.Outcome.Ended == "crashed", uint64(seed))).Result.Verdict == r.Verdict {
					agree++
				}
			}
		}
		if agree < n*8/10 {
			t.Errorf("%s: eye and log agree on %d of %d", d.Key, agree, n)
		}
	}
}

// The wind rises after eleven and lies down in the evening.
func TestTheWindsHabit(t *testing.T) {
	for day := range DaysBack {
		morning, afternoon, night := WindOn(day, 9*60), WindOn(day, 14*60), WindOn(day, 22*60)
		if afternoon.Mps < morning.Mps+2.5 || night.Mps > morning.Mps+0.1 || morning.Mps < 1.5 || morning.Gust < morning.Mps {
			t.Errorf("day %d: %v, %v, %v", day, morning, afternoon, night)
		}
	}
	if names := map[string]bool{}; true {
		for _, l := range Learners {
			names[strings.ToLower(l.Name)] = true
		}
		if len(names) != 12 {
			t.Errorf("%d learners", len(names))
		}
	}
}
