package localpg

// What localpg.go says.
const (
	msgPreExistingShared = "pre-existing shared memory block"
	msgCouldNotBind      = "could not bind"
)
