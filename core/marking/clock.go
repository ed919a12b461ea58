package marking

import (
	"math"
	"time"
)

// clockOff is how far a device's clock may be off before its times are set
// right: less than that is the time that a request takes, and setting right by
// it would move an attempt for nothing.
const clockOff = 30 * time.Second

// Began is when an attempt of a device began: what the device says, set right
// by how far its clock is off now (off is the server's less the device's), and
// never later than now. The order is that of the device's own counter: the
// attempt comes after what the device counted before it, and before what it
// counted after it, whatever its clock did in between; nil is none. Where the
// two leave no room, it still comes after what went before.
func Began(deviceAt time.Time, off time.Duration, now time.Time, before, after *time.Time) time.Time {
	at := deviceAt
	if off.Abs() > clockOff {
		at = at.Add(off)
	}
	if at.After(now) {
		at = now
	}
	if after != nil && !at.Before(*after) {
		at = after.Add(-time.Millisecond)
	}
	if before != nil && !at.After(*before) {
		at = before.Add(time.Millisecond)
	}
	return at
}

// Stretch is a span in which the clocks of a device ran side by side. A device
// notes them, so that the moments of its marks can be told later, whatever was
// done to its clock in between. Times are milliseconds; a device hands its
// stretches over oldest first.
//
// Mono is the clock of a page: it runs evenly, is never set, and begins anew
// with each page. Wall is the device's date and time, which people set.
type Stretch struct {
	ID  string `json:"id"`
	Cut string `json:"cut"` // how it began: a Cut
	// Wall less Mono, in this stretch.
	WallMs float64 `json:"wall_ms"`
	// The server's clock less Mono, as one request and its answer showed; null
	// where the server was not reached.
	ServerMs *float64 `json:"server_ms"`
	RoundMs  float64  `json:"round_ms"` // from that request to its answer
}

// How a stretch begins.
const (
	CutOpened = "opened" // the page was opened: Mono begins anew, and Wall is believed to have gone on
	CutSlept  = "slept"  // the device slept: Mono stood still, and Wall is believed to have gone on
	CutSet    = "set"    // somebody set the clock: Mono went on
)

// Moment is when something happened, by the server's clock.
type Moment struct {
	At    time.Time
	Known bool          // it follows from contacts with the server; otherwise it is the best guess
	Sure  time.Duration // by how much it may be off, where it is known
}

// agree is how far two ways of telling a moment may differ to be one: the time
// that requests take on a slow line.
const agree = 2 * time.Second

// run is a group of stretches in which Mono went on, with its clocks as they
// stood at its beginning and at its end.
type run struct {
	first, last float64  // Wall less Mono
	server      *float64 // less Mono, by the quickest contact
	round       float64
	met         int  // stretches before the first contact
	jumped      bool // Wall jumped forward before it
	stretches   int
}

