package score_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/rehearse"
	"maestrale/core/score"
	"maestrale/internal/golden"
)

// What the scorer says of every shipped drill, flown by a script: without an error, on a log as receivers make it, and
// with one error a little inside and a little outside each limit that the drill sets. A change of a threshold shows
// here as a difference to read.
func TestResultsAsTheyAre(t *testing.T) {
	var out bytes.Buffer
	receiver := rehearse.Receiver{White: 0.05, Wander: 0.1, WanderZ: 0.1}
	for n, d := range drill.Shipped().InOrder() {
		side := d.Sides()[n%len(d.Sides())]
		class := craft.Classes[n%len(craft.Classes)]
		task, err := d.Lay(side, 1, class, nil)
		if err != nil {
			fmt.Fprintf(&out, "%s %s: %v\n", d.Key, class, err)
			continue
		}
		judge := func(wrong rehearse.Error, rough bool) *score.Result {
			f := rehearse.Of(task, rehearse.Usual(), wrong)
			tr := f.Track(25)
			if rough {
				tr = receiver.Log(f, 10, uint64(n))
			}
			r, err := score.Track(task, tr, score.FromLog)
			if err != nil {
				t.Fatal(err)
			}
			return r
		}
		perfect := judge(rehearse.Error{}, false)
		for _, r := range []*score.Result{perfect, judge(rehearse.Error{}, true)} {
			data, err := json.Marshal(r)
			if err != nil {
				t.Fatal(err)
			}
			fmt.Fprintf(&out, "%s %s %s: %s: %s\n", d.Key, side, class, r.Summary(), data)
		}
		for i, step := range perfect.Steps {
			for _, name := range slices.Sorted(maps.Keys(step.Limits)) {
				for _, share := range []float64{0.93, 1.07} {
					r := judge(rehearse.Error{Step: i, Criterion: name, Size: share * step.Limits[name]}, false)
					fmt.Fprintf(&out, "  step %d, %s at %.2f: %s, %s", i, name, share, r.Verdict, r.Summary())
					if r.Margin != nil {
						fmt.Fprintf(&out, ", margin %.4f", *r.Margin)
					}
					for _, f := range r.Faults {
						fmt.Fprintf(&out, "; %s", f.Text)
					}
					out.WriteString("\n")
				}
			}
		}
	}
	golden.Check(t, "results.golden", out.Bytes())
}
