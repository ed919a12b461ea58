package students

import "maestrale/internal/words"

// say speaks what this package says.
var say = words.Table{
	"never":             "never",
	"need lapsing":      "about to lapse",
	"need stuck":        "stuck",
	"need ready":        "close to a gate",
	"need absent":       "absent",
	"need new":          "not flown yet",
	"chance, else":      "A pass is %.0[1]f %% likely. If it fails, fly %[2]s.",
	"chance, else land": "A pass is %.0[1]f %% likely. If it fails, land and talk it through.",
	"else":              "If it fails, fly %[1]s.",
	"else land":         "If it fails, land and talk it through.",
	"open drills":       words.Count(1, "%[1]d of %[2]d drills", "%[1]d of %[2]d drills"),
	"acts":              words.Count(1, "%d act seen by an instructor", "%d acts seen by an instructor"),
	"still needed":      "Still needed: %s.",
	"takes": words.Count(1, "That takes at least %[1]d attempt over %[2]s.",
		"That takes at least %[1]d attempts over %[2]s."),
	"held of":        "%[1]d of %[2]d items held",
	"one to fix":     "The one thing to fix",
	"one to tighten": "What came nearest to its limit",
	"height view":    "Height over time",
	"nose view":      "How far the nose was off",
	"gate takes": words.Count(2, "The gate “%[1]s” takes at least %[2]d more attempt.",
		"The gate “%[1]s” takes at least %[2]d more attempts."),
	"gate likely":      "By how the open drills went so far, it is likely to take %[1]d to %[2]d.",
	"gate unknown":     "How many it is likely to take is not known yet: some of its drills were flown too seldom.",
	"gates met":        "Every gate of the programme is met.",
	"verdict pass":     "pass",
	"verdict fail":     "fail",
	"at the field":     "at the field",
	"in the simulator": "in the simulator",
	"page":             "%[1]d to %[2]d of %[3]d",
}.Speaker()
