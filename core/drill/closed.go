package drill

// Closing is what a drill is closed by, until it opens. Some drills are
// dangerous to a beginner: they wait for the whole ladder, or for a decision of
// the school's chief.
type Closing string

// The ways in which a drill is closed.
const (
	Open       Closing = ""
	ByLadder   Closing = "until-ladder" // until the student holds the whole ladder of the programme
	BySwitch   Closing = "switched-off" // until the school's chief switches it on
	shutLadder         = msgOpensWithLadder
	shutSwitch         = msgSwitchedOff
)

// Shut says why a drill is closed for a student, by whether the student holds
// the whole ladder and whether the school has switched the drill on. It is
// empty where the drill is open.
func (d Drill) Shut(ladderHeld, switchedOn bool) string {
	switch {
	case d.Closed == ByLadder && !ladderHeld:
		return shutLadder
	case d.Closed == BySwitch && !switchedOn:
		return shutSwitch
	}
	return ""
}
