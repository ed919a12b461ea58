package backup

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/localpg"
	"maestrale/internal/store"
)

var (
	source, target string // two servers, as on two machines
	ctx            = context.Background()
)

func TestMain(m *testing.M) {
	var ends []func()
	code := 1
	for _, to := range []*string{&source, &target} {
		u, end, err := localpg.ForTest()
		if err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		*to = u
		ends = append(ends, end)
	}
	if err := store.Migrate(ctx, source); err != nil {
		fmt.Fprintln(os.Stderr, err)
	} else {
		code = m.Run()
	}
	for _, end := range ends {
		end()
	}
	os.Exit(code)
}

// on makes an empty database on a server.
func on(t testing.TB, server string) string {
	t.Helper()
	name := "t" + strings.ReplaceAll(uuid.NewString(), "-", "")
	conn, err := pgx.Connect(ctx, server)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		_, _ = conn.Exec(ctx, "DROP DATABASE "+name+" WITH (FORCE)")
		_ = conn.Close(ctx)
	})
	if _, err := conn.Exec(ctx, "CREATE DATABASE "+name); err != nil {
		t.Fatal(err)
	}
	return strings.Replace(server, "/postgres?", "/"+name+"?", 1)
}

// working is a school in which an attempt is recorded again and again.
type working struct {
	st              *store.Store
	school, student uuid.UUID
	by              uuid.UUID
	kept            atomic.Int64
}

func work(t *testing.T) *working {
	t.Helper()
	w := &working{school: store.NewID(), student: store.NewID(), by: store.NewID()}
	if err := store.AddSchool(ctx, source, w.school, "School "+w.school.String(), "Europe/Rome"); err != nil {
		t.Fatal(err)
	}
	var err error
	if w.st, err = store.Open(ctx, source, nil); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(w.st.Close)
	if err := w.st.InSchool(ctx, w.school, func(tx store.Tx) error {
		return errors.Join(tx.AddStudent(ctx, store.Student{ID: w.student, Name: "A student", Programme: "hands-first",
			CraftType: "gheppio", StartedOn: time.Now()}), tx.AddAccount(ctx, store.Account{ID: w.by, Email: w.by.String() +
			"@x.example", Name: "An instructor", Role: store.Instructor, PasswordHash: "x"}))
	}); err != nil {
		t.Fatal(err)
	}
	return w
}

func (w *working) record(t *testing.T) {
	t.Helper()
	d, err := drill.Shipped().Drill("hover-tail-in")
	if err != nil {
		t.Fatal(err)
	}
	a := store.NewAttempt{StudentID: w.student, By: w.by, Result: &score.Result{Verdict: score.Pass,
		AspectS: [field.Sectors]float64{20}}, Attempt: record.Attempt{ID: store.NewID().String(), At: time.Now(),
		Side: field.NoSide,
		Aids: "position-hold", CraftClass: "light", Drill: d.Key, Source: "observed", Level: 1, Verdict: score.Pass,
		Counts: true}, Drill: d,
		CraftType: "gheppio"}
	if err := w.st.InSchool(ctx, w.school, func(tx store.Tx) error {
		_, err := tx.Keep(ctx, w.student, a)
		return err
	}); err != nil {
		t.Error(err)
		return
	}
	w.kept.Add(1)
}

// servedPage stands for the server's own page: the command serves a real one.
func servedPage(context.Context) (string, error) { return "a page", nil }

