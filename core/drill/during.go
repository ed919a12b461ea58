package drill

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"

	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/yamldoc"
)

// During a hold or a path something may happen: a call to the pilot, or a
// failure that the simulator, or an instructor, lets happen. What is then
// judged is the answer.

// Happening is what happens to the pilot during a step, as written, and the
// answer that is expected.
type Happening struct {
	// Event is what happens.
	Event string // call, dodge-left, dodge-right, or an event of the simulator
	// AtS is in seconds from where the step could begin.
	AtS    float64
	Random bool   // at a moment that nobody knows, AtS at the latest
	Say    string // what is called out
	// Seconds and DistanceM are the limits of the answer.
	Seconds   Limit // in which it is answered
	DistanceM Limit // how far it may be carried; with FirstWay, how far it is to go
	// FirstWay is the direction of the answer; empty where the craft only has
	// to stop.
	FirstWay string // where the craft has to go, as seen from the station
	End      bool   // the step ends with the answer
}

// Due is a Happening with every limit a number, in seconds and metres; 0 asks
// for nothing.
type Due struct {
	Event, Say, FirstWay string
	// AtS is in seconds of the step; a random one at the latest.
	AtS               float64
	Random, End       bool
	Seconds, Distance float64
}

// Call tells whether it is a call to the pilot. False means that it befalls the
// craft.
func (d Due) Call() bool { return d.Event == "call" || strings.HasPrefix(d.Event, "dodge-") }

// Fly is the event as the simulator knows it: every call is "call" to it.
func (d Due) Fly() string {
	if d.Call() {
		return "call"
	}
	return d.Event
}

// Said is what the pilot hears; empty where nothing is said.
func (d Due) Said() string {
	if d.Say != "" {
		return d.Say
	}
	if side, ok := strings.CutPrefix(d.Event, "dodge-"); ok {
		return "Dodge " + side
	}
	if d.Event == "call" {
		return "Stop"
	}
	return ""
}

// ways are the directions in which an answer may have to go, as the pilot sees
// them.
var ways = []string{"left", "right", "toward", "away", "up", "down"}

// latest is when a random event happens at the latest, in seconds of the step,
// where the file does not say.
const latest = 8.0

// readDuring reads what happens during a step of a kind. What the pad and the
// scorer could not judge is refused: an answer in a step that has none, a
// direction without a distance, an end without an answer, and anything after an
// end.
func readDuring(n yamldoc.Node, kind Kind) []Happening {
	var out []Happening
	for _, item := range n.List() {
		m := item.Map()
		h := Happening{AtS: latest, Say: m.Get("say").Text()}
		// Calls have names of their own; everything else is an event that the
		// simulator knows.
		event := m.Need("event")
		if h.Event = event.Text(); h.Event != "" && !slices.Contains([]string{"call", "dodge-left", "dodge-right"}, h.Event) {
			e, err := flight.ParseEvent(h.Event)
			if err != nil || e.Kind == flight.Arm || e.Kind == flight.Disarm {
				event.Fail(fmt.Sprintf("event %q", h.Event), msgWantEvent)
			}
		}
		// A moment, or chance; without the key it is chance.
		if at := m.Get("at"); at.Present() && at.IsNumber() {
			h.AtS = at.Number(0, 600)
		} else if at.Present() {
			h.Random = at.Word("random") == "random"
		} else {
			h.Random = true
		}
		within := m.Get("within")
		w := within.Map()
		h.Seconds = readLimit(w.Get("seconds"), 0.1, 600)
		h.DistanceM = readLimit(w.Get("distance_m"), 0.05, 1000)
		// A dodge says its direction by its name.
		if f := w.Get("first_way"); f.Present() {
			h.FirstWay = f.Word(ways...)
		} else if side, ok := strings.CutPrefix(h.Event, "dodge-"); ok {
			h.FirstWay = side
		}
		w.Done()
		if t := m.Get("then"); t.Present() {
			h.End = t.Word("resume", "end") == "end"
		}
		// asks is whether an answer is judged at all.
		asks := h.Seconds.Set || h.DistanceM.Set
		switch {
		case (asks || h.End) && kind != Hold && kind != Path:
			item.Fail(fmt.Sprintf(msgNoAnswerInKind, kind), msgWantHoldOrPath)
		case h.FirstWay != "" && !h.DistanceM.Set:
			item.Fail(msgDirectionWithoutDistance, msgWantDistance)
		case h.End && !asks:
			item.Fail(msgEndsWithoutAnswer, msgWantSecondsOrDistance)
		case len(out) > 0 && out[len(out)-1].End:
			item.Fail(msgEventAfterEnd, msgWantEndLast)
		}
		m.Done()
		out = append(out, h)
	}
	return out
}

