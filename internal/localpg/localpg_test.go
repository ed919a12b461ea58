package localpg

import (
	"context"
	"os"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
)

func TestStartStopAndFindTheDataAgain(t *testing.T) {
	ctx := context.Background()
	dir, err := os.MkdirTemp("", "maestrale-pg-*")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = os.RemoveAll(dir) }()
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
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
	dir, err := os.MkdirTemp("", "maestrale-pg-*")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = os.RemoveAll(dir) }()
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
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
