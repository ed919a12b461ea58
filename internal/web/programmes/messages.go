package programmes

import "maestrale/internal/words"

// say speaks what this package says.
var say = words.Table{
	"side left":       "Flown on the left side",
	"side right":      "Flown on the right side",
	"both sides":      "left and right",
	"rungs and items": "It has %[1]d rungs with %[2]d items.",
	"of a gate":       "It asks for %[1]d drills and %[2]d acts, and is signed for at most %[3]d days.",
	"usual packs":     "usually %[1]d to %[2]d packs",
}.Speaker()

// What programmes.go says.
const (
	msgUpKn = ", up to %.0f m/s (%.0f kn)"
)

// What write.go says.
const (
	msgTextKbLong       = "the text is %d kB long"
	msgKbMost           = "%d kB at most"
	msgRungsItems       = "rungs and items"
	msgTextNotProgramme = "the text is not a programme"
	msgTextNotGate      = "the text is not a gate"
	msgChangeWhatBuilds = "Change what builds on it first."
)

// What write.go says.
const (
	msgCouldNotTaken    = "It could not be returned to the built-in version: %s."
	msgSomebodyElseKept = "Somebody else has saved a newer version of “%s” since you opened this page. Nothing " +
		"was changed, and your text is still here. The newer version stands below: take over what you want of it, " +
		"and save yours again."
	msgSchoolOwnUnder = "The school has a %s of its own under the key “%s” already. Nothing was changed, and " +
		"your text is still here. Choose another key, or open that one and change it there."
)
