package score

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"
)

// A pilot who has just landed can take in one thing. It is the gravest fault
// or, after a clean flight, what had the least room left.

// OneThing is what an attempt is talked about first: the worst that went wrong
// or, where nothing did, what came nearest to its limit.
type OneThing struct {
	Says  string  // what happened, in a sentence
	Do    string  // what to do about it, in a sentence
	TS    float64 // s; −1 where it has no moment
	Fault int     // its index among the faults; −1 where it is none
	View  Picture // on which drawing it is seen
}

// graveness orders the faults that no figure compares, the gravest first. They
// come before all others.
var graveness = []Code{Crash, Fence, Lost, Order, WrongWay}

// TheOneThing picks it. It is false where the attempt is void, or passed with
// nothing measured. Of two faults that are as grave the earlier one is taken.
func (r *Result) TheOneThing() (OneThing, bool) {
	switch {
	case r.Verdict == Void:
		return OneThing{}, false
	case len(r.Faults) == 0:
		return r.tightest()
	}
	worst := 0
	for i := range r.Faults {
		if weight(&r.Faults[i]) > weight(&r.Faults[worst]) {
			worst = i
		}
	}
	f := &r.Faults[worst]
	return OneThing{Says: sentence(f.Text), Do: adviceFor(f), TS: f.TS, Fault: worst, View: viewOf[f.Code]}, true
}

// weight is how grave a fault is: those of graveness first, then by how many
// times its limit was passed, above or below, up to a hundred. What an eye
// marked without a figure counts as passed one and a half times.
func weight(f *Fault) float64 {
	if i := slices.Index(graveness, f.Code); i >= 0 {
		return 1000 - float64(i)
	}
	if f.Value == nil || f.Limit == nil || *f.Limit <= 0 || *f.Value <= 0 {
		return 1.5
	}
	return math.Min(100, math.Max(*f.Value / *f.Limit, *f.Limit / *f.Value))
}

// tightest is the figure that came nearest to its limit from above, over all
// steps. ok is false where nothing with such a limit was measured.
func (r *Result) tightest() (best OneThing, ok bool) {
	left := math.Inf(1)
	for i := range r.Steps {
		step := &r.Steps[i]
		for _, m := range Metrics {
			v, measured := step.Metrics[m.Key]
			limit, most := step.Limits[m.Most]
			if !measured || m.Most == "" || !most || limit <= 0 {
				continue
			}
			if share := 1 - v/limit; share < left {
				left, ok = share, true
				end := -1.0
				if step.EndS != nil {
					end = *step.EndS
				}
				best = OneThing{Says: fmt.Sprintf(msgTightest, i+1, strings.TrimSuffix(m.Words, ", most"), m.say(v),
					m.say(limit)), Do: msgTighten, TS: end,
					Fault: -1, View: m.Picture}
			}
		}
	}
	return best, ok
}

// say writes a figure with its unit.
func (m Metric) say(v float64) string {
	n := strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%.2f", v), "0"), ".")
	switch m.Unit {
	case "":
		return n
	case "°":
		return n + "°"
	}
	return n + " " + m.Unit
}

// sentence is a text with a capital and a full stop; an empty one stays empty.
func sentence(t string) string {
	r := []rune(strings.TrimRight(strings.TrimSpace(t), "."))
	if len(r) == 0 {
		return ""
	}
	r[0] = unicode.ToUpper(r[0])
	return string(r) + "."
}

// adviceFor is what to do about a fault: by the direction in which it was left,
// where that is known, and else by its kind alone.
func adviceFor(f *Fault) string {
	if by, ok := adviceToward[f.Code]; ok {
		if a := by[f.Toward]; a != "" {
			return a
		}
	}
	return advice[f.Code]
}

// UnjudgedWords puts an entry of Result.Unjudged into words for a person: "step
// 2 (land) bounces: too fine for this log" then names the step and the figure
// as every screen does. What is not of that form is said as it stands.
func UnjudgedWords(entry string) string {
	var step int
	var rest string
	if n, _ := fmt.Sscanf(entry, "step %d ", &step); n != 1 {
		return sentence(entry)
	}
	open, end := strings.Index(entry, "("), strings.Index(entry, ") ")
	if open < 0 || end < open {
		return sentence(entry)
	}
	kind, why := entry[open+1:end], ""
	rest = entry[end+2:]
	name, why, _ := strings.Cut(rest, ": ")
	return fmt.Sprintf(msgUnjudged, step+1, stepWords[kind], limitWords(name), strings.TrimRight(why, "."))
}

// limitWords are the words of a limit by its key in a result. A key that is no
// limit is said with spaces.
func limitWords(key string) string {
	for _, m := range Metrics {
		if m.Most == key || m.Least == key || m.Key == key {
			return m.Words
		}
	}
	return strings.ReplaceAll(key, "_", " ")
}
