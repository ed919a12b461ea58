package orient

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"maestrale/core/field"
)

// Instructors teach different rules for a lost craft, and argue. They are flown
// here against each other, with the same eyes and the same craft.

// School is a rule by which a lost craft is brought home.
type School string

// The schools, and what is expected to be best.
const (
	Expected     School = "expected"
	ReadTheLine  School = "read"
	HangStill    School = "turn"
	FinishSquare School = "square"
)

// Schools lists them.
var Schools = []School{Expected, ReadTheLine, HangStill, FinishSquare}

// Words say the rule in a few words.
func (s School) Words() string {
	return map[School]string{
		Expected:     msgSchoolBestInput,
		ReadTheLine:  msgSchoolReadLine,
		HangStill:    msgSchoolTurn,
		FinishSquare: msgSchoolSquare,
	}[s]
}

// How says how it is flown.
func (s School) How() string {
	return map[School]string{
		Expected:     msgSchoolBestInputHow,
		ReadTheLine:  msgSchoolReadLineHow,
		HangStill:    msgSchoolTurnHow,
		FinishSquare: msgSchoolSquareHow,
	}[s]
}

// givesUpS is after how many seconds a pilot gives up.
const givesUpS = 120.0

// look is what an eye sees of a craft at an aspect, drawn as the model says.
func look(r *rand.Rand, e Eye, aspect, push float64) Seen {
	if r.Float64() < e.Lapse {
		return Sights[r.IntN(5)]
	}
	unit := e.AirspeedMps / e.DistanceM
	x := e.rate(aspect, push) + e.Error*unit*r.NormFloat64()
	edge := math.Max(e.ThresholdRps, full*unit)
	switch {
	case x < -edge:
		return FullLeft
	case x < -e.ThresholdRps:
		return SlowLeft
	case x < e.ThresholdRps:
		return None
	case x < edge:
		return SlowRight
	}
	return FullRight
}

// turned is an aspect after a yaw by hand, which is off by a tenth of it.
func turned(r *rand.Rand, aspect, by float64) float64 {
	sd := math.Max(0.5*math.Pi/180, math.Abs(by)/10)
	return aspect + by + sd*r.NormFloat64()
}

// lostCraft is a craft that is lost at an aspect, and its pilot's eye.
type lostCraft struct {
	r              *rand.Rand
	e              Eye
	aspect, push   float64
	distance, lost float64
	from           float64 // the distance at which it was lost
	t              float64
}

// do makes an input for so many seconds: the craft goes where it goes, and the
// sight of it is returned.
func (c *lostCraft) do(in Input, seconds float64) Seen {
	switch in {
	case Forward:
		c.push = 1
	case Back:
		c.push = -1
	case YawLeft:
		c.aspect = turned(c.r, c.aspect, -float64(c.e.YawRate)*seconds)
	case YawRight:
		c.aspect = turned(c.r, c.aspect, float64(c.e.YawRate)*seconds)
	}
	// The aspect is that after the turn: how the craft went while it turned is
	// left out.
	c.distance += c.e.along(c.aspect, c.push) * seconds
	c.t += seconds
	c.lost = math.Max(c.lost, c.distance-c.from)
	e := c.e
	e.DistanceM = math.Max(5, c.distance)
	return look(c.r, e, c.aspect, c.push)
}

// over is at a third of the distance, or when the pilot gives up.
func (c *lostCraft) over() bool { return c.home() || c.t > givesUpS }

// home is at a third of the distance at which it was lost.
func (c *lostCraft) home() bool { return c.distance < c.from/3 }

