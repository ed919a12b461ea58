package students

import (
	"testing"

	"maestrale/core/drill"
	"maestrale/core/score"
)

// A take-over that came late enough is not out, one that came too early is; a rest that was too short is out.
func TestWhatADebriefMarksAsOut(t *testing.T) {
	start, end := 1.0, 9.0
	task := drill.Task{Steps: []drill.Target{{Kind: drill.Return}, {Kind: drill.GoTo}}}
	rows := func(taken, rest float64) map[string]metricRow {
		out := map[string]metricRow{}
		for _, row := range stepRows(task, &score.Result{Steps: []score.StepResult{
			{Kind: "return", StartS: &start, EndS: &end, Metrics: map[string]float64{"taken_over_s": taken, "climb_m": 2},
				Limits: map[string]float64{"taken_over_s": 5}},
			{Kind: "goto", StartS: &start, EndS: &end, Metrics: map[string]float64{"rest_s": rest},
				Limits: map[string]float64{"rest_s": 1}},
		}}, score.TimeView) {
			for _, l := range row.Lines {
				out[l.Name] = l
			}
		}
		return out
	}
	const taken, rest = "time before taking over", "shortest rest"
	if r := rows(7.2, 2.5); len(r) != 3 || r[taken].Out || r[rest].Out || r[taken].Limit != "at least 5 s" ||
		r[rest].Picture != score.TimeView {
		t.Errorf("late enough, rested long enough: %+v", r)
	}
	if r := rows(3.1, 0.4); !r[taken].Out || !r[rest].Out || r["climb before it flew home"].Limit != "" ||
		r["climb before it flew home"].Picture != "" {
		t.Errorf("too early, rested too short: %+v", r)
	}
}
