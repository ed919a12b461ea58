package bench

// What bench.go says.
const (
	msgTurnsNoseLeft        = "turns its nose left"
	msgTurnsNoseRight       = "turns its nose right"
	msgTurnNoseLeft         = "Turn the nose left and stay at this height: which rotors speed up, which slow down?"
	msgTurnNoseRight        = "Turn the nose right and stay at this height: which rotors speed up, which slow down?"
	msgLeanLeftNose         = "Lean left, with the nose where it is."
	msgLeanRightNose        = "Lean right, with the nose where it is."
	msgLeanAheadNose        = "Lean ahead, with the nose where it is."
	msgLeanBackNose         = "Lean back, with the nose where it is."
	msgClimbNeitherTurn     = "Climb, and neither turn nor lean."
	msgSinkNeitherTurn      = "Sink, and neither turn nor lean."
	msgRotorsTurnShown      = "The rotors turn as shown. Which stick asks for that? Push it."
	msgAllTurnFaster        = "all turn faster than in a hover, and together they lift more than the craft weighs"
	msgAllTurnSlower        = "all turn slower than in a hover, and together they lift less than the craft weighs"
	msgClockwiseNoseRight   = "clockwise, nose right"
	msgCounterClockwiseNose = "counter-clockwise, nose left"
	msgThoseSpinTurn        = "the rotors that spin %s turn faster than the others, and their drag turns the craft %s"
	msgTurnFasterLift       = "%s turn faster and lift their side"
	msgTurnFasterRest       = "%s turn faster than the rest"
)

// What bench.go says.
const (
	msgAsItIs = "As it is set it %s"
)
