package main

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/google/uuid"

	"maestrale/internal/localpg"
	pw "maestrale/internal/password"
	"maestrale/internal/store"
)

const password = "a word for the siege"

// plan says what a siege is made of.
type plan struct {
	Faults  int
	Seed    uint64
	Clients int
	Only    string
	Say     func(format string, args ...any)
}

// report is what a siege came to.
type report struct {
	Faults       map[string]int `json:"faults"`
	Attempts     int            `json:"acknowledged_attempts"`
	Marks        int            `json:"acknowledged_marks"`
	Refused      map[string]int `json:"refused,omitempty"`
	Stored       int            `json:"stored_attempts"`
	ChainEntries int            `json:"chain_entries"`
	Wrong        []string       `json:"wrong"`
	Seconds      float64        `json:"seconds"`
	Left         []string       `json:"not_tried,omitempty"`
}

// siege is a school under siege.
type siege struct {
	plan
	dir      string
	pg       *localpg.Server
	options  localpg.Options
	mounted  bool
	database *line   // between the servers and PostgreSQL
	lines    []*line // between the clients and the servers
	servers  []*server
	clock    string
	school   uuid.UUID
	students []uuid.UUID
	emails   []string
	r        *rand.Rand
}

// besiege makes the school, lets clients work while faults are made, and compares.
func besiege(ctx context.Context, p plan) (*report, error) {
	s := &siege{plan: p, r: rand.New(rand.NewPCG(p.Seed, 77))}
	if s.Say == nil {
		s.Say = func(string, ...any) {}
	}
	begun := time.Now()
	defer s.end()
	if err := s.begin(ctx); err != nil {
		return nil, err
	}
	told := &acknowledged{marks: map[string]string{}, attempts: map[string]string{}, refused: map[string]int{}}
	working, stop := context.WithCancel(ctx)
	hard, halt := context.WithCancel(ctx)
	defer stop()
	defer halt()
	var at []string
	for _, l := range s.lines {
		at = append(at, l.addr())
	}
	all, err := s.send(ctx, working, hard, at, told)
	if err != nil {
		return nil, err
	}
	out := &report{Faults: map[string]int{}, Wrong: []string{}}
	if !s.mounted {
		out.Left = append(out.Left, "a full disk: it takes root")
	}
	for n := range p.Faults {
		kind, err := s.fault(ctx)
		if err != nil {
			return nil, fmt.Errorf("fault %d, %s: %w", n+1, kind, err)
		}
		out.Faults[kind]++
		before, _ := told.count()
		if err := s.recovered(ctx, told, before); err != nil {
			return nil, fmt.Errorf("after fault %d, %s: %w", n+1, kind, err)
		}
		a, m := told.count()
		s.Say("%4d %-16s %d attempts, %d marks", n+1, kind, a, m)
	}
	stop()
	finished := make(chan struct{})
	go func() { all.Wait(); close(finished) }()
	select {
	case <-finished:
	case <-time.After(2 * time.Minute):
		halt() // what was not acknowledged by now never was
		<-finished
	}
	out.Attempts, out.Marks = told.count()
	out.Refused = told.refused
	if err := s.compare(ctx, told, out); err != nil {
		return nil, err
	}
	out.Seconds = time.Since(begun).Seconds()
	return out, nil
}

// send lets the clients work; what it returns waits until they have finished what they were at.
func (s *siege) send(ctx, working, hard context.Context, at []string, told *acknowledged) (*sync.WaitGroup, error) {
	var all sync.WaitGroup
	var run string
	for i := range s.Clients {
		c := newClient(i, s.emails[i%len(s.emails)], s.students, at, told, s.Seed)
		c.signIn(ctx)
		if run == "" {
			if err := c.learnRun(ctx); err != nil {
				return nil, err
			}
			run = c.run
		}
		c.run = run
		all.Go(func() { c.work(working, hard) })
	}
	return &all, nil
}

