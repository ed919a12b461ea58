package store

import (
	"container/list"
	"context"
	"errors"
	"sync"
	"time"
)

// ErrOverloaded is returned where a unit of work waited for its turn for too long: nothing was done.
var ErrOverloaded = errors.New("the database has too much to do")

// How long work waits for its turn: marks longer than pages, because they are sent again if they are refused.
const (
	pagePatience   = 5 * time.Second
	urgentPatience = 20 * time.Second
	// mostWaiting is how many pages wait at once; another one is refused at once.
	mostWaiting = 400
)

type urgentKey struct{}

// Urgent marks work that comes before pages: marks, and what devices deliver.
func Urgent(ctx context.Context) context.Context { return context.WithValue(ctx, urgentKey{}, true) }

type patientKey struct{}

// Patient marks work for which nobody waits at a screen, such as loading the sample school: it waits for its turn as
// long as that takes.
func Patient(ctx context.Context) context.Context { return context.WithValue(ctx, patientKey{}, true) }

// patienceOf is whether work is urgent, and how long it waits for its turn; 0 is without end.
func patienceOf(ctx context.Context) (urgent bool, most time.Duration) {
	switch {
	case ctx.Value(urgentKey{}) != nil:
		return true, urgentPatience
	case ctx.Value(patientKey{}) != nil:
		return false, 0
	}
	return false, pagePatience
}

// turns let only so many units of work at the database at once. Those that are urgent come first, and each kind in the
// order in which it came.
type turns struct {
	mu      sync.Mutex
	free    int
	waiting [2]list.List // urgent, pages
	refused int64
}

func newTurns(many int) *turns { return &turns{free: max(1, many)} }

// take waits for a turn, and returns how it is given back.
func (t *turns) take(ctx context.Context) (give func(), err error) {
	urgent, patience := patienceOf(ctx)
	kind := 1
	if urgent {
		kind = 0
	}
	t.mu.Lock()
	if t.free > 0 {
		t.free--
		t.mu.Unlock()
		return t.give, nil
	}
	if kind == 1 && t.waiting[1].Len() >= mostWaiting {
		t.refused++
		t.mu.Unlock()
		return nil, ErrOverloaded
	}
	turn := make(chan struct{})
	place := t.waiting[kind].PushBack(turn)
	t.mu.Unlock()
	var late <-chan time.Time // never, for the patient
	if patience > 0 {
		timer := time.NewTimer(patience)
		defer timer.Stop()
		late = timer.C
	}
	err = ErrOverloaded
	select {
	case <-turn:
		return t.give, nil
	case <-ctx.Done():
		err = ctx.Err()
	case <-late:
	}
	t.mu.Lock()
	defer t.mu.Unlock()
	select {
	case <-turn: // it came in the same moment
		return t.give, nil
	default:
	}
	t.waiting[kind].Remove(place)
	t.refused++
	return nil, err
}

func (t *turns) give() {
	t.mu.Lock()
	defer t.mu.Unlock()
	for i := range t.waiting {
		if next := t.waiting[i].Front(); next != nil {
			close(t.waiting[i].Remove(next).(chan struct{}))
			return
		}
	}
	t.free++
}

// Load is how much is asked of the database just now.
type Load struct {
	Connections, InUse, Most int
	WaitingMarks             int
	WaitingPages             int
	Refused                  int64 // since the server began
}

// Load tells how much is asked of the database just now.
func (s *Store) Load() Load {
	stat := s.pool.Stat()
	s.turns.mu.Lock()
	defer s.turns.mu.Unlock()
	return Load{Connections: int(stat.TotalConns()), InUse: int(stat.AcquiredConns()), Most: int(stat.MaxConns()),
		WaitingMarks: s.turns.waiting[0].Len(), WaitingPages: s.turns.waiting[1].Len(), Refused: s.turns.refused}
}
