package demo

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/drill"
	"maestrale/core/flight/trace"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/rig"
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
	if err := Load(ctx, url, s, cat, At{now, now, course.LitDay}, func(p string) (string, error) {
		return p,
			nil
	}); err != nil {
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
			// and what was witnessed
			if broken, err := record.Verify(chain); broken != 0 || err != nil || len(chain) < len(list)+2 {
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
	if held["Nives Torcellan"] < cells/2 {
		t.Errorf("the one who is nearly ready holds %d of %d cells", held["Nives Torcellan"], cells)
	}
	if states["Dunja Velkovar"][readiness.Lapsed] < 2 || held["Dunja Velkovar"] > 0 {
		t.Errorf("the one who was ill: %v", states["Dunja Velkovar"])
	}
	if held["Amina Corvelli"] > 0 || states["Amina Corvelli"][readiness.Untried] < 3 {
		t.Errorf("the one who is just starting: %v", states["Amina Corvelli"])
	}
	dayRuns(t, s, cat, now)
}

// The kept runs of the simulator are flown again to the state that they claim, as
// those of a browser are.
func TestKeptRunsAreFlownAgain(t *testing.T) {
	list, err := flights()
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	for _, of := range list {
		for _, f := range of {
			if len(f.Run) == 0 || n == 6 {
				continue
			}
			n++
			tr, err := trace.Read(bytes.NewReader(f.Run))
			if err != nil {
				t.Fatal(err)
			}
			r, err := rig.Replay(tr, drill.Shipped(), nil)
			if err != nil || r.Result.Verdict != f.Result.Verdict || r.Result.Summary() != f.Result.Summary() {
				t.Errorf("learner %d, day %d: %v, %v as %v", f.Learner, f.Day, err, r.Result, f.Result)
			}
		}
	}
	if n == 0 {
		t.Error("nobody practised in the simulator")
	}
}

func TestIDsAreOfTheirMoment(t *testing.T) {
	at := time.Date(2026, 2, 3, 4, 5, 6, 789e6, time.UTC)
	id, err := uuid.Parse(idAt(at))
	if err != nil {
		t.Fatal(err)
	}
	if sec, nsec := id.Time().UnixTime(); !time.Unix(sec, nsec).Equal(at) {
		t.Errorf("%v; expected %v", time.Unix(sec, nsec), at)
	}
}
