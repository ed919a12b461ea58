package readiness

import (
	"fmt"
	"time"

	"maestrale/core/drill"
)

// Need is why a student needs attention. The needs are ordered: the first that
// holds is said.
type Need int

// The needs, the most urgent first.
const (
	NeedLapsing Need = iota // something that a signed gate rests on ends within LapsesSoon
	NeedStuck               // the lowest rung that is not held was tried StuckTries times or more
	NeedReady               // a gate can be signed, or NearAttempts attempts would close it
	NeedAbsent              // not flown for AbsentAfter
	NeedNothing             // comes along
	NeedFirst               // has not flown yet
)

// What a need is measured by.
const (
	NearAttempts = 6                   // a gate that so many attempts would close is near
	LapsesSoon   = 14 * 24 * time.Hour // what ends within this lapses soon
	StuckTries   = 12                  // attempts at one item that is still not held
	AbsentAfter  = 21 * 24 * time.Hour
)

// Attention is why a student needs attention, in a sentence; empty words where
// nothing does.
type Attention struct {
	// Need is NeedNothing for a student who comes along.
	Need  Need
	Words string
	By    time.Time // of NeedLapsing: when it ends
}

// Attend tells why a student needs attention at a moment. last is when they
// last flew, the zero time for never. Dates are said in the zone of now.
func (o *Overview) Attend(cat *drill.Catalogue, last, now time.Time) Attention {
	for _, pick := range []func(*drill.Catalogue, time.Time) (Attention, bool){o.lapsing, o.stuck, o.ready} {
		if a, ok := pick(cat, now); ok {
			return a
		}
	}
	switch {
	case last.IsZero():
		return Attention{Need: NeedFirst, Words: msgNeverFlew}
	case now.Sub(last) > AbsentAfter:
		return Attention{Need: NeedAbsent, Words: fmt.Sprintf(msgAbsent, int(now.Sub(last).Hours()/24))}
	}
	return Attention{Need: NeedNothing}
}

// lapsing finds the signed gate that ends first, if that is within LapsesSoon.
func (o *Overview) lapsing(cat *drill.Catalogue, now time.Time) (Attention, bool) {
	a, ok := Attention{Need: NeedLapsing}, false
	for _, g := range o.Gates {
		if g.NotFor || g.State != GateSigned || g.Ends.IsZero() || g.Ends.After(now.Add(LapsesSoon)) {
			continue
		}
		if !ok || g.Ends.Before(a.By) {
			ok, a.By = true, g.Ends
			a.Words = fmt.Sprintf(msgLapsing, cat.Gates[g.Key].Title, g.Ends.In(now.Location()).Format("2 January"))
		}
	}
	return a, ok
}

// stuck tells that the lowest item that is not held was tried StuckTries times
// or more.
func (o *Overview) stuck(cat *drill.Catalogue, _ time.Time) (Attention, bool) {
	if o.Next == nil || o.Tries < StuckTries {
		return Attention{}, false
	}
	return Attention{Need: NeedStuck, Words: fmt.Sprintf(msgStuck, cat.TitleOf(o.Next.Drill, o.Next.Side), o.Tries)}, true
}

// ready finds a gate that can be signed, or the one that fewest attempts would
// close if those are NearAttempts at most.
func (o *Overview) ready(cat *drill.Catalogue, _ time.Time) (Attention, bool) {
	least, words := NearAttempts+1, ""
	for _, g := range o.Gates {
		switch title := cat.Gates[g.Key].Title; {
		case g.NotFor || g.State == GateSigned:
		case g.State == GateReady:
			return Attention{Need: NeedReady, Words: fmt.Sprintf(msgReady, title)}, true
		case g.Attempts > 0 && g.Attempts < least:
			least, words = g.Attempts, fmt.Sprintf(msgNear, title, g.Attempts)
			if g.Attempts == 1 {
				words = fmt.Sprintf(msgNearOne, title)
			}
		}
	}
	return Attention{Need: NeedReady, Words: words}, words != ""
}
