package readiness

// Why a student needs attention: a title, and a date or how many attempts or
// days.
const (
	msgLapsing   = "The sign-off “%[1]s” ends on %[2]s."
	msgStuck     = "%[1]s is still not held after %[2]d attempts."
	msgReady     = "The gate “%[1]s” can be signed."
	msgNear      = "The gate “%[1]s” needs at least %[2]d more attempts."
	msgNearOne   = "The gate “%[1]s” needs at least one more attempt."
	msgAbsent    = "Has not flown for %[1]d days."
	msgNeverFlew = "Has not flown yet."
)

// Quiet lines for the instructor, each with the rule that it comes from
// (…Rule). The arguments are the drill, how often, and the drill to go back to.
const (
	msgShaken     = "shaken: no more today than a calm hover and a landing, or none"
	msgShakenRule = "a shaken student stops"
	msgTense      = "tense: shorter blocks, and something that goes well next"
	msgTenseRule  = "tense shortens the block"
	msgStuckLeave = "%s: %d times not passed; leave it for today"
	msgStuckRule  = "when a rung fails three times in a session, go back to the drill that builds it " +
		"and return later"
	msgStuckGoBack = "%s: %d times not passed; go back to %s and return later"
	msgTired       = "margins fall over the last %d attempts, by %.2f each: a rest, or the end for today"
	msgTiredRule   = "falling margins over the last attempts are a sign of fatigue"
	msgOneSided    = "%s: %d in a row; the other side now"
)

// Whether estimates can be relied on: attempts, passes expected, passes seen.
const (
	msgEstimatesUnchecked = "Too few attempts (%d) to check the estimates of this record."
	msgEstimatesOff       = "The estimates are wrong for this record: of %d attempts %.0f were expected to " +
		"pass, and %d did. Do not rely on them here."
	msgEstimatesFit = "The estimates fit this record: of %d attempts %.0f were expected to pass, and %d did."
)

// What clauses ask for: the drills, and the wind or the numbers of places.
const (
	msgClauseWind   = "%s in %g m/s of wind or more"
	msgClausePlaces = "passes at %d sites, or in %d lights"
)

// Why a confirmation is not the student's.
const (
	msgNoNameTyped     = "The student types their own name."
	msgSignatureUnread = "The signature could not be read. Clear it and draw it again."
	msgSignatureADot   = "The signature is no more than a dot. Clear it and draw it again."
)

// Why a gate stands where it does. The arguments are how many of how many, or
// who, from when and until when.
const (
	msgNoPositionHold   = "this craft does not hold its place by itself"
	msgSignOff          = "the sign-off"
	msgDrillsNotHeld    = "%d of %d drills are not held"
	msgDrillsNeedAids   = "%d of %d drills need aids that this craft lacks"
	msgSignedUntil      = "signed by %s on %s, until %s"
	msgWithdrawn        = "withdrawn by %s on %s: %s"
	msgNoReasonGiven    = "no reason given"
	msgEverythingStands = "everything it asks for stands"
	msgCanBeSigned      = "it can be signed"
)

// Thumbs against pinch: how many students and their share of passes, on each
// side, and the interval of the difference.
const (
	msgGripShares = "The %d students who fly with the thumbs pass %.0f %% of their attempts, the %d who " +
		"pinch %.0f %%"
	msgGripDifference = "the difference lies between %+.0f and %+.0f percentage points"
)

// Watched against not watched: passes and attempts, on each side, and the
// interval of the difference.
const (
	msgWatchedShares = "While people look on, %d of %d attempts are passed, and %d of %d at the same drills " +
		"while nobody does"
	msgWatchedDifference = "drill by drill the difference lies between %+.0f and %+.0f percentage points"
)

// The sectors of the aspect ring that have no word of their own, clockwise.
const (
	msg22RightOfTail = "22° right of tail-in"
	msg45RightOfTail = "45° right of tail-in"
	msg67RightOfTail = "67° right of tail-in"
	msg67RightOfNose = "67° right of nose-in"
	msg45RightOfNose = "45° right of nose-in"
	msg22RightOfNose = "22° right of nose-in"
	msg22LeftOfNose  = "22° left of nose-in"
	msg45LeftOfNose  = "45° left of nose-in"
	msg67LeftOfNose  = "67° left of nose-in"
	msg67LeftOfTail  = "67° left of tail-in"
	msg45LeftOfTail  = "45° left of tail-in"
	msg22LeftOfTail  = "22° left of tail-in"
)

// Chances in words.
const (
	msgLessLikely = "less likely than not"
	msgMoreLikely = "more likely than not"
)

// Why something is not signed, in sentences.
const (
	msgNoRight            = "You may not sign gates; the chief instructor can allow it. Nothing was signed."
	msgCannotBeSigned     = "%s cannot be signed: %s."
	msgOnlyChief          = "Only the chief instructor may override the rule."
	msgReasonNeeded       = "An override needs its reason in writing, in a sentence."
	msgNoDay              = "The sign-off ends on %.20q; expected a day as 2026-09-30."
	msgEndsBeforeItBegins = "The sign-off ends before it begins."
)

// Where a cell stands. The arguments are the passes among the newest attempts,
// on how many dates, and until when.
const (
	msgNotFlownYet     = "not flown yet"
	msgCurrentUntil    = "%s, on %s; current until %s"
	msgLapsedByAge     = "held before, with no pass since %s; it was current until %s"
	msgTooFewDates     = "%s, but on %s; %d are asked"
	msgNewestPasses    = "%d of the newest %d passed"
	msgOneMorePass     = "one more pass"
	msgTwoMorePasses   = "two more passes"
	msgThreeMorePasses = "three more passes"
	msgFourMorePasses  = "four more passes"
)

// A clause; the argument is the drills.
const (
	msgClauseAttention = "%s while answering questions"
)

// Another name than the record's.
const (
	msgOtherNameTyped = "The name that was typed is not the one in the record, %s."
)

// Why an attempt does not count.
const (
	msgDrillNotKnown = "the drill %s is not known here"
)

// What a gate lacks, and how it was signed.
const (
	msgWitnessedLongAgo = "witnessed too long ago: %s"
	msgNotFlownLately   = "not flown lately: %s"
	msgOverride         = ", overriding the rule: %s"
	msgSignOffRanOut    = "the sign-off ran out on %s"
)

// What the comparison of grips comes to: the shares, and the interval.
const (
	msgMayBeChance     = "%s. That may be chance: %s."
	msgDifferentPeople = "%s: %s. They are different people, so the grip need not be the cause."
)

// What the comparison of watched attempts comes to: the shares, and the
// interval.
const (
	msgPractiseWatched = "%s: %s. Practise some of them before people, on drills that are held."
)

// An attempt with a date in the future.
const (
	msgDatedInFuture = "it is dated %s, which has not come yet"
)

// Who may sign until when.
const (
	msgRightEnded     = "Your right to sign ended on %s. Ask the chief instructor to renew it."
	msgAlreadySigned  = "%s is signed already."
	msgLongestSignOff = "The gate's sign-offs last until %s at most."
)

// What is still needed, after how many passes.
const (
	msgLapsedByFails   = "held before; since then %s"
	msgOverTwoDays     = "%s, over two days"
	msgAnotherDay      = "%s, on another day"
	msgOneOnAnotherDay = "%s, one of them on another day"
)
