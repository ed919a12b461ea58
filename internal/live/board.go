package live

import (
	"sync"

	"github.com/google/uuid"
)

// Boards tells those who look at a school's field day that it has changed. What has
// changed they ask the database.
type Boards struct {
	mu      sync.Mutex
	lookers map[uuid.UUID]map[chan struct{}]struct{}
}

// NewBoards makes one that nobody looks at yet.
func NewBoards() *Boards { return &Boards{lookers: map[uuid.UUID]map[chan struct{}]struct{}{}} }

// Look returns a channel on which something stands after each change, and what ends it.
// Changes that come faster than they are taken are told once.
func (b *Boards) Look(school uuid.UUID) (changes <-chan struct{}, leave func()) {
	ch := make(chan struct{}, 1)
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.lookers[school] == nil {
		b.lookers[school] = map[chan struct{}]struct{}{}
	}
	b.lookers[school][ch] = struct{}{}
	return ch, func() {
		b.mu.Lock()
		defer b.mu.Unlock()
		delete(b.lookers[school], ch)
		if len(b.lookers[school]) == 0 {
			delete(b.lookers, school)
		}
	}
}

// Changed tells those who look at a school's day, or, with a nil one, at any.
func (b *Boards) Changed(school uuid.UUID) {
	b.mu.Lock()
	defer b.mu.Unlock()
	for id, all := range b.lookers {
		if id != school && school != uuid.Nil {
			continue
		}
		for ch := range all {
			select {
			case ch <- struct{}{}:
			default: // it has one waiting
			}
		}
	}
}
