package students

import (
	"bytes"
	"fmt"
	"sort"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/score"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/words"
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
	Out                bool
}

func howWords(k store.Kept, craftTitle string) string {
	src := map[score.Source]string{score.Observed: "marked by eye", score.FromLog: "scored from a log", score.Sim: "flown in the simulator"}[k.Source]
	parts := []string{src, craftTitle, k.Aids.Words()}
	if k.Site != "" {
		parts = append(parts, "at "+k.Site)
	}
	if s := k.Result.Scale; s > 0 && s < 1 {
		parts = append(parts, fmt.Sprintf("at %.0f %% of its size, as the course is smaller", 100*s))
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

func sortedKeys(m map[string]float64) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}

func metricWords(name string) string {
	if w, ok := metricNames[name]; ok {
		return w
	}
	return strings.ReplaceAll(name, "_", " ")
}

func withUnit(name string, v float64) string {
	for _, u := range units {
		if strings.HasSuffix(name, u.suffix) {
			return words.Number(v) + u.unit
		}
	}
	return words.Number(v)
}

// stepRows puts what was asked beside what was flown.
func stepRows(task drill.Task, r *score.Result) []stepRow {
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
			row.Span = fmt.Sprintf("from %.1f s, not done", *st.StartS)
		default:
			row.Span = fmt.Sprintf("%.1f to %.1f s", *st.StartS, *st.EndS)
		}
		for _, name := range sortedKeys(st.Metrics) {
			v := st.Metrics[name]
			l, limited := st.Limits[name]
			line := metricRow{Name: metricWords(name), Value: withUnit(name, v), Limit: "—"}
			if limited {
				line.Limit = withUnit(name, l)
				line.Out = v > l
				if name == "inside_s" {
					line.Out = v < l
				}
			}
			row.Lines = append(row.Lines, line)
		}
		out = append(out, row)
	}
	return out
}
