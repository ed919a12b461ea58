package store

// What notes.go says.
const (
	msgNoteTakenOut = "(this note was taken out)"
)

// What signoffs.go says.
const (
	msgMadeCardSign = "made a card of a sign-off"
)

// What tries.go says.
const (
	msgZeroByteOr = "a zero byte, or something that is no UTF-8,"
)
