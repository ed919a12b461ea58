package records

import "maestrale/internal/words"

// say speaks what this package says.
var say = words.Table{
	"head signed":     "Sign-offs in force",
	"of students":     words.Count(1, "among %d student in training", "among %d students in training"),
	"head close":      "Close to a gate",
	"within attempts": "can be signed within %d attempts",
	"head ending":     "Sign-offs that end soon",
	"within days":     "within %d days",
	"head passed":     "Attempts passed at the field",
	"passed of":       "%[1]d of %[2]d that count",

	"season":     "The season",
	"weeks":      "%d weeks",
	"programme":  words.Count(2, "%[1]s, %[2]d student", "%[1]s, %[2]d students"),
	"rung held":  "%[1]s: %[2]d of %[3]d held",
	"passed-all": "%[1]d of %[2]d",
	"week passed": words.Count(3, "Week of %[1]s: %[2]d of %[3]d attempt passed.",
		"Week of %[1]s: %[2]d of %[3]d attempts passed."),

	"kind attempt":    "attempts recorded",
	"kind correction": "attempts corrected",
	"kind witnessed":  "acts seen",
	"kind signed":     "gates signed",
	"kind read":       "cautions read",
	"kind withdrew":   "sign-offs withdrawn",
	"kind import":     "records taken over",
	"kind lesson":     "lessons planned",
	"kind wrote":      "files written",
	"kind took-back":  "files taken back",
	"kind cut":        "devices cut off",
	"kind other":      "everything else",

	"did attempt":          "recorded an attempt: %[1]s, %[2]s, %[3]s",
	"did correction":       "corrected an attempt: %[1]s, %[2]s, %[3]s",
	"did witnessed":        "saw: %[1]s",
	"did signed":           "signed “%[1]s” for %[2]s craft",
	"did override":         "signed “%[1]s” for %[2]s craft as an override, because: %[3]s",
	"did read":             "read the cautions of a sign-off",
	"did withdrew":         "withdrew a sign-off, because: %[1]s",
	"did import":           "took over %[1]s attempts of %[2]s, which do not count",
	"did import, counting": "took over %[1]s attempts of %[2]s, which count",
	"did lesson":           "planned a lesson",
	"did wrote":            "wrote the %[1]s “%[2]s”, version %[3]s",
	"did took-back":        "took back the %[1]s “%[2]s”, version %[3]s",
	"did cut":              "cut a device off",

	"file maestrale-drill":     "drill",
	"file maestrale-programme": "programme",
	"file maestrale-gate":      "gate",
}.Speaker()

// What agreement.go says.
const (
	msgEyeLog = "Eye and log"
)

// What audit.go says.
const (
	msgWhoDidWhat        = "Who did what"
	msgDidImportCounting = "did import, counting"
)

// What exchange.go says.
const (
	msgTookOutWhole        = "took out the whole school as tables"
	msgRecordsGoOut        = "Records to other schools and from them"
	msgChooseFileOther     = "Choose the file that the other school has given."
	msgChooseSignedFile    = "Choose the signed file (record.json) that the other school has given."
	msgOnlyChiefInstructor = "only the chief instructor may take over a record"
	msgSayWhoseRecord      = "say whose record it is here"
	msgStudentNotSchool    = "that student is not at this school"
	msgDoesNotVerify       = "it does not verify"
)

// What overview.go says.
const (
	msgWalkThroughStudents = "walk through the students and open one"
	msgWeekJanuary         = "week of 2 January"
	msgNoPassMarked        = "no pass was marked in them yet"
	msgPacksMinAir         = "%.2f packs and %.0f min in the air for each pass that was marked in them"
	msgNotCraft            = "not for this craft"
)

// What exchange.go says.
const (
	msgRecordCouldNot = "The record could not be read: %s."
)

// What overview.go says.
const (
	msgReadySigned = "%s: ready to be signed"
)
