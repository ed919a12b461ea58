package marking

import (
	"flag"
	"fmt"
	"math"
	"os"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/score"
)

var writeTable = flag.Bool("table", false, "write docs/tables/one-button.md anew")

// reacts is how long the instructor takes from what happens to the press, s.
const reacts = 0.4

// event is something that truly happens to the craft: what it is, and when.
type event struct {
	at   float64
	kind string // as a mark
}

// flownBy is a craft that flies a step as it is asked, from the moment at which its pilot hears of it: the truth, of
// which the pad knows nothing.
func flownBy(step drill.Target, heardS float64, inside, excursion bool) (list []event) {
	t := heardS
	then := func(after float64, kind string) { t += after; list = append(list, event{t, kind}) }
	limit := func(s float64) float64 {
		if s <= 0 {
			return 1.5
		}
		return 0.6 * s
	}
	answers := func() {
		for _, d := range step.During {
			then(1, "call") // the instructor's own: the voice has named it
			if d.Seconds > 0 || d.Distance > 0 {
				then(limit(d.Seconds), "rest")
			}
			if !d.End && step.Kind == drill.Hold {
				then(1.5, "in")
			}
		}
	}
	switch step.Kind {
	case drill.TakeOff:
		then(4, "in")
	case drill.Hold:
		if !inside {
			then(2.5, "in")
		}
		if excursion && len(step.During) == 0 && step.Seconds > 4 {
			then(3, "out")
			then(2, "in")
		}
		answers()
	case drill.Turn:
		then(1.5, "moving")
		then(3, "rest")
	case drill.GoTo:
		then(4, "rest")
	case drill.Path:
		then(1.5, "moving")
		if step.Path != nil && step.RestS > 0 {
			for range step.Path.Corners {
				then(4, "rest")
				then(step.RestS+1, "moving")
			}
		}
		answers()
		then(5, "in")
	case drill.Stop:
		if step.OnCall {
			then(1.5, "call")
		}
		then(limit(step.Limits.Seconds), "rest")
	case drill.Return:
		then(1.5, "call")
		then(max(5, step.TakeOverS+1), map[bool]string{true: "touch", false: "rest"}[step.TakeOverS == 0])
	case drill.Regain:
		then(1.5, "call")
		then(limit(step.Seconds), "in")
	case drill.Land:
		then(4, "touch")
	case drill.Motors:
		then(1.5, "moving")
		then(step.Seconds+1, "rest")
	}
	return list
}

// instructed is what came of a drill that was marked by voice and one button.
type instructed struct {
	taps    int
	seconds float64
	errors  []string
	state   State
	result  *score.Result
}

// byVoice marks a drill as somebody does who hears the pad and sees the craft, and never the screen: one press for each
// thing that happens, 0.4 s late. What a press means is the pad's to know.
//
// Impatient is a hand that presses everything twice, the second time a quarter of a second later.
func byVoice(task drill.Task, excursion, impatient bool) (out instructed) {
	marks := []score.Mark{{TS: 0, Mark: "start"}}
	var before *heard
	var world []event
	step := -1
	strayed, second := false, math.Inf(1)
	for now := 0.0; now < 900; now += 0.05 {
		s, r := StateOf(task, marks, now)
		for _, c := range cuesOf(task, before, s, now) {
			if c.Kind != CueStep || s.Step >= len(task.Steps) || s.Step == step {
				continue
			}
			step = s.Step
			world = flownBy(task.Steps[step], now+0.8, s.Inside, excursion && !strayed)
			for _, e := range world {
				strayed = strayed || e.kind == "out"
			}
		}
		if s.Step >= len(task.Steps) && step < len(task.Steps) { // "done", and nothing more is asked
			step = s.Step
			world = []event{{now + 1, "done"}}
		}
		before = &heard{s, now}
		if s.Ended {
			out.state, out.result, out.seconds = s, r, now
			return out
		}
		if now >= second {
			second = math.Inf(1)
			if now >= s.Ask.NotBefore && s.Ask.Tap != "" {
				out.errors = append(out.errors, fmt.Sprintf("step %d: a second tap at %.1f s is taken for %q", s.Step+1, now,
					s.Ask.Tap))
				marks = append(marks, score.Mark{TS: now, Mark: s.Ask.Tap})
			}
		}
		if len(world) == 0 || now < world[0].at+reacts {
			continue
		}
		want := world[0].kind
		world = world[1:]
		out.taps++
		switch {
		case now < s.Ask.NotBefore:
			out.errors = append(out.errors, fmt.Sprintf("%s at %.1f s is taken for a double tap", want, now))
		case s.Ask.Tap != want:
			out.errors = append(out.errors, fmt.Sprintf("step %d: %s at %.1f s is taken for %q", s.Step+1, want, now, s.Ask.Tap))
		}
		if s.Ask.Tap != "" {
			marks = append(marks, score.Mark{TS: now, Mark: s.Ask.Tap})
			if impatient {
				second = now + 0.25
			}
		}
	}
	out.state, out.result = StateOf(task, marks, 900)
	out.errors = append(out.errors, "it came to no end")
	return out
}

// Every drill of the catalogue is marked by voice and one button, without an error: flown as asked it passes, and a
// craft that leaves its place once fails for that. The table of docs says how many taps and seconds each takes.
func TestEveryDrillByVoiceAndOneButton(t *testing.T) {
	var table strings.Builder
	table.WriteString("# Every drill by voice and one button\n\nA scripted instructor hears the pad and sees the craft, " +
		"and never the screen: one press for each\nthing that happens, 0.4 s after it. Made by `go test ./core/marking " +
		"-run ByVoice -args -table`.\n\n| drill | taps | seconds | errors | verdict | when it leaves its place once |\n" +
		"|---|---|---|---|---|---|\n")
	drills := 0
	for _, d := range drill.Shipped().InOrder() {
		task, err := d.Lay(d.Sides()[0], 1, craft.Light, nil)
		if err != nil {
			if task, err = d.Lay(d.Sides()[0], 1, craft.Micro, nil); err != nil {
				t.Errorf("%s: %v", d.Key, err)
				continue
			}
		}
		drills++
		clean, left, twice := byVoice(task, false, false), byVoice(task, true, false), byVoice(task, false, true)
		if len(twice.errors) > 0 || twice.result.Verdict != score.Pass {
			t.Errorf("%s, by an impatient hand: %s, errors %v", d.Key, twice.result.Verdict, twice.errors)
		}
		if len(clean.errors) > 0 || clean.result.Verdict != score.Pass {
			t.Errorf("%s: %s %v, errors %v", d.Key, clean.result.Verdict, clean.state.Faults, clean.errors)
		}
		failed := "stays in every step"
		if left.taps > clean.taps {
			failed = string(left.result.Verdict)
			if len(left.errors) > 0 || left.result.Verdict != score.Fail {
				t.Errorf("%s, left once: %s %v, errors %v", d.Key, left.result.Verdict, left.state.Faults, left.errors)
			}
		}
		fmt.Fprintf(&table, "| %s | %d | %.0f | %d | %s | %s |\n", d.Title, clean.taps, clean.seconds,
			len(clean.errors)+len(left.errors), clean.result.Verdict, failed)
	}
	if drills < 70 {
		t.Errorf("%d drills", drills)
	}
	const file = "../../docs/tables/one-button.md"
	if *writeTable {
		if err := os.WriteFile(file, []byte(table.String()), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	if has, err := os.ReadFile(file); err != nil || string(has) != table.String() {
		t.Errorf("%s is not what is measured: run with -args -table; %v", file, err)
	}
}
