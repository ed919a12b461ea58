// Command develop keeps the sample school open while its program is being worked on (make dev). It starts one private
// PostgreSQL, serves the interface from disk, and watches the sources: a template is served as it was saved, a style
// or a script is made anew, a Go file builds the program and starts it again, and the WebAssembly is made only when
// its own sources change. An open page reloads itself.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"syscall"
	"time"

	"maestrale/internal/localpg"
)

// lookEvery is how often the sources are looked at.
const lookEvery = 100 * time.Millisecond

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	addr, data := "127.0.0.1:8080", localpg.DataFolder()
	if len(os.Args) > 1 {
		addr = os.Args[1]
	}
	if len(os.Args) > 2 {
		data = os.Args[2]
	}
	if err := run(ctx, addr, data); err != nil && !errors.Is(err, context.Canceled) {
		fmt.Fprintln(os.Stderr, "make dev:", err)
		os.Exit(1)
	}
}

// run works until the context ends.
func run(ctx context.Context, addr, data string) error {
	data, err := filepath.Abs(data)
	if err != nil {
		return err
	}
	pg, err := localpg.Start(ctx, localpg.Options{Dir: data})
	if err != nil {
		return err
	}
	defer func() { _ = pg.Stop() }()
	s := &server{addr: addr, env: append(os.Environ(), "DATABASE_URL="+pg.URL())}
	defer s.stop()
	if err := s.start(); err != nil {
		return err
	}
	seen := map[string]stamp{}
	for _, w := range watched {
		seen[w.what] = newest(w.roots, w.suffixes)
	}
	tick := time.NewTicker(lookEvery)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-tick.C:
		}
		for _, w := range watched {
			now := newest(w.roots, w.suffixes)
			if now == seen[w.what] {
				continue
			}
			seen[w.what] = now
			begin := time.Now()
			if err := w.do(ctx, s); err != nil {
				fmt.Printf("%s: %v\n", w.what, err)
				continue
			}
			fmt.Printf("%s: done in %.1f s\n", w.what, time.Since(begin).Seconds())
		}
	}
}

// watch is a kind of source, where it lies, and what is done when it changes.
type watch struct {
	what     string
	roots    []string
	suffixes []string
	do       func(context.Context, *server) error
}

var watched = []watch{
	{"styles and templates", []string{"ui/styles", "ui/templates"}, []string{".css", ".html"}, target("ui/dist/app.css")},
	{"scripts", []string{"ui/scripts"}, []string{".js"}, target("ui/dist/app.js")},
	{"program", []string{"cmd", "core", "internal"}, []string{".go", ".yaml", ".sql"}, func(ctx context.Context,
		s *server) error {
		if err := command(ctx, "go", "build", "-o", "bin/maestrale", "./cmd/maestrale").Run(); err != nil {
			return err // the program that runs stays
		}
		s.stop()
		if err := s.start(); err != nil {
			return err
		}
		// The browser's modules follow in their own time; make leaves them alone if nothing of theirs has changed.
		return command(ctx, "make", "--no-print-directory", "-s", "ui/dist/flight.wasm", "ui/dist/pad.wasm").Run()
	}},
}

// target makes one of the Makefile's files.
func target(name string) func(context.Context, *server) error {
	return func(ctx context.Context, _ *server) error {
		return command(ctx, "make", "--no-print-directory", "-s", name).Run()
	}
}

func command(ctx context.Context, name string, args ...string) *exec.Cmd {
	c := exec.CommandContext(ctx, name, args...)
	c.Stdout, c.Stderr = os.Stdout, os.Stderr
	return c
}

// server is the program that serves.
type server struct {
	addr string
	env  []string
	cmd  *exec.Cmd
}

func (s *server) start() error {
	s.cmd = exec.Command("bin/maestrale", "demo", "--addr", s.addr, "--interface", "ui")
	s.cmd.Env, s.cmd.Stdout, s.cmd.Stderr = s.env, os.Stdout, os.Stderr
	return s.cmd.Start()
}

func (s *server) stop() {
	if s.cmd == nil || s.cmd.Process == nil {
		return
	}
	_ = s.cmd.Process.Kill() // what it has acknowledged is in the database
	_ = s.cmd.Wait()
	s.cmd = nil
}

// stamp is how a set of files stands: the newest change, and how many there are.
type stamp struct {
	at    int64
	count int
}

// newest looks at the files under the roots that have one of the suffixes.
func newest(roots, suffixes []string) (s stamp) {
	for _, root := range roots {
		_ = filepath.WalkDir(root, func(name string, d os.DirEntry, err error) error {
			if err != nil || d.IsDir() {
				return nil // a file that is being written is seen the next time
			}
			for _, x := range suffixes {
				if filepath.Ext(name) != x {
					continue
				}
				if info, err := d.Info(); err == nil {
					s.at, s.count = max(s.at, info.ModTime().UnixNano()), s.count+1
				}
			}
			return nil
		})
	}
	return s
}
