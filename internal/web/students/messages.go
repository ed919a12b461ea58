package students

import "maestrale/internal/words"

// say speaks what this package says.
var say = words.Table{
	"never":        "never",
	"need lapsing": "about to lapse",
	"need stuck":   "stuck",
	"need ready":   "close to a gate",
	"need absent":  "absent",
	"need new":     "not flown yet",
	"page":         "%[1]d to %[2]d of %[3]d",
}.Speaker()
