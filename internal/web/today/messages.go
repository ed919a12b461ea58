package today

import "maestrale/internal/words"

// say speaks what this package says.
var say = words.Table{
	"more calls": words.Count(1, "%d more call", "%d more calls"),
	"abandoned": words.Count(2, "Nobody has flown since %[1]s, and one flight is still planned.",
		"Nobody has flown since %[1]s, and %[2]d flights are still planned."),
	"finished": words.Count(1, "The day is over. %d flight was flown.",
		"The day is over. %d flights were flown."),
	"not flown":         words.Count(1, "%d planned flight was not flown.", "%d planned flights were not flown."),
	"later and more":    "%[1]s and %[2]d more",
	"all craft checked": words.Count(1, "Craft: %d, checked today", "Craft: %d, all checked today"),
	"craft unchecked":   words.Count(2, "Craft: %[1]d, one not ready", "Craft: %[1]d, %[2]d not ready"),
	"closed":            "The day was closed",
	"still flying":      "%s is still in the air. Close the day after the landing.",
}.Speaker()
