package air

import (
	"errors"
	"math"
	"time"

	"maestrale/core/field"
)

// The spans over which a wind is told. The gust is the highest mean over 3 s
// within the span, and the longer span is the 10 minutes of WMO-No. 8, Guide to
// Instruments and Methods of Observation, part I, chapter 5.
const (
	ShortSpan = 2 * time.Minute
	LongSpan  = 10 * time.Minute
	GustSpan  = 3 * time.Second
)

const (
	slot = time.Second
	// mostASecond is how many sentences a second are listened to; the fastest
	// meters send twenty.
	mostASecond = 25
	// stuckAfter is how long a meter may say the very same before it is doubted;
	// moving air never does.
	stuckAfter = 3 * time.Minute
)

// second is what was heard within one second.
type second struct {
	at   int64 // unix
	n    int
	mps  float64 // sum
	x, y float64 // sums of the unit vectors of where it comes from
}

// Meter holds what a wind meter said in the last ten minutes. Its memory does
// not grow with how much the meter says. The zero Meter is ready.
type Meter struct {
	ring    [int(LongSpan/slot) + 2]second
	last    time.Time // when the newest sound sentence came
	same    Heard
	since   time.Time // since when it has said the same
	Sound   uint64    // sentences taken
	Dropped uint64    // lines that were no sound sentence
	Flooded uint64    // sound sentences beyond mostASecond
	Why     string    // what was wrong with the newest dropped line
}

// Hear takes one line that came at a moment. It tells whether it was a sound
// wind sentence; what is not is counted and dropped.
func (m *Meter) Hear(line string, at time.Time) bool {
	h, err := ParseMWV(line)
	if errors.Is(err, ErrOther) {
		return false
	}
	if err != nil {
		m.Drop(err.Error())
		return false
	}
	m.Take(h, at)
	return true
}

// Drop counts a line that could not be read.
func (m *Meter) Drop(why string) {
	m.Dropped++
	m.Why = why
}

// Take takes one wind that was heard at a moment. Moments do not go back: a
// clock that was set back starts the ten minutes anew.
func (m *Meter) Take(h Heard, at time.Time) {
	if at.Before(m.last) {
		m.ring, m.since = [len(m.ring)]second{}, time.Time{}
	}
	s := &m.ring[at.Unix()%int64(len(m.ring))]
	if s.at != at.Unix() {
		*s = second{at: at.Unix()}
	}
	m.last = at
	if s.n >= mostASecond {
		m.Flooded++
		return
	}
	if h != m.same || m.since.IsZero() || h.Mps == 0 {
		m.same, m.since = h, at
	}
	sin, cos := math.Sincos(float64(h.From))
	s.n++
	s.mps += h.Mps
	s.x += h.Mps * sin
	s.y += h.Mps * cos
	m.Sound++
}

// Span is the wind over a time.
type Span struct {
	Seconds int // in which something was heard; 0 = nothing is known
	Mean    float64
	Gust    float64
	From    field.Angle // of the mean vector
	Steady  float64     // length of the mean vector over the mean speed: 1 = one direction, 0 = from everywhere
}

// Over returns the wind over the span that ends at a moment. The mean is of the
// speeds (scalar), the direction that of the mean vector; each second weighs the
// same however often the meter speaks.
func (m *Meter) Over(span time.Duration, at time.Time) Span {
	var out Span
	var x, y float64
	now := at.Unix()
	for back := range int64(span / slot) {
		mps, sx, sy, ok := m.secondAt(now - back)
		if !ok {
			continue
		}
		out.Seconds++
		out.Mean += mps
		x += sx
		y += sy
		if g := m.gustEnding(now - back); g > out.Gust {
			out.Gust = g
		}
	}
	if out.Seconds == 0 {
		return Span{}
	}
	out.Mean /= float64(out.Seconds)
	out.From = field.Angle(math.Atan2(x, y)).Wrap()
	if out.Mean > 0 {
		out.Steady = math.Min(1, math.Hypot(x, y)/float64(out.Seconds)/out.Mean)
	}
	out.Gust = math.Max(out.Gust, out.Mean)
	return out
}

// secondAt is the mean of a second and its direction as a vector; ok is false
// where nothing was heard in it.
func (m *Meter) secondAt(unix int64) (mps, x, y float64, ok bool) {
	s := &m.ring[((unix%int64(len(m.ring)))+int64(len(m.ring)))%int64(len(m.ring))]
	if s.at != unix || s.n == 0 {
		return 0, 0, 0, false
	}
	n := float64(s.n)
	return s.mps / n, s.x / n, s.y / n, true
}

// gustEnding is the mean over the gust's span that ends with a second; of a
// meter that speaks less often, what was heard in it.
func (m *Meter) gustEnding(unix int64) float64 {
	sum, n := 0.0, 0
	for back := range int64(GustSpan / slot) {
		if v, _, _, ok := m.secondAt(unix - back); ok {
			sum += v
			n++
		}
	}
	if n == 0 {
		return 0
	}
	return sum / float64(n)
}

// Last returns when the newest sound sentence came, zero for never.
func (m *Meter) Last() time.Time { return m.last }

// Stuck tells that the meter has said the very same for too long to be true.
func (m *Meter) Stuck() bool { return !m.since.IsZero() && m.last.Sub(m.since) >= stuckAfter }

// readFor is how long a wind that somebody read stands for.
const readFor = 30 * time.Minute

// Near tells whether a reading may go into the record of a moment that lies so far
// from it, before or after.
func Near(apart time.Duration) bool { return apart.Abs() < readFor }

// Fresh tells whether a wind of a moment may be shown as the wind of now: a
// meter's for 20 s, one that somebody read and typed for half an hour.
func Fresh(age time.Duration, metered bool) bool {
	if metered {
		return age <= 20*time.Second
	}
	return age <= readFor
}
