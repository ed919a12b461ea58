package pad

// What device.go says.
const (
	msgWhatDeviceSent   = "What the device sent could not be read."
	msgDeviceKeeps      = "The device keeps it."
	msgReloadPadSend    = "Reload the pad and send it again."
	msgAttemptNoId      = "The attempt has no id that is a UUID."
	msgAttemptNobody    = "The attempt names no student."
	msgStudentNotSchool = "The student is not in this school."
	msgShowPadChief     = "Show this pad to the chief instructor."
	msgCouldNotKept     = "It could not be saved just now."
	msgStaysHereSent    = "It stays here and is sent again."
)

// What follow.go says.
const (
	msgNoPositionYet    = "no position yet"
	msgTooLittleYet     = "too little yet"
	msgNoPositionStream = "No position stream is set: the chief sets its address beside the wind meter."
	msgNoCourseSet      = "No course is set for the day."
	msgDayCourseDoes    = "The day's course does not lie on the earth, so a position says nothing of it."
	msgFollowCraftOnce  = "Follow the craft once more."
)

// What held.go says.
const (
	msgEarlierVersionNumbered = "An earlier version numbered what this device sent wrongly, and dated it by " +
		"another attempt."
	msgDeviceClockSet      = "The device's clock was set while its pad was closed, and it is not known when."
	msgRunSimulator        = "A run in the simulator"
	msgNoteAttempt         = "A note to an attempt"
	msgCallNose            = "A call of the nose"
	msgWhatSpotterSaw      = "What a spotter saw"
	msgFoundDevice         = "Found on a device"
	msgWaitingDecision     = "Waiting for a decision"
	msgStudentNotSchoolAny = "The student is not in this school any more."
	msgNothingThrownAway   = "Nothing was thrown away. Write why, in a few words."
	msgCouldNotKeptJust    = "It could not be saved just now. It still waits here."
)

// What lent.go says.
const (
	msgQuestionCouldNot = "The question could not be read."
	msgReloadPad        = "Reload the pad."
)

// What marks.go says.
const (
	msgPadKeepsThem     = "The pad keeps them; send them again."
	msgUndoMarkMake     = "Undo the mark and make it again."
	msgChooseDrillAgain = "Choose the drill again."
)

// What pad.go says.
const (
	msgChooseAnotherDrill = "Choose another drill."
)

// What padfiles.go says.
const (
	msgMaestraleMarkingPad = "Maestrale marking pad"
)

// What sealed.go says.
const (
	msgReloadPageSent      = "Reload the page; it is sent again."
	msgStaysDeviceSent     = "It stays on this device and is sent again."
	msgShowChiefInstructor = "Show it to the chief instructor."
	msgWhatDeviceKept      = "What this device kept goes to no address of this school."
	msgWhatDeviceKeptMade  = "What this device kept was made under a sign-in that this school does not know."
	msgSchoolDidNot        = "The school did not take it."
)

// What voice.go says.
const (
	msgVoiceNoteCould      = "The voice note could not be read; expected up to 20 s of speech of an attempt."
	msgSayAgain            = "Say it again."
	msgWhatSpotterSawCould = "What the spotter saw could not be read."
	msgMarkAgain           = "Mark it again."
)

// What follow.go says.
const (
	msgStreamEndedWhat   = "The stream has ended: %s. What was flown can be kept."
	msgWhatFollowedCould = "What was followed could not be scored: %s."
)

// What held.go says.
const (
	msgAccountClosedOpen = "The account of %s is closed. Open it for as long as it takes to save this, or " +
		"discard this."
	msgStillWaitsHere = "%s It still waits here."
)

// What marks.go says.
const (
	msgMarksCouldNot = "The marks could not be read: %s"
)

// What sealed.go says.
const (
	msgWhatDeviceKeptRefused = "What this device kept was refused: %s."
)
