package bench

// What bench.go says.
const (
	msgTurnsNoseLeft        = "turns its nose left"
	msgTurnsNoseRight       = "turns its nose right"
	msgAskYawLeft           = "Turn the nose left and stay at this height: which rotors speed up, which slow down?"
	msgAskYawRight          = "Turn the nose right and stay at this height: which rotors speed up, which slow down?"
	msgAskRollLeft          = "Lean left, with the nose where it is."
	msgAskRollRight         = "Lean right, with the nose where it is."
	msgAskPitchAhead        = "Lean ahead, with the nose where it is."
	msgAskPitchBack         = "Lean back, with the nose where it is."
	msgAskClimb             = "Climb, and neither turn nor lean."
	msgAskSink              = "Sink, and neither turn nor lean."
	msgAskWhichStick        = "The rotors turn as shown. Which stick asks for that? Push it."
	msgWhyClimbs            = "all turn faster than in a hover, and together they lift more than the craft weighs"
	msgWhySinks             = "all turn slower than in a hover, and together they lift less than the craft weighs"
	msgClockwiseNoseRight   = "clockwise, nose right"
	msgCounterClockwiseNose = "counter-clockwise, nose left"
	msgWhyYaws              = "the rotors that spin %s turn faster than the others, and their drag turns the craft %s"
	msgWhyLeans             = "%s turn faster and lift their side"
	msgFasterThanTheRest    = "%s turn faster than the rest"
	msgAsItIs               = "As it is set it %s"
)
