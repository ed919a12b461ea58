package main

import (
	"fmt"
	"io"
	"sort"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/rehearse"
	"maestrale/core/score"
)

// receivers are what is done to the logs, from the mildest.
var receivers = []struct {
	name string
	r    rehearse.Receiver
}{
	{"exact", rehearse.Receiver{}},
	{"white 2 cm", rehearse.Receiver{White: 0.02}},
	{"white 5 cm", rehearse.Receiver{White: 0.05}},
	{"white 5 cm, speeds logged", rehearse.Receiver{White: 0.05, Speeds: true}},
	{"wander 0.4 m, reported", rehearse.Receiver{Wander: 0.4, Reports: true}},
	{"wander 0.4 m, height too", rehearse.Receiver{Wander: 0.4, WanderZ: 0.4, Reports: true}},
	{"jumps of 0.5 m", rehearse.Receiver{White: 0.01, JumpM: 0.5, JumpS: 30}},
	{"smoothed over 0.4 s", rehearse.Receiver{White: 0.1, SmoothS: 0.4}},
	{"six decimals", rehearse.Receiver{Grain: 0.1, GrainZ: 0.01}},
	{"height in whole metres", rehearse.Receiver{Grain: 0.02, GrainZ: 1}},
	{"a fifth of samples missing", rehearse.Receiver{White: 0.03, Drops: 0.2}},
	{"bunched samples", rehearse.Receiver{White: 0.03, Bunched: true}},
}

var rates = []float64{1, 5, 10, 25, 50, 100}

// tally counts verdicts.
type tally struct{ n, pass, fine, fail, incomplete, near int }

func (t *tally) add(r *score.Result, perfect bool) {
	t.n++
	if r.Close() {
		t.near++
	}
	switch {
	case r.Verdict == score.Fail:
		t.fail++
	case r.Verdict == score.Incomplete:
		t.incomplete++
	case len(r.Unjudged) > 0 && perfect:
		t.fine++
	default:
		t.pass++
	}
}

func (t tally) row() string {
	return fmt.Sprintf("%d | %d | %d | %d | %d | %d", t.n, t.pass, t.fine, t.fail, t.incomplete, t.near)
}

func noiseTable(w io.Writer, seed uint64) error {
	fmt.Fprint(w, `# What the scorer says of perfect flights on real logs

Made by `+"`make tables`"+` (cmd/tables, seed `, seed, `). Every shipped drill is flown by a script without an error
(core/rehearse), calmly and
with sudden starts and stops, by a light and a micro craft, and logged as receivers do. "Passed" is with everything
judged; "too fine" is a
pass with something that the log is too coarse to judge, which is said in `+"`unjudged`"+`; "close" counts those, of
any verdict, of whose
verdict the log is less than 80 % sure. What is too fine to judge does not count in that.

`)
	all := drill.Shipped().InOrder()
	byDrill := map[string]*tally{}
	fmt.Fprint(w, "## By noise and rate\n\n| noise | Hz | flights | passed | too fine | failed | incomplete | close "+
		"|\n|---|---|---|---|---|---|---|---|\n")
	for _, x := range receivers {
		for _, hz := range rates {
			var sum tally
			for _, d := range all {
				for k, class := range []craft.Class{craft.Light, craft.Micro} {
					task, err := d.Lay(d.Sides()[k%len(d.Sides())], 1, class, nil)
					if err != nil {
						continue // not flown by the class
					}
					for _, sharp := range []bool{false, true} {
						style := rehearse.Usual()
						style.Sharp = sharp
						seed++
						r, err := score.Track(task, x.r.Log(rehearse.Of(task, style, rehearse.Error{}), hz, seed), score.FromLog)
						if err != nil {
							return fmt.Errorf("%s: %w", d.Key, err)
						}
						sum.add(r, true)
						if hz >= 5 && (x.name == "white 5 cm" || x.name == "wander 0.4 m, reported") {
							key := d.Key + " | " + x.name
							if byDrill[key] == nil {
								byDrill[key] = &tally{}
							}
							byDrill[key].add(r, true)
						}
					}
				}
			}
			fmt.Fprintf(w, "| %s | %g | %s |\n", x.name, hz, sum.row())
		}
	}
	fmt.Fprint(w, "\n## By drill, at 5 to 100 Hz\n\n| drill | noise | flights | passed | too fine | failed | incomplete "+
		"| close |\n|---|---|---|---|---|---|---|---|\n")
	keys := make([]string, 0, len(byDrill))
	for k := range byDrill {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	for _, k := range keys {
		fmt.Fprintf(w, "| %s | %s |\n", k, byDrill[k].row())
	}
	return nil
}