// expected flies by what is expected: the posterior, and the input that is
// worth most.
func (c *lostCraft) expected() {
	f := NewFilter(c.e)
	for !c.over() {
		e := c.e
		e.DistanceM = math.Max(5, c.distance)
		p := f.Known()
		n := p.Next(e, c.push)
		if h, metres := p.WayHome(e, c.push, Horizon); metres >= n.Metres-worthALook {
			// Going home is worth as much as looking: turn, and push for a
			// second.
			in := YawRight
			if h.Turn < 0 {
				in = YawLeft
			}
			if h.Seconds > 0.1 {
				c.see(f, in, h.Seconds)
			}
			c.see(f, Forward, 1)
			continue
		}
		c.see(f, n.Input, n.Seconds)
	}
}

// see makes an input and takes what is seen of it into the filter.
func (c *lostCraft) see(f *Filter, in Input, seconds float64) {
	e := c.e
	e.DistanceM = math.Max(5, c.distance)
	switch in {
	case YawLeft:
		f.Turned(-e.YawRate * field.Angle(seconds))
	case YawRight:
		f.Turned(e.YawRate * field.Angle(seconds))
	}
	saw := c.do(in, seconds)
	f.Sees(e, c.push, 0, saw)
}

// reads flies by the line of sight: ahead, see, turn a quarter toward the side
// to which it goes where it goes fast and an eighth where it goes slowly. Where
// nothing is seen at first, it turns a quarter and looks again; else it comes
// home.
func (c *lostCraft) reads() {
	moved := false
	for !c.over() {
		switch c.do(Forward, 2) {
		case FullRight:
			moved = true
			c.do(YawRight, 1)
		case FullLeft:
			moved = true
			c.do(YawLeft, 1)
		case SlowRight:
			moved = true
			c.do(YawRight, 0.5)
		case SlowLeft:
			moved = true
			c.do(YawLeft, 0.5)
		default:
			if !moved {
				c.do(YawRight, 1)
			}
		}
	}
}

// pulses turns until the craft hangs still: some forward, then brief pulses of
// yaw toward the side to which it moves. Hanging still from the beginning, it
// gives a pulse to see.
func (c *lostCraft) pulses() {
	moved := false
	saw := c.do(Forward, 1.5)
	for !c.over() {
		switch {
		case strings.HasSuffix(string(saw), "right"):
			moved = true
			saw = c.do(YawRight, 0.4)
		case strings.HasSuffix(string(saw), "left"):
			moved = true
			saw = c.do(YawLeft, 0.4)
		case !moved:
			saw = c.do(YawRight, 0.8)
		default:
			saw = c.do(Forward, 1)
		}
	}
}

// squares flies a square, always turning to the right: the legs go away, to the
// right, nearer, to the left. After one that goes right the next comes home;
// after one that goes left three turns more do; where nothing is seen the next
// leg tells.
func (c *lostCraft) squares() {
	// Seconds of a quarter turn.
	quarter := float64(field.Degrees(90)) / float64(c.e.YawRate)
	for !c.over() {
		turns := 0
		switch saw := c.do(Forward, 2); {
		case strings.HasSuffix(string(saw), "right"):
			turns = 1
		case strings.HasSuffix(string(saw), "left"):
			turns = 3
		case c.t <= 2: // the first leg: it goes away, or comes
			turns = 1
		}
		for range turns {
			c.do(YawRight, quarter)
		}
	}
}

// Compared is what a school comes to over all aspects.
type Compared struct {
	School School
	MeanS  float64 // until it is at a third of the distance
	MostS  float64 // that nine of ten take at most
	LostM  float64 // farther than it was, in the mean
	Never  int     // that did not come home within two minutes
	Flown  int
}

