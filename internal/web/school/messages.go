package school

// What account.go says.
const (
	msgGoBackChoose              = "Go back and choose another."
	msgTooManyWrong              = "Too many wrong passwords."
	msgWaitQuarterHour           = "Wait a quarter of an hour, or ask the chief instructor for a link."
	msgPasswordNotChanged        = "The password was not changed: the current password is wrong."
	msgGoBackType                = "Go back and type it again."
	msgChangedOwnPassword        = "changed their own password"
	msgPasswordChangedEverywhere = "The password was changed. You were signed out everywhere else."
	msgChooseOneEach             = "Choose one of each list."
)

// What how.go says.
const (
	msgHowThisWorks  = "How this works"
	msgHowItWorks    = "how it works"
	msgWhatWordsMean = "What the words mean"
)

// What intake.go says.
const (
	msgBringTables       = "Import tables"
	msgSaveTableCsv      = "Save the table as CSV in your spreadsheet, and choose that file."
	msgTableTakenAlready = "This table was imported already."
	msgNothingTaken      = "Nothing was imported: %s."
	msgBroughtFrom       = "brought in %d %s from %s"
	msgVerySameTable     = "The same table was imported before."
	msgLookListImport    = "Look at the list on the import page. Undo the earlier one first, or choose " +
		"another file."
	msgMendFileBring      = "Correct the file and import it again."
	msgNotUndoneSomething = "It was not undone: something of it is in use already, such as a student with an " +
		"attempt."
	msgChangeThoseRows     = "Change those rows one by one: a student can leave, a pass can be made void."
	msgNotUndoneHour       = "It was not undone: an hour has passed."
	msgUndoneAlready       = "It was undone already."
	msgLookListAgain       = "Look at the list again."
	msgGoBackTry           = "Go back and try again."
	msgLetPassesFrom       = "let %d passes from paper count"
	msgLetPassesFromPaper  = "stopped counting %d passes from paper"
	msgSomebodyDecidedJust = "Somebody decided on it just now."
	msgLookAgain           = "Look at it again."
)

// What join.go says.
const (
	msgNotLinkServer    = "This is not a link of this server."
	msgCheckCopiedWhole = "Check that it was copied whole, or ask the chief instructor for a new one."
	msgSetNewPassword   = "set a new password by a link"
	msgSignYourAddress  = "Sign in with your address."
)

// What jump.go says.
const (
	msgSitesWind         = "Sites and wind"
	msgPeopleInvitations = "People and invitations"
	msgYourAccountUnits  = "Your account, units and passkeys"
)

// What overview.go says.
const (
	msgNoBackupDatabase = "No backup of this database was made yet. Run maestrale backup on this computer, or " +
		"start the school with maestrale up, which makes one every day."
	msgGoBackPut             = "Go back and correct it."
	msgChangedSchoolSettings = "changed the school's settings"
	msgSchoolNotClosed       = "The school was not closed: its name was not typed exactly."
	msgWriteNameOut          = "Type the whole name, so that it is not closed by mistake."
	msgOpenedSchoolAgain     = "opened the school again"
	msgClosedSchool          = "closed the school"
)

// What passkeys.go says.
const (
	msgTryAgainOr        = "Try again, or use the password."
	msgTookPasskeyAway   = "removed a passkey"
	msgTooManyPasskeys   = "Too many passkeys did not match."
	msgWaitQuarterHourOr = "Wait a quarter of an hour, or use the password."
)

// What people.go says.
const (
	msgChooseWhatPerson  = "Choose what the person does in the school."
	msgChooseWhoseRecord = "Choose whose record the student's account shows; add the student first where there " +
		"is none."
	msgGoBackPutRight       = "Go back, correct it and make the link again."
	msgGoBackChooseSomebody = "Go back and choose somebody else."
	msgCodeOpensLink        = "Code that opens this link on a phone"
	msgLinkHandOver         = "A link to hand over"
	msgTookLinkBack         = "withdrew a link"
	msgAccountClosedReopen  = "This account is closed. Reopen it first."
	msgCannotDoneAccount    = "That cannot be done with an account."
	msgGoBackList           = "Go back to the list of people."
)

// What phones.go says.
const (
	msgHowPhonesReach    = "How phones reach this school"
	msgTrustSchoolServer = "Trust this school's server"
)

// What rights.go says.
const (
	msgTookRightSign = "withdrew the right to sign from "
	msgRightSignNot  = "The right to sign was not given: the day is not clear."
	msgChooseDayFrom = "Choose a day from today on, at most three years away."
)

// What settings.go says.
const (
	msgWriteAddress     = "Write its address as 127.0.0.1:10111."
	msgCatchingHandNot  = "Catching by hand was not switched on: its cautions were not ticked."
	msgReadThemTick     = "Read them, and tick that you did."
	msgWriteAddressTrue = "Write its address as 127.0.0.1:10110, and the true direction of its zero mark."
	msgChooseOneThree   = "Choose one of the three, with a distance and a time for the second."
	msgWalkTapedLength  = "Walk a taped length and give its metres and your paces; a pace is between 0.3 and 1.5 m."
)

// What setup.go says.
const (
	msgSetUpSchool       = "Set up a school"
	msgTooManyWrongCodes = "Too many wrong codes. Wait a quarter of an hour and try again."
	msgNotSetupCode      = "That is not the setup code. It stands in the terminal where the server was started."
	msgSomebodyElseSet   = "Somebody else set the school up just now."
	msgAskThemInvitation = "Ask them for an invitation, or sign in."
	msgChiefInstructor   = "The chief instructor"
)

// What steps.go says.
const (
	msgStepNotKnown = "That step is not known."
	msgGoBackFirst  = "Go back to the first steps and choose one."
)

// What account.go says.
const (
	msgPasswordNotChangedAs = "The password was not changed: %s."
	msgUnitsNotChanged      = "The units were not changed: %s."
)

// What intake.go says.
const (
	msgFileNotTaken = "The file was not imported: %s."
	msgTookBackWhat = "withdrew the import of %s"
)

// What join.go says.
const (
	msgTheSignIn             = "The sign-in is at %s."
	msgJoinedInvitation      = "joined by an invitation as %s"
	msgAddressAccountAlready = "The address %s has an account already. Use another address, or ask the chief " +
		"instructor for a new password of that account."
)

// What overview.go says.
const (
	msgNewestBackup      = "The newest backup is of %s."
	msgDaysAgoWhat       = " That is %s days ago: what was recorded since then is in no backup."
	msgNamedSchoolBefore = "named the school %s; before it was %s"
)

// What people.go says.
const (
	msgStudentAccountAlready = "This student has an account already: %s."
	msgClosedAccount         = "closed the account of %s"
	msgReopenedAccount       = "reopened the account of %s"
	msgMadeLinkNew           = "made a link for a new password of %s"
)

// What phones.go says.
const (
	msgCodeOpensPhone = "Code that opens %s on a phone"
)

// What rights.go says.
const (
	msgGaveRightSign = "gave the right to sign until %s to "
)

// What settings.go says.
const (
	msgStreamCouldNot     = "The stream could not be set: %s."
	msgWindMeterCould     = "The wind meter could not be set: %s."
	msgCompassPolicyCould = "The compass policy could not be read: %s."
	msgPaceCouldNot       = "The pace could not be read: %s."
)
