package intake

// What kinds.go says.
const (
	msgStudentWholeName  = "the student's whole name"
	msgProgrammeTitleOr  = "a programme's title or key; empty for the first one"
	msgCraftTypeTitle    = "a craft type's title or key"
	msgWorkStudentTrains = "the work that the student trains for"
	msgWhatStudentWants  = "what the student wants to be able to do"
	msgDaySuch           = "a day such as 2026-03-02"
	msgNameArm           = "the name on its arm"
	msgNameLabel         = "the name on its label"
	msgCraftTypeFits     = "the craft type that it fits, by title or key"
	msgCellsSeriesEmpty  = "cells in series; empty for those of the type"
	msgNumberEmptyType   = "a number; empty for that of the type"
	msgLipoLihvOr        = "LiPo, LiHV or Li-ion; empty for that of the type"
	msgNameStandsList    = "the name as it stands in the list of students"
	msgDayPassSuch       = "the day of the pass, such as 2026-03-02"
	msgDrillTitleOr      = "a drill's title or key"
	msgLeftOrRight       = "left or right, where the drill has sides"
	msgSuchPositionHold  = "such as position hold; empty for the most that the craft has"
	msgOrMoreEmpty       = "1 or more; empty for 1"
	msgTitleOrKey        = "by title or key; empty for the student's"
	msgVouchedForBy      = "vouched for by"
	msgNamePersonWho     = "the name of the person who saw it"
)

// What rows.go says.
const (
	msgFieldsHeadings     = "%d fields, and %d headings"
	msgOneFieldEach       = "one field for each heading; a comma inside a field stands in quotation marks"
	msgNameUpLetters      = "a name of up to 120 letters"
	msgSchoolAlready      = "%s is in the school already"
	msgNameNewLeave       = "a name that is new; leave the row out"
	msgStandsLineToo      = "%s stands in line %d too"
	msgEveryNameOnce      = "every name once"
	msgCraftTypeNot       = "the craft type %.40q is not known"
	msgOneFleetTitle      = "one of Fleet, by its title or key"
	msgProgrammeNotKnown  = "the programme %.40q is not known"
	msgOneProgrammesTitle = "one of Programmes, by its title or key"
	msgWholeNumberSuch    = "a whole number such as 4"
	msgNumberMahSuch      = "a number of mAh such as 3300"
	msgLipoLihvOrLi       = "LiPo, LiHV or Li-ion"
	msgCouldOr            = "%.20q could be %s or %s"
	msgNoDay              = "%.20q is no day"
	msgNotDay             = "%.20q is not a day that has been"
	msgDayUpToday         = "a day up to today"
	msgPersonWhoVouches   = "the person who vouches"
	msgNoStudent          = "there is no student %.60q"
	msgNameStandsStudents = "a name as it stands on Students; import the students first"
	msgThereAreStudents   = "there are %d students %.60q"
	msgNameOne            = "a name that one has"
	msgDrillNotKnown      = "the drill %.60q is not known"
	msgSamePassStands     = "the same pass stands in line %d too"
	msgEveryPassOnce      = "every pass once"
	msgPassBroughtBefore  = "this pass was brought in before"
	msgPassesNewLeave     = "passes that are new; leave the row out"
	msgSideLeftOrRight    = "left or right"
	msgEmptyField         = "an empty field"
	msgDoesNotFly         = "%s does not fly with %.30q"
	msgAidsCraft          = "aids that the craft has"
	msgTheLevelOf         = "the level %.20q of %s"
)

// What table.go says.
const (
	msgSemicolonsBetweenColumns = "semicolons between the columns, so a comma stands before decimals"
	msgTabsBetweenColumns       = "tabs between the columns"
	msgTextUtf                  = "the text is in UTF-16"
	msgTextWindows              = "the text is in Windows-1252"
)

// What rows.go says.
const (
	msgNoColumnHolds  = "no column holds the %s"
	msgFlownLeftRight = "%s is flown left and right, and no side is said"
	msgNoSides        = "%s has no sides"
)
