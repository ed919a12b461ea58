package readiness

import (
	"fmt"
	"strings"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/record"
)

// State is where a gate stands.
type State string

// The states of a gate. Ready is what the rules say; signed is what a person
// has decided on top of it.
const (
	GateNotReady State = "not-ready"
	GateReady    State = "ready"
	GateSigned   State = "signed"
	GateLapsed   State = "lapsed"
)

// GateResult is a gate judged for a student on a craft class.
type GateResult struct {
	drill.Gate
	Class   craft.Class
	State   State
	Missing []Cell // cells that are not held
	Acts    []ActResult
	Sign    *record.SignOff // the newest, where there is one
}

// ActResult is a witnessed act as it stands.
type ActResult struct {
	drill.Act
	Valid bool
	Seen  *record.Witnessed // the newest, where there is one
	Until time.Time         // zero where it lasts for good
}

// JudgeGate holds a gate to the evidence: it is ready when every cell is held
// and every act was witnessed and still lasts; signed once somebody signed; and
// lapsed when an entry lapses after that or the sign-off has run out.
func JudgeGate(g drill.Gate, class craft.Class, e *Evidence, seen []record.Witnessed, signs []record.SignOff) GateResult {
	r := GateResult{Gate: g, Class: class}
	for _, c := range g.Cells {
		if k := e.Cell(Key{c, class}); k.Standing != Held {
			r.Missing = append(r.Missing, k)
		}
	}
	met := len(r.Missing) == 0
	for _, a := range g.Witnessed {
		ar := ActResult{Act: a}
		for i := range seen {
			if w := &seen[i]; w.Act == a.Key && !w.At.After(e.at) && (ar.Seen == nil || w.At.After(ar.Seen.At)) {
				ar.Seen = w
			}
		}
		if ar.Seen != nil {
			ar.Valid = true
			if a.ValidDays > 0 {
				ar.Until = ar.Seen.At.In(e.zone).AddDate(0, 0, a.ValidDays)
				ar.Valid = !e.at.After(ar.Until)
			}
		}
		met = met && ar.Valid
		r.Acts = append(r.Acts, ar)
	}
	for i := range signs {
		if s := &signs[i]; s.Gate == g.Key && s.CraftClass == class && !s.At.After(e.at) && (r.Sign == nil || s.At.After(r.Sign.At)) {
			r.Sign = s
		}
	}
	switch {
	case r.Sign != nil && met && !e.at.After(r.Sign.Until):
		r.State = GateSigned
	case met:
		r.State = GateReady
	case r.Sign != nil:
		r.State = GateLapsed
	default:
		r.State = GateNotReady
	}
	if r.State == GateReady && r.Sign != nil { // it ran out; the entries still stand
		r.State = GateLapsed
	}
	return r
}

// Signable tells whether the gate may be signed now: when it is ready, or has
// run out while everything it asks for still stands.
func (r GateResult) Signable() bool {
	if len(r.Missing) > 0 || r.State == GateSigned {
		return false
	}
	for _, a := range r.Acts {
		if !a.Valid {
			return false
		}
	}
	return true
}

// Until is when a sign-off of the gate at a moment runs out, in calendar days
// of the school.
func (r GateResult) Until(at time.Time, zone *time.Location) time.Time {
	return at.In(zone).AddDate(0, 0, r.SignedDays)
}

// Why says the state in words.
func (r GateResult) Why() string {
	var parts []string
	if n := len(r.Missing); n > 0 {
		parts = append(parts, fmt.Sprintf("%d of %d cells are not held", n, len(r.Cells)))
	}
	for _, a := range r.Acts {
		switch {
		case a.Seen == nil:
			parts = append(parts, "not witnessed: "+a.Title)
		case !a.Valid:
			parts = append(parts, "witnessed too long ago: "+a.Title)
		}
	}
	switch {
	case r.State == GateSigned:
		return fmt.Sprintf("signed by %s on %s, until %s", r.Sign.By, r.Sign.At.Format("2 Jan 2006"), r.Sign.Until.Format("2 Jan 2006"))
	case len(parts) > 0:
		return strings.Join(parts, "; ")
	case r.State == GateLapsed:
		return "the sign-off ran out on " + r.Sign.Until.Format("2 Jan 2006") + "; everything it asks for still stands"
	}
	return "everything it asks for stands; it can be signed"
}
