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
}.Speaker()

// What change.go says.
const (
	msgStudentNoName      = "The student has no name. Write one of up to 120 letters."
	msgGripNotKnown       = "The grip is not known. Choose one of the list."
	msgProgrammeOrCraft   = "The programme or the craft is not known. Choose one of the list."
	msgChangedStudentPage = "changed the student's page"
	msgTookTextNote       = "removed the text of a note"
)

// What debrief.go says.
const (
	msgPlayPause               = "play and pause"
	msgHalfSecondBack          = "half a second back, on"
	msgFaultFault              = "fault to fault"
	msgWhyUnderlinedFigure     = "why, on an underlined figure"
	msgGateGoesFrom            = "The gate %s goes from %q back to %q."
	msgOneFix                  = "one to fix"
	msgOneTighten              = "one to tighten"
	msgFlyOnceMore             = "Fly once more"
	msgMarkNext                = "Mark the next"
	msgVoidNeedsReason         = "A void needs its reason."
	msgWriteWhatHappened       = "Write what happened: an intruder, a gust, the craft, the instructor."
	msgAttemptCorrectedAlready = "This attempt was corrected already."
	msgOpenNewestVersion       = "Open the newest version from the student's page."
	msgNoteEmptyOr             = "The note is empty or too long."
	msgWriteUpLetters          = "Write up to %d letters."
	msgMoveMomentWrite         = "Move to the moment and write the note again."
)

// What debriefwords.go says.
const (
	msgMarkedEye         = "marked by eye"
	msgScoredFromLog     = "scored from a log"
	msgFlownSimulator    = "flown in the simulator"
	msgBroughtFromPaper  = "brought from paper"
	msgSizeCourseSmaller = "at %.0f %% of its size, as the course is smaller"
	msgFromNotDone       = "from %.1f s, not done"
)

// What estimates.go says.
const (
	msgLeftWeakerPoints  = "%s: the left is weaker, by %.0f points (%.0f to %.0f)"
	msgRightWeakerPoints = "%s: the right is weaker, by %.0f points (%.0f to %.0f)"
	msgGogglesTrackOpens = "The goggles track opens when the whole ladder is held."
	msgGogglesTrackOpen  = "The goggles track is open: the whole ladder is held. It begins seated, with a " +
		"spotter, and counts for itself alone."
	msgAgainOnIt      = "%s: %s again on it"
	msgSteppingUpWhat = "Stepping up to %s (%s): %s. What is held on this class carries over as that; nothing " +
		"else does. %s"
	msgSteppingUpAsks = "Stepping up to %s (%s) asks for a gate that stands signed on this class first; then " +
		"its transition drills alone. %s"
)

// What forget.go says.
const (
	msgNameNotWritten  = "The name was not typed as it is in the record. Nothing was removed."
	msgTookStudentName = "removed the student's name and account"
)

// What gatepage.go says.
const (
	msgWithdrawnByOn               = "withdrawn by %s on %s: %s"
	msgUpWindKn                    = "in up to %.1f m/s of wind (%.0f kn)"
	msgInstructorShoulderOr        = "With the instructor at the shoulder or a spotter beside."
	msgAloneMeansWithout           = "Alone means without the instructor."
	msgAloneMeansWithoutInstructor = "Alone means without the instructor, and here also without the aid that " +
		"holds the craft's place."
	msgSignedClassOne      = "Signed on the %s class: on this one its transition is asked, and no more."
	msgTheyRestHow         = "They rest on how students usually learn."
	msgTheyRestHowStudents = "They rest on how students usually learn and on %d attempts of this school, as of %s."
	msgLeastAllPassed      = "%s at least, all passed, over %s."
	msgNobodyFlownOver     = "Nobody is flown over, and nobody stands in the box. Where people come, distance " +
		"grows first and height never falls."
	msgFlightBrokenOff = "Stop the flight if the wind is over the craft's limit, in low light, in heat or when " +
		"tired, and whenever anything is not as it should be."
	msgPacksNeverCharged = "Never charge packs unattended, and take a puffed pack out of use. Propellers are " +
		"live as long as a pack is connected."
	msgPositionHoldLetting = "With position hold, let go of the sticks when in doubt. Without it, centre the " +
		"sticks, turn the tail toward you, and expect drift."
	msgLocalRulesCraft = "Local rules, the craft's manual and the licensed instructor's judgement come first. " +
		"This sign-off is the school's; it is not a licence."
	msgMoreAttempts      = "%d more attempts (%d to %s)"
	msgPassedLeastWind   = "%s passed in at least %g m/s of wind (%.0f kn)"
	msgPassesSitesOr     = "passes at %d sites, or in %d lights: %d of %d"
	msgOneOrMore         = ", one in %g m/s or more"
	msgAnotherSite       = "at another site"
	msgAnotherSiteOr     = "at another site or in another light"
	msgAnotherLight      = "in another light"
	msgOneWhileAnswering = ", one while answering questions"
)

// What gates.go says.
const (
	msgNotWitnessedYet     = "not witnessed yet"
	msgTooLongAgo          = "; too long ago"
	msgPassWind            = "a pass in wind"
	msgPassWhileAnswering  = "a pass while answering questions"
	msgNoGateAsks          = "No gate asks for that act."
	msgOnlyChiefInstructor = "Only the chief instructor witnesses that."
)

// What known.go says.
const (
	msgFromCouldKnown     = "From %.1f s on it could be known where the nose pointed."
	msgCouldNotKnown      = "It could not be known for long where the nose pointed."
	msgWhatToldMost       = "The most informative movement was %s at %.1f s, with %.1f bits."
	msgTellBitsTold       = "At %.1f s, %s for %g s would have given %.1f bits; %s gave %.1f."
	msgTooSlowTell        = "too slow to tell"
	msgNothingMovedAcross = "nothing moved across"
)

