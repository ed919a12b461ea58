package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"syscall"
	"time"
)

// faults are what can happen to a school's machines, and how each is made and mended.
var faults = []struct {
	name string
	make func(*siege, context.Context) error
}{
	{"kill server", (*siege).killServer},
	{"kill database", (*siege).killDatabase},
	{"kill both", (*siege).killBoth},
	{"cut clients", func(s *siege, _ context.Context) error { s.anyLine().cut(); return nil }},
	{"cut database", func(s *siege, _ context.Context) error { s.database.cut(); return nil }},
	{"freeze clients", func(s *siege, ctx context.Context) error { return s.freeze(ctx, s.anyLine()) }},
	{"freeze database", func(s *siege, ctx context.Context) error { return s.freeze(ctx, s.database) }},
	{"clock jump", (*siege).jump},
	{"full disk", (*siege).fill},
}

// fault makes one fault, and mends it after a while.
func (s *siege) fault(ctx context.Context) (kind string, err error) {
	for {
		f := faults[s.r.IntN(len(faults))]
		if s.Only != "" && f.name != s.Only || f.name == "full disk" && !s.mounted {
			if s.Only == "full disk" && !s.mounted {
				return s.Only, errors.New("a disk of its own could not be mounted")
			}
			continue
		}
		if err := s.pause(ctx, 600); err != nil {
			return f.name, err
		}
		return f.name, f.make(s, ctx)
	}
}

// pause waits for a random time, so many milliseconds at most.
func (s *siege) pause(ctx context.Context, most int) error {
	select {
	case <-ctx.Done():
		return ctx.Err()
	case <-time.After(time.Duration(s.r.IntN(most)) * time.Millisecond):
		return nil
	}
}

func (s *siege) anyLine() *line { return s.lines[s.r.IntN(len(s.lines))] }

func (s *siege) killServer(ctx context.Context) error {
	one := s.servers[s.r.IntN(len(s.servers))]
	one.kill()
	if err := s.pause(ctx, 500); err != nil {
		return err
	}
	return one.start(ctx)
}

func (s *siege) killDatabase(ctx context.Context) error {
	s.pg.Kill()
	if err := s.pause(ctx, 500); err != nil {
		return err
	}
	return s.startDatabase(ctx)
}

func (s *siege) killBoth(ctx context.Context) error {
	s.pg.Kill()
	for _, one := range s.servers {
		one.kill()
	}
	if err := s.startDatabase(ctx); err != nil {
		return err
	}
	for _, one := range s.servers {
		if err := one.start(ctx); err != nil {
			return err
		}
	}
	return nil
}

func (s *siege) freeze(ctx context.Context, l *line) error {
	thaw := l.freeze()
	err := s.pause(ctx, 3000)
	if s.r.IntN(2) == 0 {
		l.cut() // what was frozen never arrives
	}
	thaw()
	return err
}

// jump sets the servers' clock by up to an hour, ahead or back.
func (s *siege) jump(context.Context) error {
	if err := os.WriteFile(s.clock, []byte(strconv.Itoa(s.r.IntN(7200)-3600)), 0o600); err != nil {
		return fmt.Errorf("set the clock: %w", err)
	}
	return nil
}

// fill leaves no room on the database's disk for a while.
func (s *siege) fill(ctx context.Context) error {
	name := filepath.Join(s.options.Dir, "filler")
	f, err := os.Create(name)
	if err != nil {
		return fmt.Errorf("fill the disk: %w", err)
	}
	block := make([]byte, 1<<20)
	for err == nil {
		_, err = f.Write(block)
	}
	if !errors.Is(err, syscall.ENOSPC) {
		return fmt.Errorf("fill the disk: %w", err)
	}
	for err = nil; err == nil; { // and the last bytes
		_, err = f.Write(block[:512])
	}
	_ = f.Close() // its room is what counts
	waited := s.pause(ctx, 3000)
	if err := os.Remove(name); err != nil {
		return fmt.Errorf("empty the disk: %w", err)
	}
	return waited
}
