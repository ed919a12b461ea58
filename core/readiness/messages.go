package readiness

// Why a student needs attention.
const (
	msgLapsing   = "The sign-off “%[1]s” ends on %[2]s."
	msgStuck     = "%[1]s is still not held after %[2]d attempts."
	msgReady     = "The gate “%[1]s” can be signed."
	msgNear      = "The gate “%[1]s” needs at least %[2]d more attempts."
	msgNearOne   = "The gate “%[1]s” needs at least one more attempt."
	msgAbsent    = "Has not flown for %[1]d days."
	msgNeverFlew = "Has not flown yet."
)

// What advice.go says.
const (
	msgShakenNoMore       = "shaken: no more today than a calm hover and a landing, or none"
	msgShakenStudentStops = "a shaken student stops"
	msgTenseShorterBlocks = "tense: shorter blocks, and something that goes well next"
	msgTenseShortensBlock = "tense shortens the block"
	msgTimesNotPassed     = "%s: %d times not passed; leave it for today"
	msgWhenRungFails      = "when a rung fails three times in a session, go back to the drill that builds it " +
		"and return later"
	msgTimesNotPassedGo   = "%s: %d times not passed; go back to %s and return later"
	msgMarginsFallOver    = "margins fall over the last %d attempts, by %.2f each: a rest, or the end for today"
	msgFallingMarginsOver = "falling margins over the last attempts are a sign of fatigue"
	msgRowOtherSide       = "%s: %d in a row; the other side now"
)

// What calibration.go says.
const (
	msgTooFewAttempts     = "Too few attempts (%d) to check the estimates of this record."
	msgEstimatesOffRecord = "The estimates are wrong for this record: of %d attempts %.0f were expected to " +
		"pass, and %d did. Do not rely on them here."
	msgEstimatesFitRecord = "The estimates fit this record: of %d attempts %.0f were expected to pass, and %d did."
)

// What clauses.go says.
const (
	msgWindOrMore    = "%s in %g m/s of wind or more"
	msgPassesSitesOr = "passes at %d sites, or in %d lights"
)

// What confirm.go says.
const (
	msgStudentTypesTheir = "The student types their own name."
	msgSignatureCouldNot = "The signature could not be read. Clear it and draw it again."
	msgSignatureNoMore   = "The signature is no more than a dot. Clear it and draw it again."
)

// What gate.go says.
const (
	msgCraftDoesNot         = "this craft does not hold its place by itself"
	msgSignOff              = "the sign-off"
	msgDrillsNotHeld        = "%d of %d drills are not held"
	msgDrillsNeedAids       = "%d of %d drills need aids that this craft lacks"
	msgSignedUntil          = "signed by %s on %s, until %s"
	msgWithdrawnByOn        = "withdrawn by %s on %s: %s"
	msgNoReasonGiven        = "no reason given"
	msgEverythingAsksStands = "everything it asks for stands"
	msgCanSigned            = "it can be signed"
)

// What grip.go says.
const (
	msgStudentsWhoFly = "The %d students who fly with the thumbs pass %.0f %% of their attempts, the %d who " +
		"pinch %.0f %%"
	msgDifferenceLiesBetween = "the difference lies between %+.0f and %+.0f percentage points"
)

// What onlookers.go says.
const (
	msgWhilePeopleLook = "While people look on, %d of %d attempts are passed, and %d of %d at the same drills " +
		"while nobody does"
	msgDrillDrillDifference = "drill by drill the difference lies between %+.0f and %+.0f percentage points"
)

// What picture.go says.
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

// What prior.go says.
const (
	msgLessLikelyNot = "less likely than not"
	msgMoreLikelyNot = "more likely than not"
)

// What signing.go says.
const (
	msgYouNoRight          = "You may not sign gates; the chief instructor can allow it. Nothing was signed."
	msgCannotSigned        = "%s cannot be signed: %s."
	msgOnlyChiefInstructor = "Only the chief instructor may override the rule."
	msgSignOffAgainst      = "An override needs its reason in writing, in a sentence."
	msgSignOffEnds         = "The sign-off ends on %.20q; expected a day as 2026-09-30."
	msgSignOffEndsBefore   = "The sign-off ends before it begins."
)

// What standing.go says.
const (
	msgNotFlownYet     = "not flown yet"
	msgCurrentUntil    = "%s, on %s; current until %s"
	msgHeldBeforeNo    = "held before, with no pass since %s; it was current until %s"
	msgButAsked        = "%s, but on %s; %d are asked"
	msgNewestPassed    = "%d of the newest %d passed"
	msgOneMorePass     = "one more pass"
	msgTwoMorePasses   = "two more passes"
	msgThreeMorePasses = "three more passes"
	msgFourMorePasses  = "four more passes"
)

// What clauses.go says.
const (
	msgWhileAnsweringQuestions = "%s while answering questions"
)

// What confirm.go says.
const (
	msgNameTypedNot = "The name that was typed is not the one in the record, %s."
)

// What evidence.go says.
const (
	msgDrillNotKnown = "the drill %s is not known here"
)

// What gate.go says.
const (
	msgWitnessedTooLong = "witnessed too long ago: %s"
	msgNotFlownLately   = "not flown lately: %s"
	msgOverridingRule   = ", overriding the rule: %s"
	msgSignOffRan       = "the sign-off ran out on %s"
)

// What grip.go says.
const (
	msgMayChance           = "%s. That may be chance: %s."
	msgTheyDifferentPeople = "%s: %s. They are different people, so the grip need not be the cause."
)

// What onlookers.go says.
const (
	msgPractiseSomeThem = "%s: %s. Practise some of them before people, on drills that are held."
)

// What report.go says.
const (
	msgDatedWhichNot = "it is dated %s, which has not come yet"
)

// What signing.go says.
const (
	msgYourRightSign = "Your right to sign ended on %s. Ask the chief instructor to renew it."
	msgSignedAlready = "%s is signed already."
	msgGateSignOffs  = "The gate's sign-offs last until %s at most."
)

// What standing.go says.
const (
	msgHeldBeforeSince = "held before; since then %s"
	msgOverTwoDays     = "%s, over two days"
	msgAnotherDay      = "%s, on another day"
	msgOneThemAnother  = "%s, one of them on another day"
)
