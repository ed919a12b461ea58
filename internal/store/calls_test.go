package store

import (
	"errors"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/record"
	"maestrale/core/score"
)

// Calls are kept once, by craft type, the newest of them in order of time; another school
// has none of them.
func TestCalls(t *testing.T) {
	s, other := newSchool(t), newSchool(t)
	at := time.Date(2026, 3, 4, 10, 0, 0, 0, time.UTC)
	s.in(t, func(tx Tx) error {
		for i := range 5 {
			c := Call{ID: NewID(), CraftType: "gheppio", At: at.Add(time.Duration(i) * time.Minute),
				DistanceM: float64(20 + 10*i), Light: "day", Shown: i % 4, Called: i%4 - i/3, NotedBy: s.instructor}
			for range 2 { // sent again
				if err := tx.AddCall(ctx, s.student, c); err != nil {
					return err
				}
			}
		}
		if err := tx.AddCall(ctx, s.student, Call{ID: NewID(), CraftType: "poiana", At: at, DistanceM: 90, Light: "dusk",
			Called: -1, NotedBy: s.instructor}); err != nil {
			return err
		}
		list, err := tx.Calls(ctx, s.student, "gheppio", 3)
		if err != nil || len(list) != 3 || list[0].DistanceM != 40 || list[2].DistanceM != 60 || !list[0].Right() ||
			list[2].Right() {
			t.Errorf("%+v, %v", list, err)
		}
		if o := OrientCalls(list); len(o) != 3 || o[0].DistanceM != 40 || !o[0].Right || o[0].Light != "day" {
			t.Errorf("%+v", o)
		}
		who, err := tx.StudentsWhoCalled(ctx, "gheppio", 9)
		if err != nil || len(who) != 1 || who[0].ID != s.student {
			t.Errorf("%+v, %v", who, err)
		}
		if who, err = tx.StudentsWhoCalled(ctx, "poiana", 9); err != nil || len(who) != 0 { // flies gheppio now
			t.Errorf("%+v, %v", who, err)
		}
		return nil
	})
	other.in(t, func(tx Tx) error {
		if list, err := tx.Calls(ctx, s.student, "gheppio", 9); err != nil || len(list) != 0 {
			t.Errorf("another school reads %d calls, %v", len(list), err)
		}
		return nil
	})
	err := db.InSchool(ctx, other.id, func(tx Tx) error {
		return tx.AddCall(ctx, s.student, Call{ID: NewID(), CraftType: "gheppio", At: at, DistanceM: 20, Light: "day",
			NotedBy: other.instructor})
	})
	if !errors.Is(err, ErrNotFound) {
		t.Errorf("a call of another school's student: %v", err)
	}
}

// Runs of the lost-craft trainer are listed with what came of them, those that were refused
// or seen are not.
func TestLostRuns(t *testing.T) {
	s := newSchool(t)
	at := time.Date(2026, 3, 4, 20, 0, 0, 0, time.UTC)
	for i, lost := range []string{"still", "", "wind"} {
		a := s.attempt(score.Pass, at.Add(time.Duration(i)*time.Minute))
		a.Source = score.Sim
		a.Result = &score.Result{Verdict: score.Pass, Steps: []score.StepResult{{Metrics: map[string]float64{"home_s": 9.5,
			"lost_m": 1.25, "wrong_inputs": 1.0}}}}
		if lost == "wind" { // it was not brought home
			a.Result.Steps[0].Metrics = map[string]float64{"lost_m": 30.0}
		}
		s.in(t, func(tx Tx) error {
			id := uuidOf(t, a.Attempt)
			_, err := tx.AddRun(ctx, Run{ID: id, StudentID: s.student, FlownAt: a.At, SentBy: s.instructor, Trace: []byte("{}"),
				Lost: lost, Coach: lost == "wind"})
			return err
		})
		s.keep(t, a)
	}
	s.in(t, func(tx Tx) error {
		if _, err := tx.AddRun(ctx, Run{ID: NewID(), StudentID: s.student, FlownAt: at, SentBy: s.instructor,
			Trace: []byte("{}"), Lost: "still", Refused: "other"}); err != nil {
			return err
		}
		list, err := tx.LostRuns(ctx, s.student, 10)
		if err != nil || len(list) != 2 || list[0].Lost != "still" || *list[0].HomeS != 9.5 || *list[0].LostM != 1.25 ||
			*list[0].Wrong != 1 || list[0].Verdict != "pass" || list[0].Coach {
			t.Fatalf("%+v, %v", list, err)
		}
		if list[1].HomeS != nil || list[1].Wrong != nil || *list[1].LostM != 30 || !list[1].Coach {
			t.Errorf("%+v", list[1])
		}
		if one, err := tx.Run(ctx, list[1].ID); err != nil || one.Lost != "wind" || !one.Coach {
			t.Errorf("%+v, %v", one, err)
		}
		return nil
	})
}

func uuidOf(t *testing.T, a record.Attempt) (id [16]byte) {
	t.Helper()
	u, err := uuid.Parse(a.ID)
	if err != nil {
		t.Fatal(err)
	}
	return u
}
