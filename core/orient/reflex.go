package orient

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"maestrale/core/field"
)

// What is asked of a pilot who cannot think: a craft at an aspect, and one
// thing that it should do. Each such item is learned and forgotten by itself,
// so each is asked again when it is about to be forgotten.

// Task is what is asked of a reflex.
type Task string

// The tasks: a direction in which the craft is to go, a drift that is to be
// stopped, and the tail that is to come to the pilot.
const (
	BringLeft   Task = "bring-left"
	BringRight  Task = "bring-right"
	BringNearer Task = "bring-nearer"
	SendAway    Task = "send-away"
	StopLeft    Task = "stop-left" // it drifts to the left
	StopRight   Task = "stop-right"
	StopNearer  Task = "stop-nearer"
	StopAway    Task = "stop-away"
	TurnTail    Task = "turn-tail"
)

// Tasks lists them.
var Tasks = []Task{BringLeft, BringRight, BringNearer, SendAway, StopLeft, StopRight, StopNearer, StopAway, TurnTail}

var towards = map[string]Toward{"left": Left, "right": Right, "nearer": Nearer, "away": Away}

// direction is the direction of a task in the pilot's eyes.
func (t Task) direction() Toward {
	_, word, _ := strings.Cut(string(t), "-")
	return towards[word]
}

// Drifts is the direction in which the craft drifts, in the pilot's eyes; not
// ok where it hangs still.
func (t Task) Drifts() (Toward, bool) { return t.direction(), strings.HasPrefix(string(t), "stop-") }

// Words say what is asked.
func (t Task) Words() string {
	switch {
	case t == TurnTail:
		return msgTaskTailToYou
	case strings.HasPrefix(string(t), "stop-"):
		return "Stop it"
	}
	return map[Task]string{BringLeft: msgTaskToYourLeft, BringRight: msgTaskToYourRight,
		BringNearer: msgTaskCloser, SendAway: msgTaskAway}[t]
}

// Item is a craft at an aspect, and what is asked: what is learned and
// forgotten by itself.
type Item struct {
	Task   Task
	Sector int // of the aspect ring, 0 tail-in, clockwise
}

// Key names the item.
func (i Item) Key() string { return fmt.Sprintf("%s/%d", i.Task, i.Sector) }

// ItemOf reads a key. The error says what a key looks like.
func ItemOf(key string) (Item, error) {
	task, sector, _ := strings.Cut(key, "/")
	var i Item
	if _, err := fmt.Sscanf(sector, "%d", &i.Sector); err != nil || !slices.Contains(Tasks, Task(task)) || i.Sector < 0 ||
		i.Sector >= field.Sectors || task == string(TurnTail) && i.Sector == 0 {
		return i, fmt.Errorf("the item is %.40q; expected a task and a sector as bring-left/5", key)
	}
	i.Task = Task(task)
	return i, nil
}

// Items lists every item.
func Items() (out []Item) {
	for _, t := range Tasks {
		for s := range field.Sectors {
			if t == TurnTail && s == 0 {
				continue // it is there
			}
			out = append(out, Item{t, s})
		}
	}
	return out
}

// Aspect is the middle of the item's sector.
func (i Item) Aspect() field.Angle {
	return field.Angle(2 * math.Pi * float64(i.Sector) / field.Sectors).Wrap()
}

// First is the first movement of the sticks: of the right hand, or the yaw.
type First struct{ Pitch, Roll, Yaw float64 }

// near is how far a first push may point from the right one: a key or a thumb has eight
// directions.
const near = 50.0

// Right tells whether a first movement is the right one. A wrong one counts as
// wrong also when it was mended afterwards: at the field the craft has gone by
// then.
func (i Item) Right(f First) bool {
	s := Stance{Heading: i.Aspect(), Frame: NoseFrame}
	// A turn is right when the yaw is the larger of the two hands' movements,
	// and goes the shorter way.
	if i.Task == TurnTail {
		way := TailToYou(s)
		nose := math.Abs(i.Aspect().Deg()) > 179 // either way is as short
		return math.Abs(f.Yaw) > math.Hypot(f.Pitch, f.Roll) && (nose || f.Yaw*float64(way) > 0)
	}
	// A push has to be more of a push than a turn.
	if math.Hypot(f.Pitch, f.Roll) <= math.Abs(f.Yaw) {
		return false
	}
	want, _ := Push(s, i.Task.direction())
	if _, stop := i.Task.Drifts(); stop {
		want, _ = Stop(s, i.Task.direction())
	}
	off := math.Atan2(f.Roll, f.Pitch) - math.Atan2(want.Roll, want.Pitch)
	return field.Angle(off).Wrap().Abs().Deg() <= near
}

// Answer is what came of an item once.
type Answer struct {
	Item    Item
	At      time.Time
	Seconds float64 // from the frame that was shown to the first movement
	Right   bool
}

// Quality grades an answer as SM-2 does, 0 to 5, by its reaction time: what was
// wrong is forgotten (1), what was right is kept the better the faster it came.
func (a Answer) Quality() int {
	switch {
	case !a.Right:
		return 1
	case a.Seconds <= 0.8:
		return 5
	case a.Seconds <= 1.3:
		return 4
	case a.Seconds <= 2.5:
		return 3
	}
	return 2
}

