package readiness

import (
	"fmt"
	"strings"
	"time"

	"maestrale/core/record"
)

// Who may sign, what may be signed, and until when: everything that a sign-off
// is refused for, in sentences.

// Signer is who wants to sign a gate.
type Signer struct {
	// Name goes into the record.
	Name  string
	Chief bool
	Until *time.Time // an instructor's right to sign, given by the chief; nil = none
}

// May tells whether somebody may sign gates at a moment: the chief, and an
// instructor to whom the chief has given the right, as long as that lasts.
func (s Signer) May(at time.Time) bool {
	return s.Chief || s.Until != nil && at.Before(*s.Until)
}

// SigningAsk is what is asked of a sign-off.
type SigningAsk struct {
	// At is when it is signed.
	At         time.Time
	Against    bool   // the rule, with a reason
	Reason     string // in a sentence
	Until      string // an earlier day as 2026-09-30; empty = as the gate says
	Conditions record.Conditions
}

// Refusal is why something is not signed, as a sentence.
type Refusal string

// Error is the sentence.
func (r Refusal) Error() string { return string(r) }

const (
	dayWords    = "2 January 2006"
	leastReason = 10 // characters of a reason that is one
)

// SignOff makes the sign-off of a gate: of one that the rules call ready, by
// somebody who has the right; or, by the chief with a written reason that is
// kept, against the rules, waiving by name what is not met. What cannot be
// signed is a Refusal.
func (r *GateResult) SignOff(by Signer, ask SigningAsk, zone *time.Location) (record.SignOff, error) {
	sign := record.SignOff{Gate: r.Key, CraftClass: r.Class, At: ask.At, By: by.Name, From: r.From,
		Conditions: ask.Conditions}
	reason := strings.TrimRight(strings.TrimSpace(ask.Reason), ". ")
	switch {
	case !by.May(ask.At) && by.Until != nil:
		return sign, Refusal(fmt.Sprintf(msgRightEnded, by.Until.In(zone).Format(dayWords)))
	case !by.May(ask.At):
		return sign, Refusal(msgNoRight)
	case r.State == GateSigned:
		return sign, Refusal(fmt.Sprintf(msgAlreadySigned, r.Title))
	case r.NotFor != "":
		return sign, Refusal(fmt.Sprintf(msgCannotBeSigned, r.Title, r.NotFor))
	// Everything stands, and whoever signs may.
	case r.Signable():
	case !ask.Against:
		return sign, Refusal(fmt.Sprintf(msgCannotBeSigned, r.Title, r.Why()))
	case !by.Chief:
		return sign, Refusal(msgOnlyChief)
	case len([]rune(reason)) < leastReason:
		return sign, Refusal(msgReasonNeeded)
	default:
		sign.Reason, sign.Waived = reason, r.Unmet()
	}
	var err error
	sign.Until, err = r.signedUntil(ask.At, ask.Until, zone)
	return sign, err
}

// signedUntil is when a sign-off runs out: as the gate says, or at the end of
// an earlier day, given as 2026-09-30. Another day is a Refusal.
func (r *GateResult) signedUntil(at time.Time, text string, zone *time.Location) (time.Time, error) {
	most := r.Until(at, zone)
	if text = strings.TrimSpace(text); text == "" {
		return most.UTC(), nil
	}
	day, err := time.ParseInLocation("2006-01-02", text, zone)
	if err != nil {
		return most, Refusal(fmt.Sprintf(msgNoDay, text))
	}
	y, m, d := day.Date()
	// A day that is named is included.
	end := time.Date(y, m, d, 23, 59, 59, 0, zone)
	switch {
	case !end.After(at):
		return most, Refusal(msgEndsBeforeItBegins)
	case end.After(most.Add(24 * time.Hour)):
		return most, Refusal(fmt.Sprintf(msgLongestSignOff, most.Format(dayWords)))
	}
	if end.After(most) {
		end = most
	}
	return end.UTC(), nil
}
