package drill

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"maestrale/core/field"
	"maestrale/core/yamldoc"
)

// What a file says of a kind of step, and how the step is put into words,
// stands together in one type, so that a new kind is one file here and one in
// core/score.

// stepKind is how one kind of step is written in a file and said in words. Each
// is a type in a file of its own (kind_hold.go and so on); how it is judged is
// beside this in core/score.
type stepKind interface {
	// read reads the keys that only this kind has.
	read(s *Step, r *stepReader)
	// say adds what the step asks, with its limits.
	say(t *Target, w *saying)
}

// kinds are the kinds of steps, in the order in which they are listed to a
// person.
var kinds = []struct {
	Kind
	stepKind
}{
	{TakeOff, takeOffKind{}}, {Hold, holdKind{}}, {Turn, turnKind{}}, {Land, landKind{}}, {GoTo, goToKind{}},
	{Path, pathKind{}}, {Stop, stopKind{}}, {Return, returnKind{}}, {Regain, regainKind{}},
	{Motors, motorsKind{}},
}

// kindWords are the kinds as a file names them.
func kindWords() []string {
	var out []string
	for _, k := range kinds {
		out = append(out, string(k.Kind))
	}
	return out
}

// kindOf finds a kind. One that is not known reads and says nothing; the file
// that names it has been refused.
func kindOf(k Kind) stepKind {
	for _, x := range kinds {
		if x.Kind == k {
			return x.stepKind
		}
	}
	return noKind{}
}

// noKind stands for a kind that is not known.
type noKind struct{}

// read reads nothing.
func (noKind) read(*Step, *stepReader) {}

// say says nothing.
func (noKind) say(*Target, *saying) {}

// stepReader is a step of a file while it is read: its keys, those of within,
// and within itself.
type stepReader struct {
	keys, limits *yamldoc.Map
	within       yamldoc.Node
}

// fail says what is wrong with the step as a whole, and what was expected. A
// step that is missing has been refused already.
func (r *stepReader) fail(what, expected string) {
	if r.keys.Node().Present() {
		r.keys.Node().Fail(what, expected)
	}
}

// needLimit refuses a step that has none of these limits: what is wrong, and
// what was expected.
func (r *stepReader) needLimit(what, expected string, limits ...Limit) {
	r.keys.Need("within")
	if !r.within.Present() {
		return
	}
	for _, l := range limits {
		if l.Set {
			return
		}
	}
	r.within.Fail(what, expected)
}

// saying is what a step asks while it is put into words, part by part. The
// first part is what to do; the others follow a colon.
type saying struct{ parts []string }

// num writes a number with the digits that say something, at most two behind
// the point.
func num(v float64) string { return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) }

// deg writes an angle in degrees.
func deg(a field.Angle) string { return num(a.Deg()) + "°" }

// add adds a part.
func (w *saying) add(format string, a ...any) { w.parts = append(w.parts, fmt.Sprintf(format, a...)) }

// some adds a limit where it is set; format has one %s for it.
func (w *saying) some(limit float64, format string) {
	if limit > 0 {
		w.add(format, num(limit))
	}
}

// someAngle adds an angle where it is set; format has one %s for it.
func (w *saying) someAngle(limit field.Angle, format string) {
	if limit > 0 {
		w.add(format, deg(limit))
	}
}

// nose adds where the nose should point and within what, where that is asked.
func (w *saying) nose(t *Target) {
	if t.Heading.Kind == Free {
		return
	}
	rule := t.Heading.Words()
	if t.Limits.Nose > 0 {
		rule += " ± " + deg(t.Limits.Nose)
	}
	w.parts = append(w.parts, rule)
}

// Words say what the step asks, with its limits: "Hold for 20 s over the
// centre: stay within 1 m, height 1.5 ± 0.5 m, tail-in ± 25°". What happens in
// the step is a sentence of its own. They end without a full stop.
func (s Target) Words() string {
	w := &saying{}
	kindOf(s.Kind).say(&s, w)
	w.some(s.SecondsMax, msgInSeconds)
	says := w.parts[:min(1, len(w.parts))]
	if len(w.parts) > 1 {
		says = []string{w.parts[0] + ": " + strings.Join(w.parts[1:], ", ")}
	}
	for _, d := range s.During {
		says = append(says, d.Words())
	}
	return strings.Join(says, ". ")
}

// place is where the step is flown, in words, or else what is given.
func (s *Target) place(otherwise string) string {
	if s.Place == "" {
		return otherwise
	}
	return s.Place
}
