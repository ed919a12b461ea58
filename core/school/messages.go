package school

// What link.go says.
const (
	msgLinkUsed      = "This link was used already. If it was you, sign in; if not, tell the chief instructor."
	msgLinkWithdrawn = "This link was withdrawn. Ask the chief instructor for a new one."
	msgLinkExpired   = "This link has expired: it was valid for seven days. Ask the chief instructor for a new one."
)

// What school.go says.
const (
	msgChiefMay            = "owns the school: people, programmes, policies, sign-off"
	msgInstructorMay       = "runs field days, marks drills, debriefs"
	msgSpotterMay          = "keeps eyes on the craft and may mark when it leaves the box"
	msgStudentMay          = "flies, and sees only their own record"
	msgNoName              = "%s has no name."
	msgNameTooLong         = "%s has a name of %d letters; at most %d are kept."
	msgNameNotShown        = "%s has a name with characters that cannot be shown."
	msgTimeZoneMissing     = "The time zone is missing; expected a name like Europe/Rome."
	msgTimeZoneNotKnown    = "The time zone %q is not known; expected a name like Europe/Rome."
	msgNotMailAddress      = "%q is not an e-mail address; expected one like name@school.example."
	msgRoleNotKnown        = "The role %q is not known."
	msgLastChief           = "This is the school's last chief instructor. Make somebody else chief first."
	msgStudentStaysStudent = "A student's account shows one record and cannot take another role. Invite the " +
		"person again for the other role."
)

// What steps.go says.
const (
	msgStepSite    = "the first site"
	msgStepCourse  = "the first course"
	msgStepCraft   = "the first craft"
	msgStepPeople  = "instructors and spotters"
	msgStepStudent = "the first student"
	msgStepDrill   = "the first marked drill"
)
