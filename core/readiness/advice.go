package readiness

import (
	"fmt"
	"math"
	"slices"
	"time"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
)

// Feeling is how a student says to feel: calm, tense or shaken.
type Feeling string

// The feelings.
const (
	Calm   Feeling = "calm"
	Tense  Feeling = "tense"
	Shaken Feeling = "shaken"
)

// Advice is a quiet line for the instructor, with the rule that it comes from.
// It decides nothing.
type Advice struct {
	// Kind orders and names the line; Rule says why it is there.
	Kind  string // stuck, tired, shaken, tense or side
	Drill string // to go back to, of stuck
	Words string
	Rule  string
}

// The rules.
const (
	stuckFails   = 3 // fails of one rung in a session
	tiredLeast   = 5 // attempts with a margin before their fall means anything
	tiredNewest  = 8
	tiredFall    = 0.04 // of margin an attempt
	tiredChance  = 0.1  // at most, that margins without a trend fall so evenly
	sameSideMost = 4    // attempts on one side in a row
)

// Advise looks at what a student flew in one session, and how the student
// feels, and says what an instructor may want to see. The session is the
// attempts of one date, corrected ones left out (Session). Void attempts and
// those in the simulator say nothing. Lines come in the order in which they
// matter.
func Advise(session []record.Attempt, feels Feeling, drills map[string]drill.Drill) (out []Advice) {
	var flown []record.Attempt
	for _, a := range session {
		if a.Verdict != score.Void && a.Source != score.Sim {
			flown = append(flown, a)
		}
	}
	slices.SortStableFunc(flown, func(a, b record.Attempt) int { return a.At.Compare(b.At) })
	switch feels {
	case Shaken:
		out = append(out, Advice{Kind: "shaken", Words: msgShaken,
			Rule: msgShakenRule})
	case Tense:
		out = append(out, Advice{Kind: "tense", Words: msgTense,
			Rule: msgTenseRule})
	}
	if len(flown) == 0 {
		return out
	}
	out = append(out, stuck(flown, drills)...)
	if a, ok := tired(flown); ok {
		out = append(out, a)
	}
	if a, ok := oneSided(flown, drills); ok {
		out = append(out, a)
	}
	return out
}

// stuck finds the cell that was flown last, failed stuckFails times in the
// session and not passed since: back to the drill that builds it.
func stuck(flown []record.Attempt, drills map[string]drill.Drill) []Advice {
	last := flown[len(flown)-1]
	fails := 0
	for _, a := range flown {
		if a.Drill != last.Drill || a.Side != last.Side || a.Aids != last.Aids || a.Level != last.Level {
			continue
		}
		if a.Verdict == score.Pass {
			fails = 0
		} else {
			fails++
		}
	}
	if fails < stuckFails {
		return nil
	}
	d := drills[last.Drill]
	a := Advice{Kind: "stuck", Words: fmt.Sprintf(msgStuckLeave, titleOf(d, last), fails),
		Rule: msgStuckRule}
	if len(d.Builds) > 0 {
		a.Drill = d.Builds[0]
		a.Words = fmt.Sprintf(msgStuckGoBack, titleOf(d, last), fails,
			titleOf(drills[a.Drill], record.Attempt{Drill: a.Drill, Side: field.NoSide}))
	}
	return []Advice{a}
}

// titleOf names the drill of an attempt with its side; one that is not known
// goes by its key.
func titleOf(d drill.Drill, a record.Attempt) string {
	t := d.Title
	if t == "" {
		t = a.Drill
	}
	if a.Side != field.NoSide && a.Side != "" {
		t += ", " + string(a.Side)
	}
	return t
}

// tired tells whether the margins of the newest attempts fall, and more than
// chance would have it: the slope is the median of the slopes of all pairs
// (Theil, 1950; Sen, JASA 63 (1968) 1379), and the order is held to the test of
// Mann (Econometrica 13 (1945) 245) with its exact distribution. Fewer than
// tiredLeast attempts with a margin tell nothing.
func tired(flown []record.Attempt) (Advice, bool) {
	var m []float64
	for _, a := range flown {
		if a.Margin != nil {
			m = append(m, *a.Margin)
		}
	}
	if len(m) > tiredNewest {
		m = m[len(m)-tiredNewest:]
	}
	n := len(m)
	if n < tiredLeast {
		return Advice{}, false
	}
	var slopes []float64
	s := 0
	for i := range m {
		for j := i + 1; j < n; j++ {
			slopes = append(slopes, (m[j]-m[i])/float64(j-i))
			switch {
			case m[j] < m[i]:
				s++
			case m[j] > m[i]:
				s--
			}
		}
	}
	slices.Sort(slopes)
	// The median slope is moved little by one odd attempt.
	slope := slopes[len(slopes)/2]
	if slope > -tiredFall || fallsByChance(n, s) > tiredChance {
		return Advice{}, false
	}
	return Advice{Kind: "tired",
		Words: fmt.Sprintf(msgTired, n, -slope),
		Rule:  msgTiredRule}, true
}

// fallsByChance is the chance that n values without a trend have s more falling
// pairs than rising ones, or more. It counts the orders of n values by their
// inversions: adding the k-th value makes 0 to k−1 more, each as often.
func fallsByChance(n, s int) float64 {
	pairs := n * (n - 1) / 2
	ways := make([]float64, pairs+1)
	// ways[i] is the share of the orders of k values that have i inversions.
	ways[0] = 1
	for k := 2; k <= n; k++ {
		next := make([]float64, pairs+1)
		for i, w := range ways {
			for j := 0; j < k && i+j <= pairs; j++ {
				next[i+j] += w / float64(k)
			}
		}
		ways = next
	}
	p := 0.0
	for i, w := range ways {
		if 2*i-pairs >= s {
			p += w
		}
	}
	return math.Min(1, p)
}

// oneSided tells whether a drill with two sides was flown on one side alone,
// sameSideMost times in a row.
func oneSided(flown []record.Attempt, drills map[string]drill.Drill) (Advice, bool) {
	last := flown[len(flown)-1]
	if last.Side == field.NoSide {
		return Advice{}, false
	}
	n := 0
	for _, a := range slices.Backward(flown) {
		if a.Drill != last.Drill || a.Side != last.Side {
			break
		}
		n++
	}
	if n < sameSideMost {
		return Advice{}, false
	}
	return Advice{Kind: "side", Words: fmt.Sprintf(msgOneSided, titleOf(drills[last.Drill],
		last), n), Rule: "sides alternate"}, true
}

// Session returns the attempts of the date of a moment, in a zone, up to that
// moment, without those that were corrected, in the order of the list.
func Session(list []record.Attempt, at time.Time, zone *time.Location) (out []record.Attempt) {
	// An attempt that was corrected gives way, wherever its correction stands
	// in the list.
	day, gone := dayNumber(at, zone), map[string]bool{}
	for _, a := range list {
		gone[a.Corrects] = true
	}
	for _, a := range list {
		if dayNumber(a.At, zone) == day && !a.At.After(at) && !gone[a.ID] {
			out = append(out, a)
		}
	}
	return out
}
