package localpg

import (
	"context"
	"fmt"
	"os"
)

// ForTest starts a server in a new temporary folder and returns how to connect
// to it and how to end it.
func ForTest() (url string, end func(), err error) {
	dir, err := os.MkdirTemp("", "maestrale-test-*")
	if err != nil {
		return "", nil, fmt.Errorf("temporary folder: %w", err)
	}
	if err := os.Chmod(dir, 0o755); err != nil {
		return "", nil, fmt.Errorf("temporary folder: %w", err)
	}
	s, err := Start(context.Background(), Options{Dir: dir, Quick: true})
	if err != nil {
		_ = os.RemoveAll(dir)
		return "", nil, err
	}
	return s.URL(), func() {
		_ = s.Stop()
		_ = os.RemoveAll(dir)
	}, nil
}