func TestABackupWhilePeopleWork(t *testing.T) {
	w := work(t)
	for range 20 {
		w.record(t)
	}
	stop, done := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(done)
		for {
			select {
			case <-stop:
				return
			default:
				w.record(t)
			}
		}
	}()
	before := w.kept.Load()
	file := filepath.Join(t.TempDir(), "one.maestrale")
	m, err := To(ctx, source, file, Asked, "test", time.Now())
	after := w.kept.Load()
	close(stop)
	<-done
	if err != nil {
		t.Fatal(err)
	}
	a, err := Open(file)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = a.Close() }()
	to := on(t, target)
	p, err := a.Restore(ctx, to, servedPage)
	if err != nil {
		t.Fatal(err)
	}
	if p.Tables != len(m.Tables) || p.Tables < 40 || p.Entries < before || p.Entries > after+1 || p.Guards.Policies < 30 ||
		p.Guards.RowSecurity < 30 || p.Guards.Triggers < 10 || p.Guards.Grants < 50 {
		t.Errorf("%+v; %d attempts before and %d after", p, before, after)
	}
	// The copy is one to work with: schools are apart, records cannot be changed, and the chain goes on.
	st, err := store.Open(ctx, to, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	copied := &working{st: st, school: w.school, student: w.student, by: w.by}
	copied.record(t)
	if err := st.InSchool(ctx, w.school, func(tx store.Tx) error {
		_, err := tx.Exec(ctx, "UPDATE attempts SET verdict = 'fail'")
		return err
	}); err == nil {
		t.Error("an attempt of the copy was changed")
	}
	if err := st.InSchool(ctx, store.NewID(), func(tx store.Tx) error {
		var n int
		if err := tx.QueryRow(ctx, "SELECT count(*) FROM attempts").Scan(&n); err != nil || n != 0 {
			t.Errorf("another school sees %d attempts of the copy, %v", n, err)
		}
		return nil
	}); err != nil {
		t.Error(err)
	}
	// Not twice into the same, and nothing was lost of it.
	if _, err := a.Restore(ctx, to, servedPage); err == nil || !strings.Contains(err.Error(), "not empty") {
		t.Errorf("over a school: %v", err)
	}
	copied.record(t)
	// The source knows of its backup.
	var bytes int64
	conn, err := pgx.Connect(ctx, source)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(ctx) }()
	info, statErr := os.Stat(file)
	if err := conn.QueryRow(ctx, "SELECT bytes FROM maestrale.backups WHERE file = $1", file).Scan(&bytes); err != nil ||
		statErr != nil || bytes != info.Size() || info.Mode().Perm() != 0o600 {
		t.Errorf("%d bytes noted, %v, %v, %v", bytes, info, err, statErr)
	}
}

// Every damaged byte of the database and the manifest is found before anything is restored (what stands twice in the
// archive's own headers is not looked at), and a restore that fails leaves an empty database.
func TestDamagedBackups(t *testing.T) {
	w := work(t)
	w.record(t)
	file := filepath.Join(t.TempDir(), "one.maestrale")
	if _, err := To(ctx, source, file, Asked, "test", time.Now()); err != nil {
		t.Fatal(err)
	}
	whole, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	broken := filepath.Join(t.TempDir(), "broken.maestrale")
	for i := range 60 {
		data := bytes.Clone(whole)
		at := 80 + i*(len(data)-160)/60
		data[at] ^= 0x20
		if err := os.WriteFile(broken, data, 0o600); err != nil {
			t.Fatal(err)
		}
		if a, err := Open(broken); err == nil {
			_ = a.Close()
			t.Errorf("byte %d of %d was changed, and nobody noticed", at, len(data))
		} else if !strings.Contains(err.Error(), broken) {
			t.Errorf("which file is meant? %v", err)
		}
	}
	for _, n := range []int{0, 1, 100, len(whole) / 2, len(whole) - 1} {
		if err := os.WriteFile(broken, whole[:n], 0o600); err != nil {
			t.Fatal(err)
		}
		if _, err := Open(broken); err == nil {
			t.Errorf("%d of %d bytes are taken for a backup", n, len(whole))
		}
	}
	a, err := Open(file)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = a.Close() }()
	to := on(t, target)
	if _, err := a.Restore(ctx, to, func(context.Context) (string, error) {
		return "",
			errors.New("no page")
	}); err == nil {
		t.Error("a copy without a page was called good")
	}
	a.Tables[0].Rows++
	if _, err := a.Restore(ctx, to, servedPage); err == nil || !strings.Contains(err.Error(), a.Tables[0].Name) {
		t.Errorf("a row too few: %v", err)
	}
	a.Tables[0].Rows--
	a.Version += 1000
	if _, err := a.Restore(ctx, to, servedPage); err == nil || !strings.Contains(err.Error(), "newer") {
		t.Errorf("a newer one: %v", err)
	}
	a.Version -= 1000
	if _, err := a.Restore(ctx, to, servedPage); err != nil {
		t.Errorf("after three that failed: %v", err)
	}
	if _, err := To(ctx, source, file, Asked, "test", time.Now()); err == nil {
		t.Error("a backup was overwritten")
	}
	full := filepath.Join(t.TempDir(), "nowhere", "x.maestrale")
	if _, err := To(ctx, source, full, Asked, "test", time.Now()); err == nil {
		t.Error("a folder that is not there was written to")
	}
}

