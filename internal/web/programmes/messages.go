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
