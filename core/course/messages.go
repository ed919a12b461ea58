package course

// What clear.go says.
const (
	msgTooLowOver  = "%s: %.1f m under %s where %.1f m are wanted"
	msgFliesInto   = "%s: it flies where %s stands; %.1f m are wanted"
	msgTooNear     = "%s: %.1f m to %s, %.1f m wanted for a craft of this class"
	msgRoomToStop  = "%.1f m to stop and %.1f m of drift"
	msgRoomToFall  = "it could fall %.1f m away"
	msgRoomOfClass = "for a craft of this class"
	msgCrowdLine   = "the crowd line"
)

// What feature.go says.
const (
	msgTakenForMarker = "%s was taken for a marker"
)

// What file.go says.
const (
	msgHalfATie          = "only one of origin and away_deg is given"
	msgWantBothOrNone    = "both or none"
	msgHazardNoPlace     = "the hazard has no place"
	msgWantHazardPlace   = "at, line or ring"
	msgWantAnotherLength = "a place of another length"
)

// What places.go says.
const (
	msgWantPlaces = "places in metres as -5, 20; 5, 20"
	msgMiddleOf   = "the middle of the %s"
)

// What survey.go says.
const (
	msgNoSession     = "no session is set"
	msgCourseNotTied = "the course is tied to no place on the earth"
)

// What template.go says.
const (
	msgTemplateHover    = "hover, yaw and landing: a pad in the middle and a marker at each corner"
	msgTemplateTours    = "tours and corners: a pad in front, a centre, and four corners with diagonals to tape"
	msgTemplateCircuits = "circuits across the pilot's front, with the middle of each leg and each end marked"
	msgTemplateEight    = "two lobes that touch in front of the pilot"
	msgTemplateLandings = "landings near and far, left and right"
)
