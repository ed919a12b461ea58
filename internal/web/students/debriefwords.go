package students

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/score"
	"maestrale/internal/draw"
	"maestrale/internal/store"
)

type eventRow struct {
	T        float64
	What, By string
}

// eventsOf are the events of a run as a debrief tells them.
func eventsOf(run []byte) ([]eventRow, error) {
	tr, err := trace.Read(bytes.NewReader(run))
	if err != nil {
		return nil, fmt.Errorf("the run as it was kept: %w", err)
	}
	var out []eventRow
	for _, h := range tr.Events {
		e, err := flight.ParseEvent(h.Event)
		if err != nil {
			return nil, fmt.Errorf("the run as it was kept: %w", err)
		}
		out = append(out, eventRow{float64(h.Reading) * flight.TicksPerStick * flight.Tick, e.Words(), h.By})
	}
	return out, nil
}

type stepRow struct {
	score.StepResult
	Number int
	Asked  string
	Span   string
	Lines  []metricRow
}

type metricRow struct {
	Name, Value, Limit string
	Picture            score.Picture
	Out                bool
}

func howWords(k store.Kept, craftTitle string) string {
	src := map[score.Source]string{score.Observed: msgMarkedEye, score.FromLog: msgScoredFromLog,
		score.Sim: msgFlownSimulator, score.Claimed: msgBroughtFromPaper}[k.Source]
	parts := []string{src, craftTitle, k.Aids.Words()}
	if k.Site != "" {
		parts = append(parts, "at "+k.Site)
	}
	if s := k.Result.Scale; s > 0 && s < 1 {
		parts = append(parts, fmt.Sprintf(msgSizeCourseSmaller, 100*s))
	}
	if k.Level > 1 {
		parts = append(parts, fmt.Sprintf("level %d", k.Level))
	}
	if k.WindMps != nil {
		w := fmt.Sprintf("wind %.1f m/s", *k.WindMps)
		if k.WindFromDeg != nil {
			w += " from " + draw.WindWords(*k.WindFromDeg)
		}
		parts = append(parts, w)
	}
	return strings.Join(parts, " · ")
}

// stepRows puts what was asked beside what was flown. A figure that is out leads to its drawing if that is shown.
func stepRows(task drill.Task, r *score.Result, shown ...score.Picture) []stepRow {
	var out []stepRow
	for i, st := range r.Steps {
		if i >= len(task.Steps) {
			break
		}
		row := stepRow{StepResult: st, Number: i + 1, Asked: task.Steps[i].Words()}
		switch {
		case st.StartS == nil:
			row.Span = "not begun"
		case st.EndS == nil:
			row.Span = fmt.Sprintf(msgFromNotDone, *st.StartS)
		default:
			row.Span = fmt.Sprintf("%.1f to %.1f s", *st.StartS, *st.EndS)
		}
		for _, m := range score.Metrics {
			if v, ok := st.Metrics[m.Key]; ok {
				line := metricRow{Name: m.Words, Value: m.Value(v), Limit: m.LimitWords(st.Limits), Out: m.Out(v, st.Limits)}
				if slices.Contains(shown, m.Picture) {
					line.Picture = m.Picture
				}
				row.Lines = append(row.Lines, line)
			}
		}
		out = append(out, row)
	}
	return out
}
