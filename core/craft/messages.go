package craft

// What craft.go says.
const (
	msgLetGoSticks    = "let go of the sticks"
	msgCentreAndTurn  = "centre the sticks, turn the tail to you, expect drift"
	msgCentreTheOther = "keep the throttle hand, centre the other"
)

// What file.go says.
const (
	msgSpanWrong         = "the rotor axes stand %.3f m apart at most and the span is %.3f m"
	msgWantSpan          = "a span that is their largest distance"
	msgWantInertias      = "[roll, pitch, yaw] in kg m²"
	msgLimitsOfOtherAids = "limits for %s, which the craft does not have"
	msgWantOwnAids       = "aids that stand in aids or optional_aids"
)

// What log.go says.
const (
	msgCauseTooFast        = "too fast to stop"
	msgCauseWind           = "wind or gust"
	msgCauseObstacle       = "obstacle not seen"
	msgCauseLink           = "radio or link"
	msgCauseCompass        = "compass or position"
	msgCausePropeller      = "propeller or motor"
	msgCauseHandling       = "handling on the ground"
	msgRepairFirst         = "It is repaired or released first."
	msgProveFirst          = "An instructor flies it first, as a proving flight."
	msgNotProven           = "the proving flight was not passed"
	msgCompassTwiceUnclean = "its compass would not calibrate twice in a row"
	msgLeftHandThread      = "left-hand thread, fastened counter-clockwise"
	msgRightHandThread     = "right-hand thread, fastened clockwise"
	msgNoSuchMotor         = "motor %d does not exist"
	msgMotorTwoPropellers  = "motor %d has two propellers"
	msgMotorNoPropeller    = "motor %d (%s) has no propeller"
	msgWrongPropeller      = "motor %d (%s) turns %s and carries a propeller for %s"
	msgPropellerChipped    = "the propeller on motor %d (%s) is chipped"
	msgDriftedTooFar       = "drifted %.1f m hands off in 10 s; expected %.1f m at most"
	msgHoverThrottleOff    = "hovers at %.0f %% throttle and did at %.0f %%; expected within a tenth"
	msgSoundsWrong         = "does not sound right"
	msgOutOfService        = "out of service: %s"
	msgStillToProve        = "still to be proven: %s"
	msgProvingFailed       = "failed its proving flight: %s"
)
