package drill

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
)

func TestProgrammesLeadToTheirGates(t *testing.T) {
	c := Shipped()
	for key, gates := range map[string][]string{
		"position-hold-first": {"unassisted-aids-on", "unassisted-aids-off", "range"},
		"on-then-off":         {"unassisted-aids-on", "unassisted-aids-off", "range"},
		"hands-first":         {"unassisted-aids-off", "range"},
	} {
		p := c.Programmes[key]
		var drawn []string
		for _, l := range p.Lines {
			drawn = append(drawn, l.Gate)
		}
		if !slices.Equal(drawn, gates) {
			t.Errorf("%s draws %v; expected %v", key, drawn, gates)
		}
		for _, r := range p.Rungs {
			if r.Why == "" || !strings.HasSuffix(r.Why, ".") {
				t.Errorf("%s, rung %s says no reason: %q", key, r.Key, r.Why)
			}
		}
	}
	// Counted anew, without the function that checks it: the cells of the first gate and where they stand.
	for _, key := range []string{"position-hold-first", "on-then-off"} {
		p, line := c.Programmes[key], 0
		for i, r := range p.Rungs {
			if slices.Contains(p.LinesAbove(i), "unassisted-aids-on") {
				line = i
			}
			_ = r
		}
		for _, want := range c.Gates["unassisted-aids-on"].Cells {
			at := slices.IndexFunc(p.Rungs, func(r Rung) bool { return slices.Contains(r.Cells, want) })
			if at < 0 || at > line {
				t.Errorf("%s: %+v stands on rung %d, and the line is above %d", key, want, at, line)
			}
		}
	}
}

// Whatever rung is taken out of a programme, the check finds out if a gate needed it.
func TestAProgrammeThatDoesNotLeadIsRefused(t *testing.T) {
	c := Shipped()
	refused := 0
	for _, key := range c.ProgrammeKeys() {
		p := c.Programmes[key]
		for i, r := range p.Rungs {
			if len(p.LinesAbove(i)) > 0 {
				continue // the line goes with it
			}
			lines := strings.Split(string(p.Source), "\n")
			lines = slices.DeleteFunc(lines, func(l string) bool { return strings.Contains(l, "{key: "+r.Key+",") })
			_, err := c.With(map[string][]byte{"own.yaml": []byte(strings.Join(lines, "\n"))})
			needed := false
			for _, l := range p.Lines {
				for _, x := range c.Gates[l.Gate].Cells {
					x, _ = c.Gates[l.Gate].For(x, p.aids())
					served := false // by another rung under the line
					for k, o := range p.Rungs[:l.Rung+1] {
						served = served || k != i && slices.ContainsFunc(o.Cells, func(y Cell) bool {
							return y.Drill == x.Drill && y.Side == x.Side && y.Aids.Rank() >= x.Aids.Rank()
						})
					}
					needed = needed || !served
				}
			}
			if needed != (err != nil) {
				t.Errorf("%s without %s: needed %v, refused: %v", key, r.Key, needed, err)
			}
			if err != nil {
				refused++
				if !strings.HasPrefix(err.Error(), "own.yaml: ") || !strings.Contains(err.Error(), "is on no rung under its line") {
					t.Errorf("the refusal says %q", err)
				}
			}
		}
	}
	if refused < 30 {
		t.Errorf("%d rungs were needed by a gate", refused)
	}
	// A gate that asks for more than the ladders have is refused by the name of its own file.
	more := bytes.Replace(c.Gates["range"].Source, []byte("cells:\n"), []byte("cells:\n  - {drill: spiral-out, aids: "+
		"height-hold}\n"), 1)
	if _, err := c.With(map[string][]byte{"range.yaml": more}); err == nil || !strings.HasPrefix(err.Error(),
		"range.yaml: ") {
		t.Errorf("a gate that no ladder leads to: %v", err)
	}
	for text, want := range map[string]string{
		"{gate: range, above: nowhere}":                              `no rung "nowhere"`,
		"{gate: no-gate, above: out-and-back}":                       "which is not known",
		"{gate: range, above: oval}\n  - {gate: range, above: oval}": "second line",
	} {
		p := bytes.Replace(c.Programmes["hands-first"].Source, []byte("{gate: range, above: out-and-back}"), []byte(text), 1)
		if _, err := c.With(map[string][]byte{"own.yaml": p}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", text, err)
		}
	}
}

