package drill

import (
	"fmt"
	"math"
	"strconv"

	"maestrale/core/field"
	"maestrale/core/yamldoc"
)

// A heading is asked in one of three frames: the field's (away from the pilot),
// the line of sight's (tail-in stays tail-in wherever the craft is), or the
// path's.

// RuleKind says what a heading rule refers to.
type RuleKind int

// The kinds of heading rules.
const (
	Free    RuleKind = iota // nothing is asked
	Fixed                   // a heading of the field frame
	Kept                    // the heading with which the step began
	Sight                   // an aspect, as the pilot sees it
	Along                   // the way that is flown
	Against                 // the other way: tail first
	Subject                 // toward the subject of the path
)

// Rule is what a step asks of the nose. Angle means something to Fixed, where
// it is a heading of the field frame, and to Sight, where it is the aspect: 0
// tail-in, π nose-in, positive nose right. The zero Rule asks for nothing.
type Rule struct {
	Kind  RuleKind
	Angle field.Angle
	Line  int
}

// headingWords are the rules that a file can name. A number is an aspect in
// degrees as well.
var headingWords = []struct {
	word string
	rule Rule
}{
	{"free", Rule{}},
	{"kept", Rule{Kind: Kept}},
	{"along", Rule{Kind: Along}},
	{"against", Rule{Kind: Against}},
	{"subject", Rule{Kind: Subject}},
	{"away", Rule{Kind: Fixed, Angle: field.Away}},
	{"toward", Rule{Kind: Fixed, Angle: field.Toward}},
	{"left", Rule{Kind: Fixed, Angle: field.Left}},
	{"right", Rule{Kind: Fixed, Angle: field.Right}},
	{"tail-in", Rule{Kind: Sight, Angle: field.Away}},
	{"nose-in", Rule{Kind: Sight, Angle: field.Toward}},
	{"nose-left", Rule{Kind: Sight, Angle: field.Left}},
	{"nose-right", Rule{Kind: Sight, Angle: field.Right}},
}

// readHeading reads a heading rule: a word, or an aspect in degrees. A key that
// is not there is Free.
func readHeading(n yamldoc.Node) Rule {
	if !n.Present() {
		return Rule{}
	}
	// A number is an aspect, never a heading of the field: the drill is seen
	// from the pilot.
	if n.IsNumber() {
		return Rule{Kind: Sight, Angle: field.Degrees(n.Number(-180, 180)).Wrap(), Line: n.Line()}
	}
	words := make([]string, len(headingWords))
	for i, h := range headingWords {
		words[i] = h.word
	}
	w := n.Word(words...)
	for _, h := range headingWords {
		if h.word == w {
			r := h.rule
			r.Line = n.Line()
			return r
		}
	}
	return Rule{}
}

// Mirror returns the rule of the other side.
func (r Rule) Mirror() Rule {
	r.Angle = (-r.Angle).Wrap()
	return r
}

// OfPath returns the heading that a rule of a path asks for at a place of it;
// course is that of the path there, and aim the bearing from the craft to the
// subject. ok is false for a rule that is not about a path.
func (r Rule) OfPath(course, aim field.Angle) (field.Angle, bool) {
	switch r.Kind {
	case Along:
		return course, true
	case Against:
		return (course + math.Pi).Wrap(), true
	case Subject:
		return aim, true
	}
	return 0, false
}

// Deviation returns how far a heading is from the rule, in (−π, π], positive to
// the right. seen is the bearing from the pilot to the craft and kept the
// heading with which the step began. It is 0 for rules that ask for nothing, or
// of a path (OfPath).
func (r Rule) Deviation(heading, seen, kept field.Angle) field.Angle {
	switch r.Kind {
	case Fixed:
		return (heading - r.Angle).Wrap()
	case Kept:
		return (heading - kept).Wrap()
	case Sight:
		// The aspect is the heading against the line of sight.
		return (heading - seen - r.Angle).Wrap()
	}
	return 0
}

// fixedWords say a heading that does not turn with the line of sight.
var fixedWords = map[string]string{"away": msgNoseAway, "toward": msgNoseToward,
	"left": msgNoseLeft, "right": msgNoseRight}

// Words say the rule: "tail-in", "nose to your left", "nose 45° right of
// tail-in".
func (r Rule) Words() string {
	for _, h := range headingWords {
		if h.rule.Kind != r.Kind || math.Abs(float64(h.rule.Angle-r.Angle)) > 1e-9 {
			continue
		}
		switch r.Kind {
		case Free:
			return msgNoseFree
		case Kept:
			return msgNoseKept
		case Along:
			return msgNoseAlong
		case Against:
			return "tail first"
		case Subject:
			return msgNoseOnSubject
		case Fixed:
			return fixedWords[h.word]
		}
		return h.word
	}
	// An aspect without a word of its own is said by its angle.
	deg := math.Round(r.Angle.Deg())
	side := "right"
	if deg < 0 {
		side, deg = "left", -deg
	}
	if r.Kind == Fixed {
		return fmt.Sprintf(msgNoseOffAway, strconv.FormatFloat(deg, 'f', -1, 64), side)
	}
	return fmt.Sprintf(msgNoseOffTailIn, strconv.FormatFloat(deg, 'f', -1, 64), side)
}

// ReadsNose tells whether a drill trains to read where the nose points: it asks
// for another aspect than the tail, turns, or begins with the nose unknown. The
// plan is then not shown with the nose on it.
func (d *Drill) ReadsNose() bool {
	for _, s := range d.Steps {
		switch {
		case s.Kind == Turn, s.Kind == Regain, s.Heading.Kind >= Along:
			return true
		case (s.Heading.Kind == Fixed || s.Heading.Kind == Sight) && s.Heading.Angle != field.Away:
			return true
		}
	}
	return false
}
