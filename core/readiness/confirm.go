package readiness

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
)

// The ways in which a student confirms having read the cautions of a sign-off.
const (
	OnAccount = "account" // signed in as themselves
	OnDevice  = "device"  // on the instructor's device, with the instructor as witness
)

// Confirmation is what a student without an account leaves on the instructor's
// device: the own name, typed, and a drawn signature as an SVG path in a box of
// SignatureWidth by SignatureHeight. Strokes is empty for a student who cannot
// draw there; the typed name and the witness stand then.
type Confirmation struct{ Typed, Strokes string }

// The box in which a signature is drawn, and the most of it that is kept, in bytes.
const (
	SignatureWidth  = 300
	SignatureHeight = 100
	mostStrokes     = 24_000
	fewestPoints    = 6
)

// strokesDrawn tells whether a text is strokes: "M12 30 L14 31 …", places
// across and down of at most three digits. Anything else does not get onto a
// page.
func strokesDrawn(text string) bool {
	places := strings.Split(text, " ")
	digits := func(s string) bool {
		return s != "" && len(s) <= 3 && strings.Trim(s, "0123456789") == ""
	}
	for i, place := range places {
		across := place
		if i%2 == 0 {
			var moved, line bool
			if across, moved = strings.CutPrefix(place, "M"); !moved {
				across, line = strings.CutPrefix(place, "L")
			}
			if !moved && (!line || i == 0) {
				return false
			}
		}
		if !digits(across) {
			return false
		}
	}
	return len(places)%2 == 0
}

// Check refuses a confirmation that is not the student's. The typed name must
// be the one in the record, but for capitals and spaces, and the signature,
// where there is one, must be drawn with more than a dot. The error is a
// Refusal.
func (c Confirmation) Check(student string) error {
	plain := func(s string) string { return strings.Join(strings.Fields(strings.ToLower(s)), " ") }
	switch {
	case plain(c.Typed) == "":
		return Refusal(msgNoNameTyped)
	case plain(c.Typed) != plain(student):
		return Refusal(fmt.Sprintf(msgOtherNameTyped, student))
	case c.Strokes == "":
		return nil
	case len(c.Strokes) > mostStrokes || !strokesDrawn(c.Strokes):
		return Refusal(msgSignatureUnread)
	case strings.Count(c.Strokes, "L") < fewestPoints:
		return Refusal(msgSignatureADot)
	}
	return nil
}

// SHA256 is the hash of the confirmation that goes into the chain, in
// hexadecimal: over the typed name, a line feed and the strokes. The two
// themselves stand beside the chain, so that they can be taken out when the
// student is forgotten.
func (c Confirmation) SHA256() string {
	sum := sha256.Sum256([]byte(c.Typed + "\n" + c.Strokes))
	return hex.EncodeToString(sum[:])
}
