package school

// What link.go says.
const (
	msgLinkUsedAlready = "This link was used already. If it was you, sign in; if not, tell the chief instructor."
	msgLinkTakenBack   = "This link was withdrawn. Ask the chief instructor for a new one."
	msgLinkOverGood    = "This link has expired: it was valid for seven days. Ask the chief instructor for a new one."
)

// What school.go says.
const (
	msgOwnsSchoolPeople     = "owns the school: people, programmes, policies, sign-off"
	msgRunsFieldDays        = "runs field days, marks drills, debriefs"
	msgKeepsEyesCraft       = "keeps eyes on the craft and may mark when it leaves the box"
	msgFliesSeesOnly        = "flies, and sees only their own record"
	msgNoName               = "%s has no name."
	msgNameLettersMost      = "%s has a name of %d letters; at most %d are kept."
	msgNameCharactersCannot = "%s has a name with characters that cannot be shown."
	msgTimeZoneMissing      = "The time zone is missing; expected a name like Europe/Rome."
	msgTimeZoneNot          = "The time zone %q is not known; expected a name like Europe/Rome."
	msgNotMailAddress       = "%q is not an e-mail address; expected one like name@school.example."
	msgRoleNotKnown         = "The role %q is not known."
	msgSchoolLastChief      = "This is the school's last chief instructor. Make somebody else chief first."
	msgStudentAccountStays  = "A student's account shows one record and cannot take another role. Invite the " +
		"person again for the other role."
)

// What steps.go says.
const (
	msgFirstSite           = "the first site"
	msgFirstCourse         = "the first course"
	msgFirstCraft          = "the first craft"
	msgInstructorsSpotters = "instructors and spotters"
	msgFirstStudent        = "the first student"
	msgFirstMarkedDrill    = "the first marked drill"
)
