package main

import (
	"os"
	"testing"
)

func TestMain(m *testing.M) {
	if os.Getenv(asServer) != "" {
		if err := serve(); err != nil {
			panic(err)
		}
		return
	}
	os.Exit(m.Run())
}

// Ten faults; make nightly makes a thousand.
func TestNothingAcknowledgedIsLost(t *testing.T) {
	if testing.Short() {
		t.Skip("half a minute")
	}
	r, err := besiege(t.Context(), plan{Faults: 10, Seed: 2, Clients: 6, Say: t.Logf})
	if err != nil {
		t.Fatal(err)
	}
	for _, w := range r.Wrong {
		t.Error(w)
	}
	if r.Attempts < 30 || r.Marks < 60 {
		t.Errorf("too little was acknowledged for a test: %d attempts, %d marks", r.Attempts, r.Marks)
	}
	t.Logf("%+v", r)
}
