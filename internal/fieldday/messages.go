package fieldday

// What flights.go says.
const (
	msgCraftOrPack     = "That craft or pack is not the school's."
	msgDoesNotFit      = "%s does not fit %s."
	msgNotFlown        = "%s is not to be flown: %s."
	msgNoFlightBegins  = "no flight begins until somebody says go on"
	msgNotCheckedToday = "not checked today"
)

// What ground.go says.
const (
	msgPackChargeNot = "the pack's charge is not known, so no range is given"
	msgNoFarther     = "no farther than %s, %s"
	msgFromWherePack = "from where the pack still gets home"
	msgWhichNoseTail = "to which nose and tail can be told apart"
	msgWhereFenceSet = "where the fence is set"
)

// What packs.go says.
const (
	msgInTheAir = "in the air"
)

// What calendar.go says.
const (
	msgBoardDaySays = "%s. The board of the day says what has changed."
)

// What dayplan.go says.
const (
	msgNoFieldService = "no %s is at the field and in service"
	msgNoDrillThen    = "no drill on their list is within the limits of the wind and the light then; " +
		"train in the simulator"
)

// What flights.go says.
const (
	msgGroundedToday     = "%s is grounded today."
	msgNotCheckedTodayGo = "%s has not been checked today. Go through its check first; no student flies a " +
		"craft that nobody has looked at."
)

// What packs.go says.
const (
	msgInAirOf      = "in the air, %s"
	msgOtherFlights = "line %d of the others who fly says %.20q flights; expected 1 to %d, or a name alone for one"
	msgOtherNobody  = "line %d of the others who fly is %.40q; expected a name"
	msgOtherUnknown = "line %d of the others who fly: no student in training is called %.60q; expected a name as the " +
		"list of students has it"
	msgOtherSeveral = "line %d of the others who fly: %d students are called %.60q; expected a name that only one " +
		"has, so change one of them first"
	msgOtherTwice = "line %d of the others who fly: %s flies already; expected each student once"
)