// No shipped drill is left over: it is on a ladder, or a named version of one that is.
func TestEveryDrillHasItsPlace(t *testing.T) {
	c := Shipped()
	on := map[string]bool{}
	for _, p := range c.Programmes {
		for _, x := range p.Cells() {
			on[x.Drill] = true
		}
	}
	for _, d := range c.InOrder() {
		if !on[d.Key] && !on[d.Version.Of] {
			t.Errorf("%s is on no ladder, and a version of %q", d.Key, d.Version.Of)
		}
		if d.Version.Of != "" && d.Version.Words(c) == "" {
			t.Errorf("%s: a version without words", d.Key)
		}
	}
	if w := c.Drills["walk-along"].Version.Words(c); w != "an alternative to Side steps with landings" {
		t.Error(w)
	}
}

// What builds a rung's drill is practised on a rung below it.
func TestLaddersRiseByWhatBuilds(t *testing.T) {
	c := Shipped()
	for _, key := range c.ProgrammeKeys() {
		below := map[string]bool{}
		for _, r := range c.Programmes[key].Rungs {
			for _, x := range r.Cells {
				for _, b := range c.Drills[x.Drill].Builds {
					if !below[b] {
						t.Errorf("%s: rung %s flies %s before %s", key, r.Key, x.Drill, b)
					}
				}
			}
			for _, x := range r.Cells {
				below[x.Drill] = true
			}
		}
	}
}

// The orders that instructors of each school insist on.
func TestTheOrderOfTheRungs(t *testing.T) {
	c := Shipped()
	at := func(key, d string, aids craft.Aids) int {
		return slices.IndexFunc(c.Programmes[key].Rungs, func(r Rung) bool {
			return slices.ContainsFunc(r.Cells, func(x Cell) bool { return x.Drill == d && x.Aids == aids })
		})
	}
	line := func(key, gate string) int {
		p := c.Programmes[key]
		return p.Lines[slices.IndexFunc(p.Lines, func(l GateLine) bool { return l.Gate == gate })].Rung
	}
	on, off, self := craft.PositionHold, craft.HeightHold, craft.SelfLevel
	before := func(what string, a, b int) {
		t.Helper()
		if a < 0 || b < 0 || a >= b {
			t.Errorf("%s: rungs %d and %d", what, a, b)
		}
	}
	before("throttle feel before turns", at("hands-first", "throttle-steps", self), at("hands-first", "yaw-quarter", self))
	before("early yaw", at("position-hold-first", "yaw-quarter", on), at("position-hold-first", "square-kept", on))
	before("late yaw", at("hands-first", "square-kept", self), at("hands-first", "yaw-quarter", self))
	before("nose-in before the eights", at("position-hold-first", "nose-in-hover", on),
		at("position-hold-first", "eight-kept", on))
	before("nose-in after the eights", at("hands-first", "eight-kept", self), at("hands-first", "nose-in-hover", self))
	for _, key := range []string{"position-hold-first", "on-then-off"} {
		before("lost position hold well before the first gate", at(key, "fix-lost", on)+8, line(key, "unassisted-aids-on"))
		before("with drift first", at(key, "hover-tail-in", off), at(key, "fix-lost", on))
	}
}

// A spin ends where nobody could know: over many seeds at every angle, on both sides, never always at the same.
func TestASpinEndsAnywhere(t *testing.T) {
	c := Shipped()
	for _, side := range []field.Side{field.LeftSide, field.RightSide} {
		task, err := c.Drills["spin-and-catch"].Lay(side, 1, craft.Light, nil)
		if err != nil {
			t.Fatal(err)
		}
		ends := map[string]int{}
		for seed := range uint64(400) {
			for _, s := range task.Drawn(seed).Steps {
				if s.Kind != Turn {
					continue
				}
				by := s.By.Abs().Deg()
				if by < 720+44 || by > 720+316 || (s.By < 0) != (side == field.LeftSide) {
					t.Fatalf("seed %d turns by %v on the %s", seed, s.By.Deg(), side)
				}
				ends[fmt.Sprintf("%.0f", by-720)]++
			}
		}
		if len(ends) < 19 {
			t.Errorf("%d angles at the %s: %v", len(ends), side, ends)
		}
		for a, n := range ends {
			if n > 60 {
				t.Errorf("%s of 400 end at %s°", fmt.Sprint(n), a)
			}
		}
	}
	if w := (Target{Kind: Turn, RandomTurn: true, Before: field.Degrees(720)}).Words(); !strings.HasPrefix(w,
		"Turn by 720° and on to the angle that is called") {
		t.Error(w)
	}
}