// DateOf tells the moment at which Mono showed monoMs in the stretch id. Where
// the server was reached while Mono ran, it follows at once. Elsewhere Wall is
// followed from the contact before and from the contact after; where both say
// the same, nobody set the clock in between. Where they differ, somebody did
// while the page was closed, and nothing on the device tells when: the moment
// is then a guess, and of two guesses the one that lies between the contacts.
// It is false for a stretch that the device did not hand over.
func DateOf(list []Stretch, id string, monoMs float64) (Moment, bool) {
	var runs []run
	at, in := -1, 0 // the run that the stretch is in, and its place there
	for _, s := range slept(list) {
		if s.Cut != CutSet || len(runs) == 0 {
			runs = append(runs, run{first: s.WallMs, last: s.WallMs})
		}
		r := &runs[len(runs)-1]
		if r.server == nil {
			r.met = r.stretches
			r.jumped = r.jumped || s.WallMs > r.last+ms(agree)
		}
		r.stretches++
		r.last = s.WallMs
		if s.ServerMs != nil && (r.server == nil || s.RoundMs < r.round) {
			r.server, r.round = s.ServerMs, s.RoundMs
		}
		if s.ID == id {
			at, in = len(runs)-1, r.stretches-1
		}
	}
	if at < 0 || !finite(monoMs) {
		return Moment{}, false
	}
	if r := runs[at]; r.server != nil {
		// A jump forward before the first contact is a clock that was set, or a
		// sleep that went unnoticed. What the date and time said before it
		// decides; where they contradict, it is a guess.
		if fore, ok := wallBefore(runs, at); ok && r.jumped && in < r.met && math.Abs(fore-*r.server) > ms(agree) {
			return Moment{At: moment(fore + monoMs)}, true
		}
		return Moment{moment(*r.server + monoMs), true, time.Duration(r.round / 2 * float64(time.Millisecond))}, true
	}
	fore, isFore := wallBefore(runs, at)
	back, isBack := wallAfter(runs, at)
	switch {
	case !isFore && !isBack:
		return Moment{At: moment(runs[at].first + monoMs)}, true
	case !isBack:
		return Moment{At: moment(fore + monoMs)}, true
	case !isFore:
		return Moment{At: moment(back + monoMs)}, true
	}
	a, b := moment(fore+monoMs), moment(back+monoMs)
	if apart := a.Sub(b).Abs(); apart <= agree {
		return Moment{a, true, apart}, true
	}
	if next := nextContact(runs, at); a.After(next) {
		return Moment{At: b}, true
	}
	return Moment{At: a}, true
}

// slept finds the stretches that began with a sleep that the device did not
// notice. It took the jump of its date and time for somebody who set them; but
// after a sleep the server's clock less Mono is another one. Of the jumps
// forward between two contacts that contradict each other, the one is meant
// that is as large as the contradiction. The list is copied.
func slept(list []Stretch) []Stretch {
	out := append([]Stretch{}, list...)
	known := -1 // the newest stretch with a contact, while Mono went on
	for i := range out {
		if out[i].Cut != CutSet {
			known = -1
		}
		if out[i].ServerMs == nil {
			continue
		}
		if known >= 0 {
			if gap := *out[i].ServerMs - *out[known].ServerMs; gap > ms(agree) {
				best, miss := i, math.Inf(1)
				for k := known + 1; k <= i; k++ {
					if m := math.Abs(out[k].WallMs - out[k-1].WallMs - gap); m < miss {
						best, miss = k, m
					}
				}
				out[best].Cut = CutSlept
			}
		}
		known = i
	}
	return out
}

// ms is a duration in milliseconds.
func ms(d time.Duration) float64 { return float64(d) / float64(time.Millisecond) }

// wallBefore is the server's clock less Mono in the run at, in milliseconds, by
// the newest contact before it; ok is false where there was none.
func wallBefore(runs []run, at int) (float64, bool) {
	for i := at - 1; i >= 0; i-- {
		if runs[i].server == nil {
			continue
		}
		server := *runs[i].server
		for k := i + 1; k <= at; k++ { // from one run to the next Wall goes on
			server += runs[k].first - runs[k-1].last
		}
		return server, true
	}
	return 0, false
}

// wallAfter is the same by the first contact after the run.
func wallAfter(runs []run, at int) (float64, bool) {
	for i := at + 1; i < len(runs); i++ {
		if runs[i].server == nil {
			continue
		}
		server := *runs[i].server
		for k := i; k > at; k-- {
			server += runs[k-1].last - runs[k].first
		}
		return server, true
	}
	return 0, false
}

// nextContact is a moment before which everything in a run happened: the
// beginning of the page that reached the server after it. It is zero where none
// did.
func nextContact(runs []run, at int) time.Time {
	for _, r := range runs[at+1:] {
		if r.server != nil {
			return moment(*r.server)
		}
	}
	return time.Time{}
}

// moment is the time of so many milliseconds since 1970.
func moment(ms float64) time.Time { return time.UnixMicro(int64(ms * 1000)).UTC() }

// finite tells whether a number of milliseconds can be a time.
func finite(v float64) bool { return !math.IsNaN(v) && math.Abs(v) < 1e15 }
