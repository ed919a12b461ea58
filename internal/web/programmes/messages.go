package programmes

import "maestrale/internal/words"

// say speaks what this package says.
var say = words.Table{
	"side left":  "Flown on the left side",
	"side right": "Flown on the right side",
}.Speaker()
