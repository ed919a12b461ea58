package catalogue

// What catalogue.go says.
const (
	msgSchoolDrills   = "the school's drills"
	msgSchoolDrillsDo = "the school's drills do not fit"
)
