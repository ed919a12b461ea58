package store

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"
)

// Marks come before pages that came earlier, each kind in its order, and never more work at once than there are turns.
func TestTurns(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		turns := newTurns(1)
		give, err := turns.take(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		var order []string
		var mu sync.Mutex
		ask := func(name string, ctx context.Context) {
			go func() {
				give, err := turns.take(ctx)
				if err != nil {
					t.Errorf("%s: %v", name, err)
					return
				}
				mu.Lock()
				order = append(order, name)
				mu.Unlock()
				give()
			}()
			synctest.Wait()
		}
		ask("page 1", t.Context())
		ask("page 2", t.Context())
		ask("mark 1", Urgent(t.Context()))
		ask("mark 2", Urgent(t.Context()))
		give()
		synctest.Wait()
		if got := order; len(got) != 4 || got[0] != "mark 1" || got[1] != "mark 2" || got[2] != "page 1" ||
			got[3] != "page 2" {
			t.Errorf("%v", got)
		}
	})
}

// Who waits for too long is told so after a known time, and who leaves gives no turn away.
func TestTurnsThatNeverCome(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		turns := newTurns(1)
		give, err := turns.take(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		begun := time.Now()
		if _, err := turns.take(t.Context()); !errors.Is(err, ErrOverloaded) || time.Since(begun) != pagePatience {
			t.Errorf("%v after %v", err, time.Since(begun))
		}
		begun = time.Now()
		if _, err := turns.take(Urgent(t.Context())); !errors.Is(err, ErrOverloaded) || time.Since(begun) != urgentPatience {
			t.Errorf("%v after %v", err, time.Since(begun))
		}
		ctx, cancel := context.WithTimeout(t.Context(), time.Second)
		defer cancel()
		if _, err := turns.take(ctx); !errors.Is(err, context.DeadlineExceeded) {
			t.Error(err)
		}
		give()
		if give, err = turns.take(t.Context()); err != nil {
			t.Errorf("a turn was lost: %v", err)
		}
		// A queue that is full refuses at once.
		var refused atomic.Int64
		for range mostWaiting + 50 {
			go func() {
				begun := time.Now()
				if _, err := turns.take(t.Context()); err != nil && time.Since(begun) == 0 {
					refused.Add(1)
				}
			}()
		}
		synctest.Wait()
		if refused.Load() != 50 {
			t.Errorf("%d were refused at once, 50 expected", refused.Load())
		}
		time.Sleep(time.Minute)
		give()
	})
}

// Work for which nobody waits at a screen waits without end, and can be called off.
func TestPatientWorkWaitsWithoutEnd(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		turns := newTurns(1)
		give, err := turns.take(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		done := make(chan error, 1)
		go func() {
			_, err := turns.take(Patient(t.Context()))
			done <- err
		}()
		ctx, cancel := context.WithTimeout(Patient(t.Context()), 10*time.Minute)
		defer cancel()
		if _, err := turns.take(ctx); !errors.Is(err, context.DeadlineExceeded) {
			t.Errorf("called off: %v", err)
		}
		time.Sleep(time.Hour)
		give()
		if err := <-done; err != nil {
			t.Errorf("after an hour: %v", err)
		}
	})
}
