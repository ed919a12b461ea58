package score

// Code names a kind of fault.
type Code string

// The fault codes, one set for all sources.
const (
	LeftBox    Code = "left-box"
	Height     Code = "height"
	Nose       Code = "nose"
	CrossTrack Code = "cross-track"
	Speed      Code = "speed"
	Rest       Code = "rest"
	Overshoot  Code = "overshoot"
	WrongWay   Code = "wrong-way"
	Uneven     Code = "uneven"
	Crossing   Code = "crossing"
	AngleOff   Code = "angle"
	Order      Code = "order"
	Offset     Code = "offset"
	Sink       Code = "sink"
	Tilt       Code = "tilt"
	Bounce     Code = "bounce"
	Late       Code = "late"
	Lost       Code = "lost"
	Crash      Code = "crash"
	TimeOut    Code = "time-out"
	Fence      Code = "fence"
)

// codes are the fault codes and how a fault without a figure, as an eye marks it, is said. The words of a fault with
// a figure are beside what measures it.
var codes = []struct {
	Code
	seen     string
	directed bool // the direction is said if there is one
}{
	{LeftBox, msgLeftBox, true},
	{Height, msgLostHeight, true},
	{Nose, msgNoseWrongDirection, true},
	{CrossTrack, msgOffLine, true},
	{Speed, msgTooFastOr, false},
	{Rest, msgRestedTooShort, true},
	{Overshoot, msgTurnedTooFar, false},
	{WrongWay, msgTurnedWrongWay, false},
	{Uneven, msgLobesOrEnds, false},
	{Crossing, msgCrossedOffCentre, false},
	{AngleOff, msgWrongSlopeOr, false},
	{Order, msgFlownWrongDirection, false},
	{Offset, msgLandedOffPad, true},
	{Sink, msgTouchedDownHard, false},
	{Tilt, msgTouchedDownLeaning, false},
	{Bounce, "bounced", false},
	{Late, "late", true},
	{Lost, "orientation lost", false},
	{Crash, "crash", true},
	{TimeOut, msgTookTooLong, true},
	{Fence, msgCrossedFence, true},
}

// Codes lists every fault code that a person may mark.
var Codes = func() []Code {
	var out []Code
	for _, c := range codes {
		out = append(out, c.Code)
	}
	return out
}()

// towardWords say in which direction a place was left.
var towardWords = map[string]string{"left": msgThenToTheLeft, "right": msgThenToTheRight, "toward": " toward you",
	"away": msgThenAwayFromYou, "up": " upward", "down": " downward"}

// marked says a fault that an eye saw, without a figure.
func (f Fault) marked(at string) string {
	for _, c := range codes {
		if c.Code != f.Code {
			continue
		}
		if c.directed {
			return c.seen + towardWords[f.Toward] + " " + at
		}
		return c.seen + " " + at
	}
	return string(f.Code) + towardWords[f.Toward] + " " + at
}