// Memory is how well an item is kept: SM-2 (Wozniak, Optimization of learning, 1990).
type Memory struct {
	Ease     float64 // the E-factor, 1.3 at least
	Reps     int     // right in a row
	Interval float64 // days
	Due      time.Time
}

// Fresh is the memory of what was never asked.
func Fresh() Memory { return Memory{Ease: 2.5} }

// After is the memory after an answer of a quality, at a time. Below 3 it
// begins anew with the ease that it has; the first interval is a day, the
// second six, then each is the one before times the ease.
func (m Memory) After(quality int, at time.Time) Memory {
	// The E-factor of SM-2: it falls after hard answers, and never under 1.3.
	q := float64(quality)
	if quality < 3 {
		m.Reps, m.Interval = 0, 0
	} else {
		m.Reps++
		switch m.Reps {
		case 1:
			m.Interval = 1
		case 2:
			m.Interval = 6
		default:
			m.Interval *= m.Ease
		}
	}
	m.Ease = math.Max(1.3, m.Ease+0.1-(5-q)*(0.08+(5-q)*0.02))
	m.Due = at.Add(time.Duration(m.Interval * 24 * float64(time.Hour)))
	return m
}

// Reflexes are a student's answers, and what they come to.
type Reflexes struct {
	memory  map[Item]Memory
	sectors [field.Sectors]tally
	last    Item
	n       int
}

// tally counts the answers of one sector.
type tally struct {
	n, right int
	seconds  float64 // of the right ones
}

// ReflexesOf reads answers in the order of time.
func ReflexesOf(list []Answer) *Reflexes {
	r := &Reflexes{memory: map[Item]Memory{}}
	for _, a := range list {
		r.Add(a)
	}
	return r
}

// Add takes in one answer more.
func (r *Reflexes) Add(a Answer) {
	m, ok := r.memory[a.Item]
	if !ok {
		m = Fresh()
	}
	r.memory[a.Item] = m.After(a.Quality(), a.At)
	s := &r.sectors[a.Item.Sector]
	if s.n++; a.Right {
		s.right++
		s.seconds += a.Seconds
	}
	r.last, r.n = a.Item, r.n+1
}

// SectorReflex is how the reflexes stand in a sector.
type SectorReflex struct {
	Asked   int
	Share   float64 // right, of it and its neighbours by half, drawn toward all
	Seconds float64 // mean of the right ones; 0 where there is none
	Weak    bool
}

// Sectors are the reflexes by sector of the aspect ring. What is asked in a
// sector says half as much of its neighbours. A sector is weak where its share
// of right answers lies under that of the whole ring by more than twice its
// standard error, and it was asked twice at least.
func (r *Reflexes) Sectors() (out [field.Sectors]SectorReflex) {
	asked, right := 0.0, 0.0
	for _, s := range r.sectors {
		asked += float64(s.n)
		right += float64(s.right)
	}
	// The share of the whole ring, drawn a little toward even.
	all := (right + 1) / (asked + 2)
	for i := range out {
		n, k := 2.0, 2*all // two answers of the ring's own
		for d, w := range map[int]float64{-1: 0.5, 0: 1, 1: 0.5} {
			s := r.sectors[(i+d+field.Sectors)%field.Sectors]
			n += w * float64(s.n)
			k += w * float64(s.right)
		}
		o := &out[i]
		o.Asked, o.Share = r.sectors[i].n, k/n
		if r.sectors[i].right > 0 {
			o.Seconds = r.sectors[i].seconds / float64(r.sectors[i].right)
		}
		// The standard error of a share; a ring without a wrong answer still
		// has some.
		se := math.Sqrt(math.Max(0.02, all*(1-all)) / n)
		o.Weak = o.Asked >= 2 && o.Share < all-2*se
	}
	return out
}

// Next picks the item that is asked next: what is due, or was never asked,
// before what is not, and weak sectors more often; never the same one twice in
// a row. random is the caller's, so that a test can repeat it.
func (r *Reflexes) Next(now time.Time, random *rand.Rand) Item {
	sectors := r.Sectors()
	items := Items()
	weights := make([]float64, len(items))
	sum := 0.0
	for i, it := range items {
		m, known := r.memory[it]
		// Weight by what is due, then by how weak its sector is.
		w := 1.0
		if known && now.Before(m.Due) {
			w = 0.1
		}
		// The square makes weak sectors clearly more frequent than slightly
		// weak ones.
		wrong := 1 - sectors[it.Sector].Share
		w *= 0.15 + 4*wrong*wrong
		if it == r.last && r.n > 0 {
			w = 0
		}
		weights[i] = w
		sum += w
	}
	// Drawn in proportion to the weights.
	x := random.Float64() * sum
	for i, w := range weights {
		if x -= w; x < 0 {
			return items[i]
		}
	}
	return items[len(items)-1]
}

// Advice says in two lines what to practise tonight, and for how long. names
// are those of the sectors.
func (r *Reflexes) Advice(names [field.Sectors]string) (lines [2]string) {
	weak := r.weak(names)
	switch {
	case r.n < fewAnswers:
		return [2]string{msgTooFewAnswers,
			fmt.Sprintf("%d of %d answered.", r.n, fewAnswers)}
	case len(weak) == 0:
		return [2]string{msgNoneWeaker,
			msgSpeedComes}
	}
	return [2]string{fmt.Sprintf(msgWeakAtTonight, strings.Join(weak[:min(3, len(weak))], ", ")),
		msgWeakAskedMore}
}
