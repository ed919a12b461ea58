// Package localpg runs a private PostgreSQL server on loopback for the demo
// and the tests: its own data folder, a free port, a password of its own, and
// an end together with the program that started it.
package localpg

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// OldestMajor is the oldest major version of PostgreSQL that serves.
const OldestMajor = 15

// Options say how to run the server.
type Options struct {
	Dir   string   // the data folder; made where it does not exist
	Quick bool     // give up safety against power loss, for tests
	Port  int      // where it listens; 0 = a free port
	Set   []string // further settings, such as max_wal_size=64MB
}

// Server is a running private server.
type Server struct {
	url  string
	cmd  *exec.Cmd
	done chan error
	log  string
}

// URL is how to connect to the server as its owner.
func (s *Server) URL() string { return s.url }

// Binaries returns the folder of the newest PostgreSQL server programs.
func Binaries() (string, error) {
	best, dir := OldestMajor-1, ""
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres") // the pattern is right
	for _, p := range found {
		d := filepath.Dir(p)
		if v, err := strconv.Atoi(filepath.Base(filepath.Dir(d))); err == nil && v > best {
			best, dir = v, d
		}
	}
	if dir != "" {
		return dir, nil
	}
	return "", fmt.Errorf("no PostgreSQL server of version %d or newer is installed; install Debian's package "+
		"postgresql, or set DATABASE_URL", OldestMajor)
}

// owner returns who runs the server: PostgreSQL refuses root, which then hands
// it to Debian's user postgres.
func owner() (*syscall.Credential, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, fmt.Errorf("PostgreSQL does not run as root, and there is no user postgres: %w", err)
	}
	uid, err := strconv.ParseUint(u.Uid, 10, 32)
	if err != nil {
		return nil, fmt.Errorf("user postgres: %w", err)
	}
	gid, err := strconv.ParseUint(u.Gid, 10, 32)
	if err != nil {
		return nil, fmt.Errorf("user postgres: %w", err)
	}
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

// Start makes the data folder where it is missing, starts the server and waits
// until it answers.
func Start(ctx context.Context, o Options) (*Server, error) {
	bin, err := Binaries()
	if err != nil {
		return nil, err
	}
	who, err := owner()
	if err != nil {
		return nil, err
	}
	dir, err := filepath.Abs(o.Dir)
	if err != nil {
		return nil, fmt.Errorf("data folder: %w", err)
	}
	password, err := prepare(bin, dir, who, o.Quick)
	if err != nil {
		return nil, err
	}
	var last error
	for begun := time.Now(); ctx.Err() == nil; {
		s, err := start(ctx, bin, dir, password, who, o)
		if err == nil {
			return s, nil
		}
		last = err
		switch left := leftOver(dir); {
		case left == stillThere && time.Since(begun) < 30*time.Second:
			// A server before this one was killed, and its last processes are about to notice.
			time.Sleep(200 * time.Millisecond)
		case left == portTaken && o.Port == 0 && time.Since(begun) < 30*time.Second:
			// Another program took the port between finding and using it.
		default:
			return nil, last
		}
	}
	return nil, errors.Join(last, ctx.Err())
}

const (
	stillThere = msgPreExistingShared
	portTaken  = msgCouldNotBind
)

// leftOver tells which passing trouble the log of a start names.
func leftOver(dir string) string {
	out, err := os.ReadFile(filepath.Join(dir, "postgres.log"))
	if err != nil {
		return ""
	}
	for _, words := range []string{stillThere, portTaken} {
		if bytes.Contains(out, []byte(words)) {
			return words
		}
	}
	return ""
}

// prepare makes the data folder and returns the password of its owner. The database is made beside its place and moved
// there when it is whole, so that nothing that is in its place is ever taken for unfinished.
func prepare(bin, dir string, who *syscall.Credential, quick bool) (string, error) {
	data, secret := filepath.Join(dir, "postgres"), filepath.Join(dir, "password")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return "", fmt.Errorf("data folder: %w", err)
	}
	if _, err := os.Stat(filepath.Join(data, "PG_VERSION")); err == nil {
		b, err := os.ReadFile(secret)
		if err != nil {
			return "", fmt.Errorf("the password of the database in %s cannot be read: %w; expected it in %s, and nothing was "+
				"changed", data, err, secret)
		}
		return strings.TrimSpace(string(b)), nil
	}
	fresh := data + ".new"
	for _, unfinished := range []string{fresh, data} { // an interrupted first start left it, and no server can use it
		if err := os.RemoveAll(unfinished); err != nil {
			return "", fmt.Errorf("clear an unfinished data folder: %w", err)
		}
	}
	raw := make([]byte, 24)
	_, _ = rand.Read(raw) // never fails
	password := hex.EncodeToString(raw)
	if err := initialise(bin, fresh, password, who, quick); err != nil {
		return "", err
	}
	if err := os.WriteFile(secret, []byte(password+"\n"), 0o600); err != nil {
		return "", fmt.Errorf("data folder: %w", err)
	}
	if err := os.Rename(fresh, data); err != nil {
		return "", fmt.Errorf("data folder: %w", err)
	}
	if !quick {
		syscall.Sync() // before anything is acknowledged: a power cut must find both
	}
	return password, nil
}

