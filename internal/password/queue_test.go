package password

import (
	"context"
	"errors"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"
)

// Never more at once than there are turns; who is known comes first, and then the newest.
func TestTheQueueOfPasswords(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q := &queue{free: 2}
		var at, most atomic.Int64
		var mu sync.Mutex
		var order []string
		ask := func(name string, known bool) {
			go func() {
				give, err := q.take(t.Context(), known)
				if err != nil {
					t.Errorf("%s: %v", name, err)
					return
				}
				most.Store(max(most.Load(), at.Add(1)))
				mu.Lock()
				order = append(order, name)
				mu.Unlock()
				time.Sleep(100 * time.Millisecond)
				at.Add(-1)
				give()
			}()
			synctest.Wait()
		}
		for _, name := range []string{"a", "b", "c", "d"} {
			ask(name, false)
		}
		ask("known 1", true)
		ask("known 2", true)
		ask("e", false)
		time.Sleep(time.Second)
		synctest.Wait()
		// Two are served at once: which of a pair is noted first is nobody's order.
		for i := 0; i+1 < len(order); i += 2 {
			slices.Sort(order[i : i+2])
		}
		if got := strings.Join(order, ","); got != "a,b,known 1,known 2,d,e,c" {
			t.Error(got)
		}
		if most.Load() > 2 || q.free != 2 {
			t.Errorf("%d at once, %d free at the end", most.Load(), q.free)
		}
	})
}

// Who waits for too long or leaves takes no turn away.
func TestWhoGivesUpWaiting(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q := &queue{free: 1}
		give, err := q.take(t.Context(), false)
		if err != nil {
			t.Fatal(err)
		}
		begun := time.Now()
		if _, err := q.take(t.Context(), true); !errors.Is(err, ErrBusy) || time.Since(begun) != longestWait {
			t.Errorf("%v after %v", err, time.Since(begun))
		}
		ctx, cancel := context.WithTimeout(t.Context(), time.Second)
		defer cancel()
		if _, err := q.take(ctx, false); !errors.Is(err, context.DeadlineExceeded) {
			t.Error(err)
		}
		give()
		if q.free != 1 || len(q.waiting[0])+len(q.waiting[1]) != 0 {
			t.Errorf("%+v", q)
		}
	})
}

// A hash of an earlier version is taken, and known to be one.
func TestEarlierHashes(t *testing.T) {
	const earlier = "$argon2id$v=19$m=65536,t=3,p=4$AAECAwQFBgcICQoLDA0ODw$" +
		"sPWkuJxAoEIYYJ2ryLxNTdj6cMtkImlCtZvYsqXmYTQ"
	if _, err := Check("whatever it was", earlier); err != nil {
		t.Error(err)
	}
	now, err := Hash("la torre del faro")
	if err != nil || Outdated(now) || !Outdated(earlier) {
		t.Errorf("%s %v", now, err)
	}
}
