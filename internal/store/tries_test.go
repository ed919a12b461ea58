package store

import (
	"crypto/rand"
	"sync"
	"sync/atomic"
	"testing"
	"time"
)

func someKey() []byte {
	k := make([]byte, 32)
	_, _ = rand.Read(k)
	return k
}

// Of forty at once as many are looked at as the limit says, and not one more.
func TestAttemptsAtOnceAreCountedBefore(t *testing.T) {
	keys, now := [3][]byte{someKey(), someKey(), someKey()}, time.Now()
	var looked atomic.Int64
	var all sync.WaitGroup
	for range 40 {
		all.Go(func() {
			may, err := db.Try(ctx, keys, [3]int{5, 20, 60}, now.Add(-time.Minute), now)
			if err != nil {
				t.Error(err)
			}
			if may {
				looked.Add(1)
			}
		})
	}
	all.Wait()
	if looked.Load() != 5 {
		t.Errorf("%d of 40 were looked at, 5 expected", looked.Load())
	}
}

func TestAttemptsAreCountedByKey(t *testing.T) {
	now := time.Now()
	most := [3]int{2, 3, 4}
	place := someKey()
	may := func(thing, pair []byte, at time.Time) bool {
		t.Helper()
		ok, err := db.Try(ctx, [3][]byte{pair, thing, place}, most, now.Add(-time.Minute), at)
		if err != nil {
			t.Fatal(err)
		}
		return ok
	}
	a, pairA := someKey(), someKey()
	for i, want := range []bool{true, true, false, false} {
		if got := may(a, pairA, now); got != want {
			t.Errorf("try %d of one pair: %v", i, got)
		}
	}
	if !may(a, someKey(), now) || may(a, someKey(), now) {
		t.Error("three of one thing from anywhere, and no fourth, were expected")
	}
	b, pairB := someKey(), someKey()
	if !may(b, pairB, now) {
		t.Error("the place has too few to be held up")
	}
	if may(b, pairB, now) {
		t.Error("the place has too many, and the thing was tried before")
	}
	if !may(someKey(), someKey(), now) {
		t.Error("from a place with too many each thing can be tried once")
	}
	// What was right is forgotten; what lies back does not count.
	if err := db.TakeBack(ctx, [3][]byte{pairA, a, place}, true); err != nil {
		t.Fatal(err)
	}
	if !may(a, pairA, now) {
		t.Error("after the right one it is still held up")
	}
	old, pairOld := someKey(), someKey()
	may(old, pairOld, now.Add(-time.Hour))
	may(old, pairOld, now.Add(-time.Hour))
	place = someKey()
	if !may(old, pairOld, now) {
		t.Error("what lies back counts")
	}
	if err := db.TakeBack(ctx, [3][]byte{pairOld, old, place}, false); err != nil {
		t.Fatal(err)
	}
	for i, want := range []bool{true, true, false} {
		if got := may(old, pairOld, now); got != want {
			t.Errorf("try %d after one was taken back: %v", i, got)
		}
	}
}

func TestEndedSessionsAreForgotten(t *testing.T) {
	for token, left := range map[string]string{"ended": "-1 minute", "goes on": "1 hour"} {
		if _, err := db.pool.Exec(ctx, `INSERT INTO sessions (token, data, expiry) VALUES ($1, '', now() + $2::interval)`,
			token,
			left); err != nil {
			t.Fatal(err)
		}
	}
	if err := db.ForgetSessions(ctx); err != nil {
		t.Fatal(err)
	}
	var left string
	if err := db.pool.QueryRow(ctx, `SELECT string_agg(token, ',') FROM sessions`).Scan(&left); err != nil ||
		left != "goes on" {
		t.Errorf("%q, %v", left, err)
	}
}
