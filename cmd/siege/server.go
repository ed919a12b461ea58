package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"time"

	"maestrale/core/drill"
	"maestrale/internal/store"
	"maestrale/internal/web"
)

// asServer is set for a process that is to be a server, and holds the address it serves on.
const asServer = "MAESTRALE_SIEGE_SERVER"

// serve is a server: the application on the database of DATABASE_URL, by a clock that the siege sets.
func serve() error {
	ctx := context.Background()
	url := os.Getenv("DATABASE_URL")
	if _, err := store.Await(ctx, url, 2*time.Minute); err != nil {
		return err
	}
	st, err := store.Open(ctx, url, nil)
	if err != nil {
		return err
	}
	defer st.Close()
	app, err := web.New(web.Options{Store: st, Catalogue: drill.Shipped(),
		Now: setClock(os.Getenv("MAESTRALE_SIEGE_CLOCK")),
		Log: slog.New(slog.DiscardHandler), Within: 20 * time.Second})
	if err != nil {
		return err
	}
	defer app.Close()
	s := &http.Server{Addr: os.Getenv(asServer), Handler: app, ReadHeaderTimeout: 10 * time.Second,
		IdleTimeout: time.Minute}
	return s.ListenAndServe()
}

// setClock reads from a file by how many seconds the clock is off, a few times a second.
func setClock(file string) func() time.Time {
	var off atomic.Int64
	go func() {
		for ; ; time.Sleep(100 * time.Millisecond) {
			if data, err := os.ReadFile(file); err == nil {
				if s, err := strconv.ParseInt(strings.TrimSpace(string(data)), 10, 64); err == nil {
					off.Store(s)
				}
			}
		}
	}()
	return func() time.Time { return time.Now().Add(time.Duration(off.Load()) * time.Second) }
}

// server is a server that runs as a process of its own.
type server struct {
	addr, database, clock string
	cmd                   *exec.Cmd
}

// start starts the process and waits until it is ready.
func (s *server) start(ctx context.Context) error {
	self, err := os.Executable()
	if err != nil {
		return fmt.Errorf("find this program: %w", err)
	}
	for ctx.Err() == nil {
		s.cmd = exec.Command(self, "-test.run=^$")
		s.cmd.Env = append(os.Environ(), asServer+"="+s.addr, "DATABASE_URL="+s.database, "MAESTRALE_SIEGE_CLOCK="+s.clock)
		s.cmd.Stderr = os.Stderr
		s.cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
		if err := s.cmd.Start(); err != nil {
			return fmt.Errorf("start a server: %w", err)
		}
		ended := make(chan struct{})
		go func() { _ = s.cmd.Wait(); close(ended) }()
		for tries := 0; tries < 600; tries++ {
			if s.ready(ctx) {
				return nil
			}
			select {
			case <-ctx.Done():
				return ctx.Err()
			case <-ended: // the database was away for too long: once more
				tries = 600
			case <-time.After(100 * time.Millisecond):
			}
		}
		s.kill()
	}
	return errors.Join(errors.New("a server did not start"), ctx.Err())
}

func (s *server) ready(ctx context.Context) bool {
	ctx, cancel := context.WithTimeout(ctx, 2*time.Second)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, "http://"+s.addr+"/readyz", nil)
	if err != nil {
		return false
	}
	r, err := http.DefaultClient.Do(req)
	if err != nil {
		return false
	}
	_ = r.Body.Close()
	return r.StatusCode == http.StatusOK
}

// kill ends the process at once.
func (s *server) kill() {
	if s.cmd != nil && s.cmd.Process != nil {
		_ = s.cmd.Process.Kill()
	}
}
