package course

// What clear.go says.
const (
	msgUnderWhereWanted = "%s: %.1f m under %s where %.1f m are wanted"
	msgFliesWhereStands = "%s: it flies where %s stands; %.1f m are wanted"
	msgWantedCraftClass = "%s: %.1f m to %s, %.1f m wanted for a craft of this class"
	msgStopDrift        = "%.1f m to stop and %.1f m of drift"
	msgCouldFallAway    = "it could fall %.1f m away"
	msgCraftClass       = "for a craft of this class"
	msgCrowdLine        = "the crowd line"
)

// What feature.go says.
const (
	msgTakenMarker = "%s was taken for a marker"
)

// What file.go says.
const (
	msgOnlyOneOrigin      = "only one of origin and away_deg is given"
	msgBothOrNone         = "both or none"
	msgHazardNoPlace      = "the hazard has no place"
	msgLineOrRing         = "at, line or ring"
	msgPlaceAnotherLength = "a place of another length"
)

// What places.go says.
const (
	msgPlacesMetres = "places in metres as -5, 20; 5, 20"
)

// What survey.go says.
const (
	msgNoSessionSet = "no session is set"
	msgCourseTiedNo = "the course is tied to no place on the earth"
)

// What template.go says.
const (
	msgHoverYawLanding     = "hover, yaw and landing: a pad in the middle and a marker at each corner"
	msgToursCornersPad     = "tours and corners: a pad in front, a centre, and four corners with diagonals to tape"
	msgCircuitsAcrossPilot = "circuits across the pilot's front, with the middle of each leg and each end marked"
	msgTwoLobesTouch       = "two lobes that touch in front of the pilot"
	msgLandingsNearFar     = "landings near and far, left and right"
)

// What places.go says.
const (
	msgTheMiddleOf = "the middle of the %s"
)
