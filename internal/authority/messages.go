package authority

// What authority.go says.
const (
	msgMaestraleServerSchool = "Maestrale, the server of a school"
)
