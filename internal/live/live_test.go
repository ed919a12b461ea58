package live

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
)

func pilot() Pilot { return Pilot{uuid.New(), uuid.New()} }

// A watcher sees the newest picture and may miss those between; orders reach the
// run that they are meant for and no other.
func TestPicturesAndOrders(t *testing.T) {
	h, p := NewHub(), pilot()
	w := h.Watch(p)
	run := uuid.New()
	seat := h.Take(p, Flight{Run: run})
	<-w.Changed
	for i := range 5 {
		seat.Say([]byte{byte(i)})
	}
	if got := <-w.Frames; got[0] != 4 {
		t.Errorf("picture %d; expected the newest", got[0])
	}
	late := h.Watch(p)
	if got := <-late.Frames; got[0] != 4 {
		t.Errorf("who comes late sees %d", got[0])
	}
	if h.Order(p, uuid.New(), []byte("x")) || h.Order(pilot(), run, []byte("x")) || !h.Order(p, run, []byte("gust")) {
		t.Error("orders go astray")
	}
	if got := <-seat.Orders(); string(got) != "gust" {
		t.Errorf("%s", got)
	}
	for range mostWaiting {
		h.Order(p, run, nil)
	}
	if h.Order(p, run, nil) {
		t.Error("a line that is stuck takes more")
	}
	seat.Leave()
	<-w.Changed
	if _, on := h.Flying(p); on || h.Order(p, run, nil) {
		t.Error("it is flown after it was left")
	}
	w.Leave()
	late.Leave()
	if len(h.rooms)+len(h.seats) != 0 {
		t.Errorf("%d rooms and %d seats are left", len(h.rooms), len(h.seats))
	}
}

// A pilot who sits down elsewhere leaves the first seat, which says no more.
func TestOneSeatAPilot(t *testing.T) {
	h, p := NewHub(), pilot()
	first := h.Take(p, Flight{Run: uuid.New()})
	second := h.Take(p, Flight{Run: uuid.New()})
	<-first.Left()
	w := h.Watch(p)
	first.Say([]byte("old"))
	first.Leave()
	second.Say([]byte("new"))
	if got := <-w.Frames; string(got) != "new" {
		t.Errorf("%s", got)
	}
}

func TestSchoolsSeeTheirOwn(t *testing.T) {
	h, a, b := NewHub(), pilot(), pilot()
	c := Pilot{a.School, uuid.New()}
	at := time.Now()
	h.Take(a, Flight{Began: at.Add(time.Second)})
	h.Take(b, Flight{Began: at})
	h.Take(c, Flight{Began: at})
	got := h.Aloft(a.School)
	if len(got) != 2 || got[0].Pilot != c || got[1].Pilot != a {
		t.Errorf("%+v", got)
	}
	h.Close()
	if h.Take(a, Flight{}) != nil || h.Watch(a) != nil || len(h.Aloft(a.School)) != 0 {
		t.Error("it goes on after it was closed")
	}
}

// Many come, say, watch and go at once.
func TestCrowd(t *testing.T) {
	h := NewHub()
	school := uuid.New()
	var all sync.WaitGroup
	for i := range 40 {
		p := Pilot{school, uuid.NewSHA1(school, fmt.Append(nil, i%8))}
		all.Go(func() {
			for j := range 50 {
				run := uuid.New()
				s, w := h.Take(p, Flight{Run: run}), h.Watch(p)
				s.Say([]byte{byte(j)})
				h.Order(p, run, []byte("x"))
				h.Aloft(school)
				w.Leave()
				s.Leave()
			}
		})
	}
	all.Wait()
	if len(h.seats)+len(h.rooms) != 0 {
		t.Errorf("%d seats, %d rooms are left", len(h.seats), len(h.rooms))
	}
}
