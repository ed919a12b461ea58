package score

// Code names a kind of fault. It is written into results and records, so a code
// that has shipped never changes its text.
type Code string

// The fault codes are one set for all sources of evidence: a log, a simulator
// run and an eye.
//
//   - place and attitude: LeftBox, Height, Nose, CrossTrack, Fence
//   - what a figure or a turn came to: Speed, Rest, Overshoot, WrongWay, Uneven, Crossing, AngleOff, Order
//   - the touchdown: Offset, Sink, Tilt, Bounce
//   - time and control: Late, TimeOut, Lost, Crash
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

// codes are the fault codes with the words for a fault that an eye marked, and
// so has no figure. The words for a fault with a figure stand beside what
// measures it, in faultWords of the kind of step.
var codes = []struct {
	Code
	seen     string
	directed bool // the direction is said if there is one
}{
	{LeftBox, msgLeftBox, true},
	{Height, msgLostHeight, true},
	{Nose, msgNoseWrongDirection, true},
	{CrossTrack, msgOffLine, true},
	{Speed, msgWrongSpeed, false},
	{Rest, msgRestedTooShort, true},
	{Overshoot, msgTurnedTooFar, false},
	{WrongWay, msgTurnedWrongWay, false},
	{Uneven, msgUnequalHalves, false},
	{Crossing, msgCrossedOffCentre, false},
	{AngleOff, msgWrongAngle, false},
	{Order, msgFlownBackwards, false},
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

// Codes lists every fault code that a person may mark, in the order in which
// the pad offers them.
var Codes = func() []Code {
	var out []Code
	for _, c := range codes {
		out = append(out, c.Code)
	}
	return out
}()

// towardWords say in which direction a place was left, as it follows the name
// of the fault. The directions are the pilot's: "toward" and "away" are seen
// from the station.
var towardWords = map[string]string{"left": msgDirectionLeft, "right": msgDirectionRight, "toward": " toward you",
	"away": msgDirectionAway, "up": " upward", "down": " downward"}

// marked puts a fault without a figure into words; at is when it was, as
// written. A code that is not in the table, from a newer version, is said as it
// stands.
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
