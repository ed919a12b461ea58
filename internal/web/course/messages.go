package course

// What change.go says.
const (
	msgAddedCrowdLine   = "added a crowd line"
	msgBackVersion      = "back to version %.0f"
	msgCrowdLine        = "the crowd line"
	msgGiveCourseOrigin = "Give the course an origin on its site."
)

// What course.go says.
const (
	msgMarkerHazardOr      = "to a marker, a hazard or the station on the plan"
	msgMoveHalfMetre       = "move it by half a metre; with Shift by ten centimetres"
	msgUndoLastChange      = "undo the last change"
	msgSomebodyElseChanged = "Somebody else has changed this course meanwhile."
	msgOtherChangeKept     = "The other change was kept, yours was not."
	msgLoadPageAgain       = "Load the page again and repeat yours."
	msgGoBackCourse        = "Go back; the course was not changed."
	msgGiveTwoTimes        = "Give two times of one day, as 08:30 and 12:30."
	msgCourseNoName        = "The course has no name, site or template."
	msgFillEveryField      = "Fill in every field of the form."
)

// What sites.go says.
const (
	msgSitesCourses      = "Sites and courses"
	msgGiveDegreesPoint  = "Give degrees with a point, south and west negative."
	msgGiveDegreesField  = "Give the degrees of the field."
	msgSiteNoName        = "The site has no name."
	msgWriteNameUp       = "Write a name of up to 120 letters."
	msgChooseAnotherName = "Choose another name."
)

// What words.go says.
const (
	msgNothingTallWay   = "nothing tall on the way"
	msgFromElsewhereFt  = "; from elsewhere %.0f m (%.0f ft)"
	msgMoreWanted       = "%.1f m more are wanted"
	msgComeTooNear      = ", and %s come too near to %s as well"
	msgNoDrillFlown     = "No drill is flown here."
	msgEveryDrillKeeps  = "Every drill keeps clear of every hazard, and of the people."
	msgTurnedEveryDrill = "If the course is turned %s, every drill is clear."
	msgNoTurnHelps      = "No turn helps, and moving the course away from %s would bring it nearer to people: " +
		"leave out the drills that are named here, or fly them with a smaller craft or elsewhere."
	msgNoTurnHelpsMove = "No turn helps: move the course %.1f m %s from %s, or fly with more aids."
	msgCourseLaidOut   = "This course is laid out for %s craft, and the %s is %s. Lay the template for %s " +
		"craft over it: the centre of a box %.0f m from the pilot, and %.0f m from corner to corner."
	msgTowardPilot        = "toward the pilot"
	msgToTheRight         = "to the right"
	msgToTheLeft          = "to the left"
	msgBehindPilot        = "It is behind the pilot."
	msgTurnedBehindPilot  = "If the course is turned %s, it is behind the pilot."
	msgSunStaysDown       = "The sun does not rise that day."
	msgSunDownOver        = "The sun is below the horizon during the session."
	msgSunStandsToo       = "The sun is too high to dazzle."
	msgFromSunStands      = "From %s to %s the sun stands %.0f° to %.0f° high."
	msgBlindsBetweenPilot = "It dazzles the pilot between %s and %s."
	msgDegreesToTheLeft   = "%d° to the left"
	msgDegreesToTheRight  = "%d° to the right"
)

// What change.go says.
const (
	msgSetMarker    = "set the marker %s"
	msgLaidTemplate = "laid the template %s for %s"
	msgSetHeight    = "set the height of %s"
	msgFileNotMade  = "The file was not made: %s."
)

// What course.go says.
const (
	msgCourseNotChanged = "The course was not changed: %s."
	msgSessionCouldNot  = "The session could not be read: %s."
	msgWherePilotLooks  = "Where the pilot looks could not be read: %s."
	msgLaidFromTemplate = "laid from the template %s"
)

// What sites.go says.
const (
	msgSitePlaceCould  = "The site's place could not be read: %s."
	msgSiteNotKept     = "The site was not saved: %s."
	msgAnotherSiteName = "Another site has the name %s."
)

// What words.go says.
const (
	msgNotWorkedOut = "Not worked out: %s."
)