// begin starts PostgreSQL, two servers, and a school of six instructors and twelve students.
func (s *siege) begin(ctx context.Context) error {
	dir, err := os.MkdirTemp("", "maestrale-siege-*")
	if err != nil {
		return fmt.Errorf("temporary folder: %w", err)
	}
	s.dir = dir
	if err := os.Chmod(dir, 0o755); err != nil {
		return fmt.Errorf("temporary folder: %w", err)
	}
	data := filepath.Join(dir, "data")
	if err := os.Mkdir(data, 0o755); err != nil {
		return fmt.Errorf("temporary folder: %w", err)
	}
	if os.Geteuid() == 0 {
		// A disk of its own, so that it can be full without harm to anything else.
		s.mounted = exec.CommandContext(ctx, "mount", "-t", "tmpfs", "-o", "size=700m,mode=0755", "tmpfs", data).Run() == nil
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return fmt.Errorf("find a port: %w", err)
	}
	port := l.Addr().(*net.TCPAddr).Port
	_ = l.Close()
	s.options = localpg.Options{Dir: data, Port: port, Set: []string{"max_wal_size=128MB", "min_wal_size=32MB"}}
	if s.pg, err = localpg.Start(ctx, s.options); err != nil {
		return err
	}
	if err := store.Migrate(ctx, s.pg.URL()); err != nil {
		return err
	}
	if err := s.found(ctx); err != nil {
		return err
	}
	if s.database, err = newLine(fmt.Sprintf("127.0.0.1:%d", port)); err != nil {
		return err
	}
	s.clock = filepath.Join(dir, "clock")
	if err := os.WriteFile(s.clock, []byte("0"), 0o600); err != nil {
		return fmt.Errorf("set the clock: %w", err)
	}
	through := strings.Replace(s.pg.URL(), fmt.Sprintf("127.0.0.1:%d", port), s.database.addr(), 1)
	for range 2 {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return fmt.Errorf("find a port: %w", err)
		}
		addr := l.Addr().String()
		_ = l.Close()
		one := &server{addr: addr, database: through, clock: s.clock}
		if err := one.start(ctx); err != nil {
			return err
		}
		way, err := newLine(addr)
		if err != nil {
			return err
		}
		s.servers, s.lines = append(s.servers, one), append(s.lines, way)
	}
	return nil
}

// found makes the school.
func (s *siege) found(ctx context.Context) error {
	s.school = store.NewID()
	if err := store.AddSchool(ctx, s.pg.URL(), s.school, "School under siege", "Europe/Rome"); err != nil {
		return err
	}
	st, err := store.Open(ctx, s.pg.URL(), nil)
	if err != nil {
		return err
	}
	defer st.Close()
	hash, err := pw.Hash(password)
	if err != nil {
		return err
	}
	return st.InSchool(ctx, s.school, func(tx store.Tx) error {
		for i := range 12 {
			id := store.NewID()
			s.students = append(s.students, id)
			if err := tx.AddStudent(ctx, store.Student{ID: id, Name: fmt.Sprintf("Student %d", i+1),
				Programme: "position-hold-first", CraftType: "poiana", StartedOn: time.Now()}); err != nil {
				return err
			}
		}
		for i := range 6 {
			a := store.Account{ID: store.NewID(), Email: fmt.Sprintf("instructor-%d@x.example", i+1),
				Name: fmt.Sprintf("Instructor %d", i+1), Role: store.Instructor, PasswordHash: hash}
			s.emails = append(s.emails, a.Email)
			if err := tx.AddAccount(ctx, a); err != nil {
				return err
			}
		}
		return nil
	})
}

// end takes everything away.
func (s *siege) end() {
	for _, one := range s.servers {
		one.kill()
	}
	for _, l := range append(s.lines, s.database) {
		if l != nil {
			l.close()
			l.cut()
		}
	}
	if s.pg != nil {
		s.pg.Kill()
	}
	if s.mounted {
		_ = syscall.Unmount(filepath.Join(s.dir, "data"), syscall.MNT_DETACH)
	}
	if s.dir != "" {
		_ = os.RemoveAll(s.dir)
	}
}

// recovered waits until clients are told again that something is kept: three attempts more, or everything stands still.
func (s *siege) recovered(ctx context.Context, told *acknowledged, before int) error {
	late := time.After(3 * time.Minute)
	for {
		if now, _ := told.count(); now >= before+3 {
			return nil
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-late:
			return errors.New("nothing was acknowledged any more for three minutes")
		case <-time.After(50 * time.Millisecond):
		}
		if s.pg.Ended() { // a full disk ended it
			if err := s.startDatabase(ctx); err != nil {
				return err
			}
		}
	}
}

func (s *siege) startDatabase(ctx context.Context) (err error) {
	s.pg, err = localpg.Start(ctx, s.options)
	return err
}
