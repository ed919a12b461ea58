package exchange

// What intake.go says.
const (
	msgTableBroughtTaken = "the table that brought it was taken back"
)

// What exchange.go says.
const (
	msgEverythingRecorded = "everything: recorded at %s"
)

// What intake.go says.
const (
	msgSchoolAlreadyNothing = "There is a %s in the school already. Nothing was imported."
)
