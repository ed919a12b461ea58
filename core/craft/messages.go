package craft

// What craft.go says.
const (
	msgLetGoSticks      = "let go of the sticks"
	msgCentreSticksTurn = "centre the sticks, turn the tail to you, expect drift"
	msgKeepThrottleHand = "keep the throttle hand, centre the other"
)

// What file.go says.
const (
	msgRotorAxesStand   = "the rotor axes stand %.3f m apart at most and the span is %.3f m"
	msgSpanTheirLargest = "a span that is their largest distance"
	msgRollPitchYaw     = "[roll, pitch, yaw] in kg m²"
	msgLimitsWhichCraft = "limits for %s, which the craft does not have"
	msgAidsStandAids    = "aids that stand in aids or optional_aids"
)

// What log.go says.
const (
	msgTooFastStop           = "too fast to stop"
	msgWindOrGust            = "wind or gust"
	msgObstacleNotSeen       = "obstacle not seen"
	msgRadioOrLink           = "radio or link"
	msgCompassOrPosition     = "compass or position"
	msgPropellerOrMotor      = "propeller or motor"
	msgHandlingGround        = "handling on the ground"
	msgRepairedOrReleased    = "It is repaired or released first."
	msgInstructorFliesFirst  = "An instructor flies it first, as a proving flight."
	msgProvingFlightNot      = "the proving flight was not passed"
	msgCompassWouldNot       = "its compass would not calibrate twice in a row"
	msgLeftHandThread        = "left-hand thread, fastened counter-clockwise"
	msgRightHandThread       = "right-hand thread, fastened clockwise"
	msgMotorDoesNot          = "motor %d does not exist"
	msgMotorTwoPropellers    = "motor %d has two propellers"
	msgMotorNoPropeller      = "motor %d (%s) has no propeller"
	msgMotorTurnsCarries     = "motor %d (%s) turns %s and carries a propeller for %s"
	msgPropellerMotorChipped = "the propeller on motor %d (%s) is chipped"
	msgDriftedHandsOff       = "drifted %.1f m hands off in 10 s; expected %.1f m at most"
	msgHoversThrottleDid     = "hovers at %.0f %% throttle and did at %.0f %%; expected within a tenth"
	msgDoesNotSound          = "does not sound right"
)

// What log.go says.
const (
	msgOutService          = "out of service: %s"
	msgStillProven         = "still to be proven: %s"
	msgFailedProvingFlight = "failed its proving flight: %s"
)
