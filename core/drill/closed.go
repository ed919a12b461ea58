package drill

// Closing is what a drill is closed by, until it opens.
type Closing string

// The ways in which a drill is closed.
const (
	Open       Closing = ""
	ByLadder   Closing = "until-ladder" // until the student holds the whole ladder of the programme
	BySwitch   Closing = "switched-off" // until the school's chief switches it on
	shutLadder         = msgOpensWhenWhole
	shutSwitch         = msgSwitchedOffSchool
)

// Shut says why a drill is closed for a student; empty where it is open.
func (d Drill) Shut(ladderHeld, switchedOn bool) string {
	switch {
	case d.Closed == ByLadder && !ladderHeld:
		return shutLadder
	case d.Closed == BySwitch && !switchedOn:
		return shutSwitch
	}
	return ""
}
