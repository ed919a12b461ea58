package fleet

import "maestrale/internal/words"

// say speaks what this package says.
var say = words.Table{
	"counts": "%[1]d of %[2]d craft can fly, and %[3]d of %[4]d packs are fit",
}.Speaker()
