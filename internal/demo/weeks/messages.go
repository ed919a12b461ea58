package weeks

// What weeks.go says.
const (
	msgSolarRoofInspection = "solar-roof inspection"
)
