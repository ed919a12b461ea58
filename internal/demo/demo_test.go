package demo

import (
	"context"
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/localpg"
	"maestrale/internal/store"
)

var url string

func TestMain(m *testing.M) {
	u, end, err := localpg.ForTest()
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	url = u
	code := m.Run()
	end()
	os.Exit(code)
}

func TestTheSampleSchool(t *testing.T) {
	ctx := context.Background()
	if err := store.Migrate(ctx, url); err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(ctx, url, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	cat := drill.Shipped()
	now := time.Date(2026, 5, 20, 14, 0, 0, 0, time.UTC)
	begin := time.Now()
	if err := Load(ctx, url, s, cat, now, func(p string) (string, error) { return p, nil }); err != nil {
		t.Fatal(err)
	}
	t.Logf("loaded in %v", time.Since(begin))
	c, err := s.ByEmail(ctx, "livia@saline.example")
	if err != nil {
		t.Fatal(err)
	}
	verdicts, sources := map[score.Verdict]int{}, map[score.Source]int{}
	held := map[string]int{}
	states := map[string]map[readiness.Standing]int{}
	zone, _ := time.LoadLocation(Zone)
	err = s.InSchool(ctx, c.SchoolID, func(tx store.Tx) error {
		students, err := tx.Students(ctx)
		if err != nil || len(students) != 12 {
			t.Fatalf("%d students, %v", len(students), err)
		}
		for _, st := range students {
			list, err := tx.Attempts(ctx, st.ID)
			if err != nil {
				return err
			}
			var plain []record.Attempt
			for _, a := range list {
				verdicts[a.Verdict]++
				sources[a.Source]++
				plain = append(plain, a.Attempt)
				if a.At.After(now) {
					t.Errorf("an attempt of %v, after now", a.At)
				}
			}
			e := readiness.Sort(plain, cat.Drills, now, zone)
			states[st.Name] = map[readiness.Standing]int{}
			for _, cell := range cat.Programmes[st.Programme].Cells() {
				c := e.Cell(readiness.Key{Cell: cell, Class: cat.Craft[st.CraftType].Class()})
				states[st.Name][c.Standing]++
				if c.Standing == readiness.Held {
					held[st.Name]++
				}
			}
			chain, err := tx.Chain(ctx, st.ID)
			if err != nil {
				return err
			}
			if broken, err := record.Verify(chain); broken != 0 || err != nil || len(chain) < len(list)+2 { // and what was witnessed
				t.Errorf("%s: chain of %d for %d attempts, broken at %d, %v", st.Name, len(chain), len(list), broken, err)
			}
			t.Logf("%-18s %3d attempts %v", st.Name, len(list), states[st.Name])
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	t.Log(verdicts, sources)
	if p, f := verdicts[score.Pass], verdicts[score.Fail]; p < 100 || f < 60 || verdicts[score.Incomplete] > p/4 {
		t.Errorf("verdicts %v are not those of a school", verdicts)
	}
	if sources[score.FromLog] < 50 || sources[score.Observed] < 100 {
		t.Errorf("sources %v", sources)
	}
	cells := len(cat.Programmes["position-hold-first"].Cells())
	if held["Nives Torcellan"] < cells-2 {
		t.Errorf("the one who is nearly ready holds %d of %d cells", held["Nives Torcellan"], cells)
	}
	if states["Dunja Velkovar"][readiness.Lapsed] < 2 || held["Dunja Velkovar"] > 0 {
		t.Errorf("the one who was ill: %v", states["Dunja Velkovar"])
	}
	if held["Amina Corvelli"] > 0 || states["Amina Corvelli"][readiness.Untried] < 3 {
		t.Errorf("the one who is just starting: %v", states["Amina Corvelli"])
	}
}

// The hand's errors are those that were asked for, whatever the seed.
func TestHandErrorsAreAsAsked(t *testing.T) {
	d, _ := drill.Shipped().Drill("hover-tail-in")
	task, err := d.Lay(field.NoSide, 1, craft.Light, nil)
	if err != nil {
		t.Fatal(err)
	}
	task.Steps[1].Seconds = 600
	for _, want := range []float64{0.1, 0.3} {
		tr := Fly(task, Hand{PlaceM: want, HeightM: 0.1, Nose: 0.1, SinkMps: 0.5}, 5)
		sum, n := 0.0, 0
		for i := range tr.T {
			if tr.T[i] > 10 && tr.T[i] < 600 {
				sum += tr.X[i] * tr.X[i]
				n++
			}
		}
		if got := sum / float64(n) / (want * want); got < 0.7 || got > 1.4 {
			t.Errorf("variance of %v m asked: %.2f of it flown", want, got)
		}
	}
}

func TestAGoodHandPassesAndABadOneDoesNot(t *testing.T) {
	cat := drill.Shipped()
	for _, d := range cat.InOrder() {
		for _, side := range d.Sides() {
			task, err := d.Lay(side, 1, craft.Light, nil)
			if err != nil {
				t.Fatal(err)
			}
			good, bad, agree, n := 0, 0, 0, 40
			for seed := range uint64(n) {
				flight := Fly(task, Hand{PlaceM: 0.12, HeightM: 0.06, Nose: 0.05, SinkMps: 0.45}, seed)
				r, err := score.Track(task, flight, score.FromLog)
				if err != nil {
					t.Fatal(err)
				}
				seen := score.Marks(task, Watch(task, flight, seed)).Result
				if r.Verdict == score.Pass {
					good++
				}
				if seen.Verdict == r.Verdict {
					agree++
				}
				r, _ = score.Track(task, Fly(task, Hand{PlaceM: 0.8, HeightM: 0.4, Nose: 0.4, DriftMps: 0.4, SinkMps: 1.1}, seed), score.FromLog)
				if r.Verdict == score.Pass {
					bad++
				}
			}
			if good < n*8/10 || bad > n/10 || agree < n*8/10 {
				t.Errorf("%s %s: of %d, a good hand passes %d, a bad one %d; eye and log agree on %d", d.Key, side, n, good, bad, agree)
			}
		}
	}
}

func TestTheSameSeedGivesTheSameFlight(t *testing.T) {
	d, _ := drill.Shipped().Drill("yaw-quarter")
	task, _ := d.Lay(field.LeftSide, 1, craft.Micro, nil)
	h := Hand{PlaceM: 0.2, HeightM: 0.1, Nose: 0.1, DriftMps: 0.1, SinkMps: 0.5}
	a, b, c := Fly(task, h, 9), Fly(task, h, 9), Fly(task, h, 10)
	same, other := true, false
	for i := range a.T {
		same = same && a.X[i] == b.X[i] && a.Heading[i] == b.Heading[i]
		other = other || (i < c.Len() && a.X[i] != c.X[i])
	}
	if !same || !other {
		t.Errorf("same seed alike %v, other seed other %v", same, other)
	}
	if _, err := uuid.Parse(idAt(time.Now())); err != nil {
		t.Error(err)
	}
}
