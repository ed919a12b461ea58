// Package live passes what is being flown in the simulator from the pilot's page
// to those who watch it, and to the pilot what an instructor lets happen. It
// remembers the newest picture of each flight and nothing more: what has to last is
// in the run's trace and in the database.
package live

import (
	"sync"
	"time"

	"github.com/google/uuid"

	"maestrale/core/flight/trace"
)

// Pilot is whose flight it is.
type Pilot struct{ School, Student uuid.UUID }

// Flight is what is flown.
type Flight struct {
	Run   uuid.UUID
	Spec  trace.Spec
	By    string // who holds the sticks
	Began time.Time
}

// Aloft is a flight as a list shows it.
type Aloft struct {
	Pilot
	Flight
}

const (
	// MostFrame is the largest picture of a flight that is passed on, in bytes.
	MostFrame = 8 << 10
	// mostWaiting is how many orders wait for a pilot whose line is slow.
	mostWaiting = 64
)

// Hub knows who flies and who watches.
type Hub struct {
	mu     sync.Mutex
	seats  map[Pilot]*Seat
	rooms  map[Pilot]map[*Watcher]struct{}
	closed bool
}

// NewHub makes an empty one.
func NewHub() *Hub {
	return &Hub{seats: map[Pilot]*Seat{}, rooms: map[Pilot]map[*Watcher]struct{}{}}
}

// Seat is a pilot's end.
type Seat struct {
	hub    *Hub
	pilot  Pilot
	flight Flight
	orders chan []byte
	left   chan struct{}
	once   sync.Once
	last   []byte
}

// Watcher is the end of somebody who watches. Frames holds the newest picture; a
// slow watcher misses those in between.
type Watcher struct {
	hub    *Hub
	pilot  Pilot
	Frames chan []byte
	// Changed is told when another flight begins, or the one that was flown ends.
	Changed chan struct{}
}

// Take begins a flight; one that the pilot still had elsewhere is left. It returns
// nil once the hub is closed.
func (h *Hub) Take(p Pilot, f Flight) *Seat {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.closed {
		return nil
	}
	if old := h.seats[p]; old != nil {
		old.leave()
	}
	s := &Seat{hub: h, pilot: p, flight: f, orders: make(chan []byte, mostWaiting), left: make(chan struct{})}
	h.seats[p] = s
	h.change(p)
	return s
}

// Say passes a picture of the flight on.
func (s *Seat) Say(frame []byte) {
	s.hub.mu.Lock()
	defer s.hub.mu.Unlock()
	if s.hub.seats[s.pilot] != s {
		return
	}
	s.last = frame
	for w := range s.hub.rooms[s.pilot] {
		w.show(frame)
	}
}

// Orders are what the pilot's page is told.
func (s *Seat) Orders() <-chan []byte { return s.orders }

// Left is closed once the seat is another's, or given up.
func (s *Seat) Left() <-chan struct{} { return s.left }

func (s *Seat) leave() { s.once.Do(func() { close(s.left) }) }

// Leave gives the seat up.
func (s *Seat) Leave() {
	s.hub.mu.Lock()
	defer s.hub.mu.Unlock()
	s.leave()
	if s.hub.seats[s.pilot] == s {
		delete(s.hub.seats, s.pilot)
		s.hub.change(s.pilot)
	}
}

// show puts a picture where the watcher takes it; an older one makes room.
func (w *Watcher) show(frame []byte) {
	for {
		select {
		case w.Frames <- frame:
			return
		default:
		}
		select {
		case <-w.Frames:
		default:
		}
	}
}

func (h *Hub) change(p Pilot) {
	for w := range h.rooms[p] {
		select {
		case w.Changed <- struct{}{}:
		default:
		}
	}
}

// Watch begins to watch; the newest picture is there at once. It returns nil once
// the hub is closed.
func (h *Hub) Watch(p Pilot) *Watcher {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.closed {
		return nil
	}
	w := &Watcher{hub: h, pilot: p, Frames: make(chan []byte, 1), Changed: make(chan struct{}, 1)}
	if h.rooms[p] == nil {
		h.rooms[p] = map[*Watcher]struct{}{}
	}
	h.rooms[p][w] = struct{}{}
	if s := h.seats[p]; s != nil && s.last != nil {
		w.show(s.last)
	}
	return w
}

// Leave ends the watching.
func (w *Watcher) Leave() {
	w.hub.mu.Lock()
	defer w.hub.mu.Unlock()
	delete(w.hub.rooms[w.pilot], w)
	if len(w.hub.rooms[w.pilot]) == 0 {
		delete(w.hub.rooms, w.pilot)
	}
}

// Order tells the pilot of a run something; false where that run is not flown, or
// its line is stuck.
func (h *Hub) Order(p Pilot, run uuid.UUID, order []byte) bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	s := h.seats[p]
	if s == nil || s.flight.Run != run {
		return false
	}
	select {
	case s.orders <- order:
		return true
	default:
		return false
	}
}

// Flying is what a pilot flies now.
func (h *Hub) Flying(p Pilot) (Flight, bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if s := h.seats[p]; s != nil {
		return s.flight, true
	}
	return Flight{}, false
}

// Aloft lists what is flown in a school, in the order in which it began.
func (h *Hub) Aloft(school uuid.UUID) []Aloft {
	h.mu.Lock()
	defer h.mu.Unlock()
	var out []Aloft
	for p, s := range h.seats {
		if p.School != school {
			continue
		}
		i := len(out)
		for i > 0 && out[i-1].Began.After(s.flight.Began) {
			i--
		}
		out = append(out[:i], append([]Aloft{{p, s.flight}}, out[i:]...)...)
	}
	return out
}

// Close ends every flight and every watching.
func (h *Hub) Close() {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.closed = true
	for p, s := range h.seats {
		s.leave()
		delete(h.seats, p)
	}
	for p, room := range h.rooms {
		for w := range room {
			close(w.Frames)
		}
		delete(h.rooms, p)
	}
}
