package password

import (
	"context"
	"errors"
	"runtime"
	"sync"
	"time"
)

// ErrBusy is returned where so many passwords are to be hashed that this one was not looked at.
var ErrBusy = errors.New("so many passwords are being checked that this one was not looked at")

// longestWait is how long somebody waits for a turn.
const longestWait = 4 * time.Second

// queue lets as many passwords be hashed at once as there are cores, so that neither memory nor all processors go to
// people who guess. Those who are known come first. Among the others the newest comes first: whoever guesses by the
// hundred keeps the own guesses waiting, and not somebody who comes later and asks once.
type queue struct {
	mu      sync.Mutex
	free    int
	waiting [2][]chan struct{} // known, others
}

var hashing = &queue{free: runtime.NumCPU()}

// take waits for a turn.
func (q *queue) take(ctx context.Context, known bool) (give func(), err error) {
	kind := 1
	if known {
		kind = 0
	}
	q.mu.Lock()
	if q.free > 0 {
		q.free--
		q.mu.Unlock()
		return q.give, nil
	}
	turn := make(chan struct{})
	q.waiting[kind] = append(q.waiting[kind], turn)
	q.mu.Unlock()
	late := time.NewTimer(longestWait)
	defer late.Stop()
	select {
	case <-turn:
		return q.give, nil
	case <-late.C:
		err = ErrBusy
	case <-ctx.Done():
		err = ctx.Err()
	}
	q.mu.Lock()
	defer q.mu.Unlock()
	for i, w := range q.waiting[kind] {
		if w == turn {
			q.waiting[kind] = append(q.waiting[kind][:i], q.waiting[kind][i+1:]...)
			return nil, err
		}
	}
	return q.give, nil // it came in the same moment
}

func (q *queue) give() {
	q.mu.Lock()
	defer q.mu.Unlock()
	var next chan struct{}
	switch known, others := q.waiting[0], q.waiting[1]; {
	case len(known) > 0:
		next, q.waiting[0] = known[0], known[1:]
	case len(others) > 0:
		next, q.waiting[1] = others[len(others)-1], others[:len(others)-1]
	default:
		q.free++
		return
	}
	close(next)
}

// Waiting is how many passwords wait for their turn.
func Waiting() int {
	hashing.mu.Lock()
	defer hashing.mu.Unlock()
	return len(hashing.waiting[0]) + len(hashing.waiting[1])
}

// CheckInTurn is Check, when its turn has come; a browser that is known to the account comes first.
func CheckInTurn(ctx context.Context, word, hash string, known bool) (bool, error) {
	give, err := hashing.take(ctx, known)
	if err != nil {
		return false, err
	}
	defer give()
	return Check(word, hash)
}

// HashInTurn is Hash, when its turn has come.
func HashInTurn(ctx context.Context, word string) (string, error) {
	give, err := hashing.take(ctx, true)
	if err != nil {
		return "", err
	}
	defer give()
	return Hash(word)
}
