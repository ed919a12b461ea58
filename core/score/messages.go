package score

// What an attempt is talked about first.
const (
	msgTightest = "Everything stayed within its limits. In step %[1]d the %[2]s came nearest to its limit: %[3]s of %[4]s."
	msgTighten  = "Fly it again and leave more room there."
	msgUnjudged = "In step %[1]d, %[2]s, the limit of the %[3]s was not judged: %[4]s."
)

// stepWords are the kinds of steps as a person says them.
var stepWords = map[string]string{"takeoff": "take-off", "hold": "hold", "turn": "turn", "land": "landing",
	"goto": "flight to a place", "path": "path", "stop": "stop", "return": "return home", "regain": "recovery",
	"motors": "motors"}

// advice is what to do about a fault, by its kind.
var advice = map[Code]string{
	LeftBox:    "Look at the craft and the marker together, and correct early with small movements.",
	Height:     "Glance at the height more often, and hold the throttle steady.",
	Nose:       "Check where the nose points before each correction, and turn it with small movements.",
	CrossTrack: "Choose a point beyond the next marker and fly toward it; correct before the line is lost.",
	Speed:      "Keep the speed even: a little forward stick, held still.",
	Rest:       "Stop fully and count the seconds before you fly on.",
	Overshoot:  "Begin to slow down earlier, and stop with a gentle opposite movement.",
	WrongWay:   "Say aloud which way the nose points before you move a stick.",
	Uneven:     "Fly both halves with the same bank, and look at the far side before you turn.",
	Crossing:   "Aim for the centre each time, and look at it before the turn ends.",
	AngleOff:   "Climb and fly forward at a constant rate; look at both ends of the slope first.",
	Order:      "Walk the path once with a finger before you fly it.",
	Offset:     "Stop over the pad before you descend, and descend straight down.",
	Sink:       "Slow the descent over the last metre.",
	Tilt:       "Level the craft and let it settle before it touches.",
	Bounce:     "Close the throttle fully as it touches.",
	Late:       "Keep the fingers on the sticks and expect the call.",
	Lost:       "Stop and hold height first; then find out where the nose points.",
	Crash:      "Talk through what happened before anybody flies again.",
	TimeOut:    "Fly each step as soon as the one before it is done.",
	Fence:      "Turn back well before the fence.",
}

// adviceToward is what to do about a fault by where the craft was lost to.
var adviceToward = map[Code]map[string]string{
	LeftBox: {
		"left":   "It drifts to the left: correct to the right early, with small movements.",
		"right":  "It drifts to the right: correct to the left early, with small movements.",
		"away":   "It drifts away from you: pull it back early, with small movements.",
		"toward": "It drifts toward you: push it away early, with small movements.",
	},
	Height: {
		"up":   "It climbs: ease the throttle and glance at the height more often.",
		"down": "It sinks: add a little throttle and glance at the height more often.",
	},
}

// viewOf is the drawing on which a fault is seen.
var viewOf = map[Code]Picture{LeftBox: PlanView, Height: HeightView, Nose: NoseView, CrossTrack: PlanView,
	Speed: TimeView, Rest: TimeView, Overshoot: PlanView, WrongWay: PlanView, Uneven: PlanView, Crossing: PlanView,
	AngleOff: HeightView, Order: PlanView, Offset: PlanView, Sink: HeightView, Late: TimeView, Lost: PlanView,
	Crash: PlanView, TimeOut: TimeView, Fence: PlanView}
