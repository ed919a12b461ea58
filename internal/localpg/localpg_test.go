package localpg

import (
	"context"
	"os"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
)

// dataFolder is a folder that the user postgres can enter; it goes with the test.
func dataFolder(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("", "maestrale-pg-*")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	return dir
}

func TestStartStopAndFindTheDataAgain(t *testing.T) {
	ctx := context.Background()
	dir := dataFolder(t)
	s, err := Start(ctx, Options{Dir: dir})
	if err != nil {
		t.Fatal(err)
	}
	exec := func(url, sql string) error {
		c, err := pgx.Connect(ctx, url)
		if err != nil {
			return err
		}
		defer func() { _ = c.Close(ctx) }()
		_, err = c.Exec(ctx, sql)
		return err
	}
	if err := exec(s.URL(), "CREATE TABLE kept (x int)"); err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(s.URL(), "@127.0.0.1:") {
		t.Errorf("it does not listen on loopback: %s", s.URL())
	}
	if err := exec(strings.Replace(s.URL(), "maestrale:", "maestrale:x", 1), "SELECT 1"); err == nil {
		t.Error("a wrong password was let in")
	}
	if _, err := Start(ctx, Options{Dir: dir}); err == nil {
		t.Error("a second server was started on the same data")
	}
	if err := s.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := exec(s.URL(), "SELECT 1"); err == nil {
		t.Error("the server answers after it was stopped")
	}
	again, err := Start(ctx, Options{Dir: dir})
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = again.Stop() }()
	if err := exec(again.URL(), "SELECT * FROM kept"); err != nil {
		t.Errorf("the data are gone: %v", err)
	}
}

func TestAnUnfinishedFolderIsMadeAnew(t *testing.T) {
	dir := dataFolder(t)
	if err := os.MkdirAll(dir+"/postgres/base", 0o755); err != nil {
		t.Fatal(err)
	}
	s, err := Start(context.Background(), Options{Dir: dir, Quick: true})
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Stop(); err != nil {
		t.Error(err)
	}
}

// After a power cut the server starts again at once, while the last processes of the one before still end, and what was
// acknowledged is there.
func TestAfterAPowerCut(t *testing.T) {
	ctx := context.Background()
	dir := dataFolder(t)
	for i := range 4 {
		s, err := Start(ctx, Options{Dir: dir})
		if err != nil {
			t.Fatalf("after %d cuts: %v", i, err)
		}
		if url, runs := Running(dir); !runs || url != s.URL() {
			t.Errorf("it runs at %s and is found at %s, %v", s.URL(), url, runs)
		}
		c, err := pgx.Connect(ctx, s.URL())
		if err != nil {
			t.Fatal(err)
		}
		if _, err := c.Exec(ctx, "CREATE TABLE IF NOT EXISTS kept (x int)"); err != nil {
			t.Fatal(err)
		}
		var n int
		if err := c.QueryRow(ctx, "WITH i AS (INSERT INTO kept VALUES (1)) SELECT count(*) FROM kept").Scan(&n); err != nil ||
			n != i {
			t.Errorf("after %d cuts %d rows are there, %v", i, n, err)
		}
		s.Kill()
		if _, runs := Running(dir); runs {
			t.Error("what a cut has left is taken for a server that runs")
		}
	}
}

// A folder whose password was lost is left as it is.
func TestALostPasswordDestroysNothing(t *testing.T) {
	dir := dataFolder(t)
	s, err := Start(context.Background(), Options{Dir: dir, Quick: true})
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := os.Remove(dir + "/password"); err != nil {
		t.Fatal(err)
	}
	if _, err := Start(context.Background(), Options{Dir: dir, Quick: true}); err == nil ||
		!strings.Contains(err.Error(), "password") {
		t.Errorf("%v", err)
	}
	if _, err := os.Stat(dir + "/postgres/PG_VERSION"); err != nil {
		t.Errorf("the data are gone: %v", err)
	}
}
