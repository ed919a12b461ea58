// Package storetest gives the tests of a package a database of their own.
package storetest

import (
	"context"
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"maestrale/internal/localpg"
	"maestrale/internal/store"
)

// Main runs a package's tests on a new server, brought up to date, and ends the
// program with their status. Before they run, set is given the owner's address and
// the store; tracer may be nil.
func Main(m *testing.M, tracer pgx.QueryTracer, set func(ownerURL string, s *store.Store)) {
	ctx := context.Background()
	url, end, err := localpg.ForTest()
	if err == nil {
		err = store.Migrate(ctx, url)
	}
	var s *store.Store
	if err == nil {
		s, err = store.Open(ctx, url, tracer)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	set(url, s)
	code := m.Run()
	s.Close()
	end()
	os.Exit(code)
}

// Until waits for something to come true, a minute at most.
func Until(t *testing.T, what string, is func() bool) {
	t.Helper()
	for end := time.Now().Add(time.Minute); !is(); time.Sleep(50 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("it never came true that %s", what)
		}
	}
}
