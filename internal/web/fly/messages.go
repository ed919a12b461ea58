package fly

// What fly.go says.
const (
	msgFromLeft           = "3 m/s from the left"
	msgFromRight          = "6 m/s from the right"
	msgChooseAnotherDrill = "Choose another drill."
	msgLevelGoesFrom      = "Level %d reaches %.0f m from the pilot; %s can tell nose from tail to %.0f m"
	msgLevelSet           = ": level %d is set"
)

// What home.go says.
const (
	msgNothingFlown = "No drill is being flown"
	msgWhatRotorsDo = "What the rotors do"
	msgSetRightKeep = "Correct it and save it again."
)

// What live.go says.
const (
	msgFlownElsewhereNow = "flown elsewhere now"
	msgReloadPage        = "Reload the page."
	msgUsePageOwn        = "Use the page's own buttons."
	msgRunNotFlown       = "This run has ended."
	msgWaitNext          = "Wait for the next."
	msgPilotPageDoes     = "The pilot's page does not answer."
	msgWaitMomentTry     = "Wait a moment and try again."
	msgSaysLetHappen     = "it says that %.60s let %.40s happen, and no instructor did"
)

// What lost.go says.
const (
	msgNotBroughtHome   = "not brought home"
	msgFlyGradeDue      = "fly the grade that is due"
	msgFromBehindYou    = "3 m/s from behind you"
	msgMeasuredWhileAgo = ", measured a while ago"
	msgGetsHomeFrom     = "%s gets home from %s in %s"
	msgAboutAway        = "about %.0f° to the %s of away"
)

// What quarters.go says.
const (
	msgHeadingCouldNot = "The heading could not be read."
	msgGiveDegreesFrom = "Give degrees from -180 to 180; 0 is the tail toward you."
	msgFourQuarters    = "The four quarters"
	msgTurnCraft       = "turn the craft"
)

// What reflex.go says.
const (
	msgRightHandStick     = "the right hand's stick"
	msgBeginTwoMinutes    = "begin two minutes"
	msgSoundOff           = "sound on and off"
	msgNewestFiftyRight   = "The newest fifty: %.0f %% right in %.2f s; the fifty before: %.0f %% in %.2f s."
	msgAnswerCouldNot     = "The answer could not be read."
	msgAnswerCouldNotRead = "The answer could not be read: an item, the seconds from 0 to 60 and sticks from " +
		"−1 to 1 were expected."
)

// What runs.go says.
const (
	msgPageKeepsSend = "The page keeps it; send it again."
)

// What sight.go says.
const (
	msgCraftColourCue      = "by the craft's colour cue; no calls yet"
	msgCraftColourCueCalls = "by the craft's colour cue; %d calls are too few"
	msgCouldNotTell        = "could not tell"
	msgCallCouldNot        = "The call could not be read."
	msgReloadPageWhat      = "Reload the page; what was not sent stays on this device."
	msgCallCouldNotRead    = "The call could not be read: a craft, 1 to 1000 m, a light, and the aspects shown " +
		"and called were expected."
)

// What trainers.go says.
const (
	msgNotFlownYet       = "not flown yet"
	msgBroughtHomePassed = "%d of %d brought home and passed"
	msgBeginLostCraft    = "Begin: lost craft"
	msgBeginWhatTonight  = "begin what is for tonight"
)

// What yaw.go says.
const (
	msgMostStickIf = "The yaw rate reaches %.0f °/s: %.0f %% of the stick, if full stick turns the %s at %.0f °/s."
	msgCraftCanDo  = "The craft can do it with a fifth of its turn to spare, up to %.1f m/s here, or as near " +
		"as %.1f m at this speed."
	msgTooFastCraft   = "Too fast for the craft: %.1f m/s at most here, or %.1f m off at this speed."
	msgOnceRoundTakes = "One turn takes %.0f s. Ease in and out, and hold the yaw steady in between."
	msgNoseBeginsTurn = "The nose begins to turn %.1f s before the subject is abeam, and turns fastest there: " +
		"begin gently, do not wait."
	msgNoseNeverTurns = "The nose never turns faster than one degree a second, so it can be left alone."
)

// What fly.go says.
const (
	msgTheWindIs = "the wind is %s"
)

// What home.go says.
const (
	msgRadioNotKept = "The radio was not saved: %s"
)

// What live.go says.
const (
	msgWhatShouldHappen = "The failure to inject could not be read: %s"
	msgCannotLetHappen  = "This failure cannot be injected: %s"
)

// What lost.go says.
const (
	msgLosingOrientationPurpose = "Losing orientation on purpose: %s"
)

// What reflex.go says.
const (
	msgHeldFlightWeak = "Held in flight and weak at the table at %s: it may be flown by habit, and fail when " +
		"surprised."
	msgQuickTableLapsed = "Quick at the table and lapsed in flight at %s: practise it at the field rather than here."
)

// What runs.go says.
const (
	msgRunCouldNot = "The run could not be read: %s"
)