// A plain dump goes into a fresh cluster without one error, once the server's role is there: maestrale roles makes it.
func TestPlainDumpAndRestore(t *testing.T) {
	w := work(t)
	w.record(t)
	file := filepath.Join(t.TempDir(), "plain.dump")
	fresh, end, err := localpg.ForTest()
	if err != nil {
		t.Fatal(err)
	}
	defer end()
	run := func(name, address string, args ...string) string {
		t.Helper()
		p, err := program(name)
		if err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command(p, append(args, "-d", address)...).CombinedOutput()
		if err != nil {
			t.Errorf("%s: %v\n%s", name, err, out)
		}
		return string(out)
	}
	run("pg_dump", source, "-Fc", "-f", file)
	run("psql", fresh, "-v", "ON_ERROR_STOP=1", "-c", store.RolesSQL)
	if out := run("pg_restore", fresh, file); out != "" {
		t.Errorf("pg_restore complains: %s", out)
	}
	if err := store.Migrate(ctx, fresh); err != nil {
		t.Fatal(err)
	}
	st, err := store.Open(ctx, fresh, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	(&working{st: st, school: w.school, student: w.student, by: w.by}).record(t)
}

// A day without a backup gets one; a clock that was ahead for a while hides none.
func TestTheDailyBackup(t *testing.T) {
	now := time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC)
	k := Keeper{Address: source, Folder: filepath.Join(t.TempDir(), "backups"), Version: "test",
		Now: func() time.Time { return now }, Zone: time.UTC, Log: slog.New(slog.DiscardHandler)}
	count := func() int {
		list, err := k.List()
		if err != nil {
			t.Fatal(err)
		}
		return len(list)
	}
	for i, c := range []struct {
		at   time.Time
		many int
	}{
		{now, 1}, {now.Add(time.Hour), 1}, {now.AddDate(0, 0, 1), 2},
		{now.AddDate(0, 0, 30), 3}, // the clock is a month ahead
		{now.AddDate(0, 0, 2), 4},  // and right again
		{now.AddDate(0, 0, 2).Add(time.Hour), 4},
	} {
		now = c.at
		if err := k.Today(ctx); err != nil {
			t.Fatal(err)
		}
		if got := count(); got != c.many {
			t.Errorf("step %d: %d backups, %d expected", i, got, c.many)
		}
	}
	if err := os.WriteFile(filepath.Join(k.Folder, "notes.txt"), []byte("mine"), 0o600); err != nil {
		t.Fatal(err)
	}
	for d := range 40 {
		now = now.AddDate(0, 0, d)
		if err := os.WriteFile(filepath.Join(k.Folder, now.Format(nameLayout)+"-"+BeforeMigration+suffix), nil,
			0o600); err != nil {
			t.Fatal(err)
		}
	}
	now = now.AddDate(0, 0, 1)
	if err := k.Today(ctx); err != nil {
		t.Fatal(err)
	}
	if got := count(); got > keepDays+keepWeeks+keepMonths+keepBefore {
		t.Errorf("%d are kept", got)
	}
	if _, err := os.Stat(filepath.Join(k.Folder, "notes.txt")); err != nil {
		t.Error("somebody's own file was taken out")
	}
}
