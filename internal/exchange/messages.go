package exchange

// What intake.go says.
const (
	msgTableBroughtTaken = "the table that brought it was taken back"
)