// initialise makes a database cluster in a new folder.
func initialise(bin, data, password string, who *syscall.Credential, quick bool) error {
	pw, err := os.CreateTemp("", "maestrale-*")
	if err != nil {
		return fmt.Errorf("data folder: %w", err)
	}
	defer func() { _ = os.Remove(pw.Name()) }()
	if _, err := pw.WriteString(password); err != nil {
		return fmt.Errorf("data folder: %w", err)
	}
	if err := pw.Close(); err != nil {
		return fmt.Errorf("data folder: %w", err)
	}
	if err := os.MkdirAll(data, 0o700); err != nil {
		return fmt.Errorf("data folder: %w", err)
	}
	if who != nil {
		for _, p := range []string{data, pw.Name()} {
			if err := os.Chown(p, int(who.Uid), int(who.Gid)); err != nil {
				return fmt.Errorf("data folder: %w", err)
			}
		}
		if err := reachable(data); err != nil {
			return err
		}
	}
	args := []string{"-D", data, "-U", "maestrale", "--pwfile", pw.Name(), "--auth=scram-sha-256", "--encoding=UTF8",
		"--locale=C.UTF-8"}
	if quick {
		args = append(args, "--no-sync")
	}
	cmd := exec.Command(filepath.Join(bin, "initdb"), args...)
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: who}
	cmd.Dir = "/"
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("make the database folder %s: %w: %s", data, err, lastLine(out))
	}
	return nil
}

// reachable tells root that the user postgres cannot come to the folder.
func reachable(dir string) error {
	for p := filepath.Dir(dir); ; p = filepath.Dir(p) {
		st, err := os.Stat(p)
		if err != nil {
			return fmt.Errorf("data folder: %w", err)
		}
		if st.Mode().Perm()&0o001 == 0 {
			return fmt.Errorf("the user postgres cannot enter %s; choose a folder elsewhere with --data", p)
		}
		if p == filepath.Dir(p) {
			return nil
		}
	}
}

func lastLine(out []byte) string {
	lines := strings.Split(strings.TrimSpace(string(out)), "\n")
	return lines[len(lines)-1]
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("find a free port: %w", err)
	}
	defer func() { _ = l.Close() }()
	return l.Addr().(*net.TCPAddr).Port, nil
}

func start(ctx context.Context, bin, dir, password string, who *syscall.Credential, o Options) (s *Server, err error) {
	port := o.Port
	if port == 0 {
		if port, err = freePort(); err != nil {
			return nil, err
		}
	}
	args := []string{"-D", filepath.Join(dir, "postgres"), "-c", "listen_addresses=127.0.0.1", "-c", fmt.Sprintf("port=%d",
		port),
		"-c", "unix_socket_directories=", "-c", "timezone=UTC", "-c", "log_min_messages=warning"}
	for _, set := range o.Set {
		args = append(args, "-c", set)
	}
	if o.Quick {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off", "-c",
			"shared_buffers=256MB",
			"-c", "max_wal_size=2GB", "-c", "autovacuum=off")
	}
	s = &Server{
		url:  address(password, port),
		done: make(chan error, 1), log: filepath.Join(dir, "postgres.log"),
	}
	logFile, err := os.OpenFile(s.log, os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o644)
	if err != nil {
		return nil, fmt.Errorf("database log: %w", err)
	}
	s.cmd = exec.Command(filepath.Join(bin, "postgres"), args...)
	s.cmd.Dir = "/"
	s.cmd.Stdout, s.cmd.Stderr = logFile, logFile
	// Its own group, so that Ctrl-C reaches it only after the web server has
	// finished; and an end with us should we be killed.
	s.cmd.SysProcAttr = &syscall.SysProcAttr{Credential: who, Setpgid: true, Pdeathsig: syscall.SIGINT}
	started := make(chan error)
	go func() {
		runtime.LockOSThread() // the parent that Pdeathsig watches is a thread
		defer runtime.UnlockOSThread()
		defer func() { _ = logFile.Close() }()
		if err := s.cmd.Start(); err != nil {
			started <- err
			return
		}
		started <- nil
		s.done <- s.cmd.Wait()
		close(s.done)
	}()
	if err := <-started; err != nil {
		return nil, fmt.Errorf("start PostgreSQL: %w", err)
	}
	if err := s.await(ctx); err != nil {
		_ = s.Stop()
		return nil, err
	}
	return s, nil
}

