package frame

// What access.go says.
const (
	msgYouNotSigned        = "You are not signed in."
	msgNothingChanged      = "Nothing was changed."
	msgSignTryAgain        = "Sign in and try again."
	msgSchoolClosedRecords = "The school is closed: its records can be read and taken out, and nothing is added."
	msgChiefInstructorCan  = "A chief instructor can open it again, on the School page."
	msgAskChiefInstructor  = "Ask the chief instructor."
)

// What answers.go says.
const (
	msgGoBackBoard         = "Go back to the board and correct it."
	msgSomebodyElseChanged = "Somebody else changed the day just now."
	msgLookBoardAgain      = "Look at the board again and make your change once more."
	msgLandFlightGoes      = "Land the flight that goes on first, or choose another."
	msgNameTaken           = "That name is taken."
	msgChooseAnotherNames  = "Choose another; the name is what is written on the label."
	msgDeviceCutOff        = "This device was cut off by the chief instructor."
)

// What forms.go says.
const (
	msgNotKnown = "The %s is not known."
)

// What founding.go says.
const (
	msgNoSchoolHere       = "There is no school here yet."
	msgOpenAddressBrowser = "Open this address in a browser and set the school up first."
)

// What limits.go says.
const (
	msgAddressTakesNo     = "This address takes no body."
	msgAskWithoutOne      = "Ask for it without one."
	msgSendLessOr         = "Send less, or in several parts."
	msgWhatSentCannot     = "What was sent cannot be read as a form."
	msgGoBackUse          = "Go back and use the page's own buttons."
	msgTypeAnewInstead    = "Type it again instead of pasting it."
	msgWhatSentDid        = "What was sent did not arrive completely."
	msgSendAgain          = "Send it again."
	msgZeroByteOr         = "a zero byte, or a mark that turns the direction of writing,"
	msgSomethingNoUtf     = "something that is no UTF-8"
	msgMarkTurnsDirection = "a mark that turns the direction of writing"
)

// What observe.go says.
const (
	msgRequestsAnsweredRoute   = "Requests that were answered, by route and status."
	msgTimeAnswerRoute         = "Time to answer, by route; answers that go on are not counted."
	msgRequestsMarksKept       = "Requests with marks that were kept."
	msgThingsDevicesHad        = "Things that devices had kept and delivered later."
	msgHowOldWhat              = "How old what a device delivered was, counted from when it was made."
	msgAttemptsSignNot         = "Attempts to sign in that were not looked at, because there were too many."
	msgConnectionsDatabase     = "Connections to the database."
	msgConnectionsDatabaseWork = "Connections to the database that work."
	msgConnectionsDatabaseMost = "Connections to the database at most."
	msgPagesWaitDatabase       = "Pages that wait for the database."
	msgMarksDeliveriesWait     = "Marks and deliveries that wait for the database."
	msgUnitsWorkWaited         = "Units of work that waited for the database for too long."
	msgAnswersGoPages          = "Answers that go on: pages that wait for news."
	msgPasswordsWaitHashed     = "Passwords that wait to be hashed."
	msgAgeNewestBackup         = "Age of the newest backup that this database knows of; -1 for none."
)

// What page.go says.
const (
	msgLimitLeft          = "The worst figure left %.0f %% of its limit."
	msgOverLimit          = "The worst figure was %.0f %% over its limit."
	msgTimesLimit         = "The worst figure was %.1f times its limit."
	msgPageCouldNot       = "The page could not be drawn: %v"
	msgPageCouldNotDrawn  = "The page could not be drawn. Nothing was changed; go back and try again."
	msgNothingHere        = "There is nothing here."
	msgCheckAddressOr     = "Check the address, or jump to a student or drill with the key /."
	msgSchoolComputerToo  = "The school's computer has too much to do just now."
	msgTryAgainFew        = "Try again in a few seconds."
	msgSchoolDatabaseDoes = "The school's database does not answer just now."
	msgSomethingWentWrong = "Something went wrong here."
)

// What server.go says.
const (
	msgSessionCouldNot = "The session could not be read. Nothing was changed; try again in a moment."
	msgRequestCameFrom = "This request came from another site and was refused. Nothing was changed."
	msgAddressDoesNot  = "This address does not take that kind of request."
	msgTooManyPages    = "Too many pages of this account are open."
	msgCloseSomeThem   = "Close some of them."
	msgDatabaseDoesNot = "the database does not answer\n"
)

// What signin.go says.
const (
	msgNobodyPassword = "nobody has this password"
	msgTooManyWrong   = "Too many wrong passwords. Wait a quarter of an hour and try again."
	msgManyPeopleSign = "Many people are signing in just now, and your password was not checked. Try again in " +
		"a few seconds."
	msgAddressPasswordDo = "The address and the password do not match. Check both and try again."
	msgKeepPasswordAnew  = "keep the password anew"
	msgChromeOrChromium  = "Chrome or Chromium"
)

// What students.go says.
const (
	msgReadySigned    = "Ready to be signed"
	msgGoBackStudent  = "Go back to the student; the page says what is missing."
	msgStudentWhoLeft = "A student who left"
)

// What todaylive.go says.
const (
	msgLineBoardsBroke = "the line for the boards broke"
)

// What wind.go says.
const (
	msgWindCouldNot = "The wind could not be read."
	msgGiveMeanFrom = "Give the mean, from 0 to 79 m/s (150 kn), and a gust that is no less. A unit may follow " +
		"the number."
)

// What access.go says.
const (
	msgCannotDo = "A %s cannot do this."
)

// What limits.go says.
const (
	msgWhatSentToo  = "What was sent is too large: %s are taken here at most."
	msgWhatSentText = "There is %s in what was sent, and text was expected."
)

// What middleware.go says.
const (
	msgSomethingWentWrongHere = "Something went wrong here. Nothing was changed; go back and try again. Request %s."
)

// What page.go says.
const (
	msgTryAgainIf = "Try again; if it stays so, tell the chief instructor this number: %s"
)