// layDuring makes the happenings of a step into numbers. num reads a limit for
// the class and scale is that of the level; the right version of a drill is the
// mirror image of the left.
func layDuring(all []Happening, side field.Side, num func(Limit, string, float64) float64, scale float64) []Due {
	var out []Due
	for _, h := range all {
		d := Due{Event: h.Event, Say: h.Say, FirstWay: h.FirstWay, AtS: h.AtS, Random: h.Random, End: h.End,
			Seconds: num(h.Seconds, "seconds", 1), Distance: num(h.DistanceM, "distance_m", scale)}
		if side == field.RightSide {
			d.FirstWay = mirrorWay(d.FirstWay)
			if w, ok := strings.CutPrefix(d.Event, "dodge-"); ok {
				d.Event = "dodge-" + mirrorWay(w)
			}
		}
		out = append(out, d)
	}
	return out
}

// mirrorWay swaps left and right in a direction; the others stay.
func mirrorWay(w string) string {
	switch w {
	case "left":
		return "right"
	case "right":
		return "left"
	}
	return w
}

// What says what happens, as whoever lets it happen reads it.
func (d Due) What() string {
	if said := d.Said(); said != "" {
		return said
	}
	e, err := flight.ParseEvent(d.Event)
	if err != nil {
		return d.Event
	}
	return e.Words()
}

// Words say what happens and what is asked: "On the call “Land”: stop within 2
// m, in 3 s".
func (d Due) Words() string {
	num := func(v float64) string { return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) }
	when := "Then " + d.What()
	switch {
	case d.Event == "call" && d.Say != "":
		when = fmt.Sprintf(msgOnCall, d.Say)
	case d.Event == "call":
		when = "On a call"
	case d.Call():
		when = fmt.Sprintf(msgOnCall, d.What())
	}
	var asks []string
	switch {
	case d.FirstWay != "":
		asks = append(asks, fmt.Sprintf("fly %s m %s", num(d.Distance), wayWords[d.FirstWay]))
	case d.Distance > 0:
		asks = append(asks, "stop within "+num(d.Distance)+" m")
	case d.Seconds > 0:
		asks = append(asks, "stop")
	}
	if d.Seconds > 0 {
		asks = append(asks, "in "+num(d.Seconds)+" s")
	}
	if len(asks) == 0 {
		return when
	}
	return when + ": " + strings.Join(asks, ", ")
}

// wayWords are the directions of an answer as they are read.
var wayWords = map[string]string{"left": msgToTheLeft, "right": msgToTheRight, "toward": "toward you", "away": "away",
	"up": "up", "down": "down"}

// Drawn returns the task with what its seed decides: the angles of random
// turns, whole steps of 15° from 45° to 315°, the moments of random events,
// when a call to stop comes, and how the nose lies in a lost orientation. The
// same seed always decides the same; t is not changed.
func (t Task) Drawn(seed uint64) Task {
	// A stream of its own, so that other draws from the same seed do not follow
	// it.
	r := rand.New(rand.NewPCG(seed, 0x6472696c6c)) //nolint:gosec // chance of a drill, not secrets
	t.Steps = slices.Clone(t.Steps)
	for i := range t.Steps {
		s := &t.Steps[i]
		if s.RandomTurn {
			s.By = s.Before + field.Degrees(45+15*float64(r.IntN(19)))
			if t.Side == field.LeftSide || (t.Side == field.NoSide && r.IntN(2) == 0) {
				s.By = -s.By
			}
		}
		s.During = slices.Clone(s.During)
		for j := range s.During {
			// From a quarter of the latest moment on, so that the step has
			// begun.
			if d := &s.During[j]; d.Random {
				// Not in the first quarter, when nothing is flown yet.
				d.AtS *= 0.25 + 0.75*r.Float64()
			}
		}
		if s.OnCall {
			s.AfterS = 2 + 3*r.Float64() // when the simulator calls; a log says it itself
		}
		// The nose lies anywhere, each direction as likely.
		if s.Kind == Regain {
			s.Spoilt = field.Angle((2*r.Float64() - 1) * math.Pi)
		}
	}
	return t
}