// await waits until the server answers.
func (s *Server) await(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, 2*time.Minute)
	defer cancel()
	for {
		conn, err := pgx.Connect(ctx, s.url)
		if err == nil {
			return conn.Close(ctx)
		}
		select {
		case <-s.done:
			return fmt.Errorf("PostgreSQL ended: %s (log in %s)", s.complaint(), s.log)
		case <-ctx.Done():
			return fmt.Errorf("PostgreSQL does not answer: %w", err)
		case <-time.After(25 * time.Millisecond):
		}
	}
}

// complaint is the last thing that the server said was wrong.
func (s *Server) complaint() string {
	out, err := os.ReadFile(s.log)
	if err != nil {
		return err.Error()
	}
	lines := bytes.Split(bytes.TrimSpace(out), []byte("\n"))
	slices.Reverse(lines)
	for _, l := range lines {
		if bytes.Contains(l, []byte("FATAL")) || bytes.Contains(l, []byte("ERROR")) || bytes.Contains(l,
			[]byte("could not")) {
			return string(l)
		}
	}
	return lastLine(out)
}

// Kill ends the server and everything it runs at once, as a power cut would.
func (s *Server) Kill() {
	if s.cmd.Process != nil {
		_ = syscall.Kill(-s.cmd.Process.Pid, syscall.SIGKILL) // its group; it may have ended already
		<-s.done
	}
}

// Ended tells whether the server has ended by itself.
func (s *Server) Ended() bool {
	select {
	case <-s.done:
		return true
	default:
		return false
	}
}

// Stop ends the server cleanly and waits for it.
func (s *Server) Stop() error {
	if s.cmd.Process == nil {
		return nil
	}
	_ = s.cmd.Process.Signal(syscall.SIGINT) // fast shutdown; it may have ended already
	select {
	case err := <-s.done:
		var exit *exec.ExitError
		if errors.As(err, &exit) && exit.ExitCode() > 0 {
			return fmt.Errorf("PostgreSQL ended badly: %s", s.complaint())
		}
		return nil
	case <-time.After(time.Minute):
		_ = s.cmd.Process.Kill()
		return errors.New("PostgreSQL did not stop within a minute and was killed; it recovers at the next start")
	}
}

// Running tells how to connect to the server that runs on a data folder, where one does.
func Running(dir string) (url string, runs bool) {
	secret, err := os.ReadFile(filepath.Join(dir, "password"))
	if err != nil {
		return "", false
	}
	lock, err := os.ReadFile(filepath.Join(dir, "postgres", "postmaster.pid"))
	lines := strings.Split(string(lock), "\n")
	if err != nil || len(lines) < 4 { // its process, folder, start and port
		return "", false
	}
	pid, err1 := strconv.Atoi(strings.TrimSpace(lines[0]))
	port, err2 := strconv.Atoi(strings.TrimSpace(lines[3]))
	if err1 != nil || err2 != nil || syscall.Kill(pid, 0) == syscall.ESRCH { // left by a power cut
		return "", false
	}
	return address(strings.TrimSpace(string(secret)), port), true
}

func address(password string, port int) string {
	return fmt.Sprintf("postgres://maestrale:%s@127.0.0.1:%d/postgres?sslmode=disable", password, port)
}

// DataFolder is where the demo keeps its data: beside the checkout, or, for
// root, where the user postgres can come to.
func DataFolder() string {
	here, err := os.Getwd()
	if err != nil || os.Geteuid() != 0 {
		return ".maestrale"
	}
	sum := sha256.Sum256([]byte(here))
	return filepath.Join("/var/lib/maestrale", filepath.Base(here)+"-"+hex.EncodeToString(sum[:4]))
}