// What lesson.go says.
const (
	msgPutRightPlan    = "Correct it and plan it again."
	msgMinRestFirst    = "%.0f min of rest first"
	msgLandTalkThrough = "land, and talk it through"
	msgMinAir          = "%.0f min in the air"
)

// What list.go says.
const (
	msgWalkThroughStudents = "walk through the students and open one"
	msgJumpStudentName     = "jump to a student by name"
)

// What practice.go says.
const (
	msgNoDrillNamed = "no drill was named"
	msgInTheAir     = "in the air"
)

// What progress.go says.
const (
	msgAtTheField     = "at the field"
	msgInTheSimulator = "in the simulator"
)

// What signoffs.go says.
const (
	msgGateNotKnown            = "That gate is not known."
	msgSignOffWithdrawn        = "That sign-off was withdrawn."
	msgOnlyInstructorWithdraws = "Only an instructor withdraws a sign-off."
	msgSaySentenceWhy          = "Say in a sentence why it is withdrawn."
	msgNoCardBefore            = "The card can be made once the student has confirmed having read the cautions."
	msgRevokedCardSign         = "revoked the card of a sign-off"
	msgCannotDoneSign          = "That cannot be done with a sign-off."
	msgStudentConfirmsHaving   = "Only the student can confirm having read the cautions, from their own account."
	msgOnlyInstructorWitness   = "Only an instructor may witness a confirmation."
	msgTickYouRead             = "Tick that you have read the cautions."
	msgStudentAccountConfirms  = "This student has an account, and confirms there."
	msgNoSignatureStudent      = "There is no signature. The student draws it, or ticks that they cannot draw here."
	msgNotForce                = "Not in force"
	msgStudentNotConfirmed     = "The student has not confirmed having read the cautions"
	msgDoesNotStand            = "Does not stand today"
	msgCodeOpensCheck          = "Code that opens the check of this sign-off"
	msgCardShowsNothing        = "This card is no longer valid."
	msgRevokedOrNever          = "It was revoked, or it never existed."
	msgAskSchoolNamed          = "Ask the school that is named on it."
)

// What student.go says.
const (
	msgOneStepBack         = "one step back"
	msgToFinishWith        = "to finish with"
	msgChanceElseLand      = "chance, else land"
	msgWalkThroughAttempts = "walk through the attempts"
	msgMarkAttempt         = "Mark an attempt"
	msgKeyMarkAttempt      = "mark an attempt"
	msgStudentWithoutName  = "The student has no name."
	msgWriteNameUp         = "Write a name of up to 120 letters."
	msgProgrammeOrCraftNot = "The programme or the craft is not known."
	msgChooseOneList       = "Choose one of the list."
)

// What upload.go says.
const (
	msgChooseLogOne   = "Choose a log of one flight, up to 64 MB: CSV, GPX, IGC, KML or GeoJSON."
	msgFileLargerMb   = "The file is larger than 64 MB and was refused while it was being read."
	msgMendFileChoose = "Correct the file and choose it again."
	msgLikelyOne      = ", likely this one"
)

// What uploadkeep.go says.
const (
	msgColumnsFileSeparated = "The columns of this file are separated by semicolons, and its numbers may have " +
		"decimal commas."
	msgConfirmBelowRead = "Confirm below that it is to be read so."
	msgSayBelowWhat     = "Say below what the columns are; nothing is kept before it can be read."
	msgNothingKeptMend  = "Nothing was saved. Correct what is named and try again."
)

// What why.go says.
const (
	msgHeldNewestFour = "Held: of the newest four attempts three or more passed, the passes fall on two or " +
		"more dates, and the newest pass is no older than its currency. One failed attempt does not take a held " +
		"item away; two of the newest four do. A pass with fewer aids, or at a higher level, counts as well; a " +
		"fail counts only where it was flown. A void attempt counts nowhere."
	msgDesignStandingCell = "The school's rule of standing: currency is 14 days with passes on two dates and " +
		"doubles with each further date, up to 90."
	msgAttemptsBear    = "attempts that count toward it"
	msgMinusWorstShare = "1 minus the worst share of a limit, over everything that was judged: 0.4 is four " +
		"tenths of the tolerance to spare, −0.3 is three tenths outside. A time that has to be reached counts " +
		"only when missed, as asked over flown. Where the faults are more than the drill forgives, what they " +
		"reached counts too."
	msgNothingMeasured = "nothing was measured"
	msgWhyMargin       = "Why this margin"
)

// What change.go says.
const (
	msgNamedStudentBefore = "named the student %s; before it was %s"
	msgToTheProgramme     = ", to the programme %s"
)

// What debrief.go says.
const (
	msgMomentCouldNot = "The moment could not be read: %s"
)

// What estimates.go says.
const (
	msgWeakWholeRange = "Weak at %s: the whole range of the chance lies under the mean of the ring"
)

// What gatepage.go says.
const (
	msgInThePlace           = "in the place of %s"
	msgPassedWhileAnswering = "%s passed while answering questions"
)

// What lesson.go says.
const (
	msgLessonCouldNot = "The lesson could not be planned: %s."
)

// What records.go says.
const (
	msgDoesNotCount = "; does not count: %s"
)

// What signoffs.go says.
const (
	msgWindCouldNot = "The wind could not be read: %s."
	msgSignOff      = "Sign-off of %s"
)

// What upload.go says.
const (
	msgLogCouldNot = "The log could not be read: %s."
)

// What why.go says.
const (
	msgStillFly              = " Still to fly: %s."
	msgContractsMarginLimits = "The rule of the margin in docs/formats.md; the limits are those of the drill " +
		"for craft class %s."
)