// Compare flies every school from every tenth degree of aspect so many rounds,
// with eyes that err as the model says. The craft are made up, and the same
// ones for the same seed.
func Compare(e Eye, rounds int, seed uint64) (out []Compared) {
	fly := map[School]func(*lostCraft){Expected: (*lostCraft).expected, ReadTheLine: (*lostCraft).reads,
		HangStill: (*lostCraft).pulses, FinishSquare: (*lostCraft).squares}
	for _, s := range Schools {
		r := rand.New(rand.NewPCG(seed, 9))
		c := Compared{School: s}
		// Every school flies from the same aspects with the same chance.
		var took []float64
		for k := range 36 * rounds {
			one := &lostCraft{r: r, e: e, aspect: float64(k%36) * math.Pi / 18, distance: e.DistanceM, from: e.DistanceM}
			fly[s](one)
			took = append(took, one.t)
			c.MeanS += one.t
			c.LostM += one.lost
			if !one.home() {
				c.Never++
			}
		}
		c.Flown = len(took)
		n := float64(max(1, c.Flown))
		c.MeanS, c.LostM = c.MeanS/n, c.LostM/n
		if slices.Sort(took); len(took) > 0 {
			c.MostS = took[(9*len(took)-1)/10]
		}
		out = append(out, c)
	}
	return out
}

// Ranked are the schools that can be learnt by heart, the one that is home
// first before the others. The list itself is not changed.
func Ranked(list []Compared) []Compared {
	rules := slices.DeleteFunc(slices.Clone(list), func(c Compared) bool { return c.School == Expected })
	slices.SortStableFunc(rules, func(a, b Compared) int { return cmp.Compare(a.MeanS, b.MeanS) })
	return rules
}

// Teach says which school to teach when, from what they came to under several
// conditions, whose words are given: which of those that can be learnt by heart
// is home first, by how much, and what knowing the best input at each moment
// would save. It is empty unless words and all have one length of at least 1.
func Teach(words []string, all [][]Compared) string {
	if len(words) != len(all) || len(all) == 0 {
		return ""
	}
	type first struct {
		school School
		where  []string
		least  float64 // seconds before the next, at least and at most
		most   float64
		next   School
	}
	var firsts []*first
	saves := [2]float64{math.Inf(1), math.Inf(-1)}
	slowest := map[School][2]float64{}
	for i, list := range all {
		// The first two of those that can be learnt by heart are compared.
		rules := Ranked(list)
		a, b := rules[0], rules[1]
		k := slices.IndexFunc(firsts, func(f *first) bool { return f.school == a.School && f.next == b.School })
		if k < 0 {
			firsts = append(firsts, &first{school: a.School, next: b.School, least: math.Inf(1), most: math.Inf(-1)})
			k = len(firsts) - 1
		}
		f, by := firsts[k], b.MeanS-a.MeanS
		f.where, f.least, f.most = append(f.where, words[i]), math.Min(f.least, by), math.Max(f.most, by)
		for _, c := range list {
			if c.School == Expected {
				saves[0], saves[1] = math.Min(saves[0], a.MeanS-c.MeanS), math.Max(saves[1], a.MeanS-c.MeanS)
			}
		}
		last := rules[len(rules)-1]
		was, ok := slowest[last.School]
		if !ok {
			was = [2]float64{last.MeanS, last.MeanS}
		}
		slowest[last.School] = [2]float64{math.Min(was[0], last.MeanS), math.Max(was[1], last.MeanS)}
	}
	var says []string
	for _, f := range firsts {
		says = append(says, fmt.Sprintf(msgTeachFirst, strings.Join(f.where, ", "),
			f.school.Words(), between(f.least, f.most), f.next.Words()))
	}
	// Said only where it is the slowest everywhere.
	if s, ok := slowest[FinishSquare]; ok && len(slowest) == 1 {
		says = append(says, fmt.Sprintf(msgSquareTakes,
			between(s[0], s[1])))
	}
	says = append(says, fmt.Sprintf(msgBestInputSaves, between(math.Max(0, saves[0]),
		math.Max(0, saves[1]))))
	return strings.Join(says, " ")
}

// between says a range of seconds, as one figure where both ends round to it.
func between(low, high float64) string {
	if math.Round(low) == math.Round(high) {
		return fmt.Sprintf("%.0f s", low)
	}
	return fmt.Sprintf("%.0f to %.0f s", low, high)
}
