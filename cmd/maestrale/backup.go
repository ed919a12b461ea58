package main

import (
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"maestrale/core/drill"
	"maestrale/internal/backup"
	"maestrale/internal/localpg"
	"maestrale/internal/store"
	"maestrale/internal/web"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"
)

// backupPrinted is maestrale-backup-made/1: a backup that was made.
type backupPrinted struct {
	Format  string    `json:"format"`
	File    string    `json:"file"`
	At      time.Time `json:"at"`
	Bytes   int64     `json:"bytes"`
	SHA256  string    `json:"sha256"`
	Version int64     `json:"tables_version"`
	Tables  int       `json:"tables"`
	Rows    int64     `json:"rows"`
	Chains  int       `json:"chains"`
	Seconds float64   `json:"seconds"`
}

func backupCommand() *cobra.Command {
	var out, into, data string
	c := &cobra.Command{
		Use: "backup --out FILE | backup --into FOLDER",
		Short: "Writes a backup of the whole database while people work, with the owner's login in MIGRATE_URL (or " +
			"DATABASE_URL)",
		Args: cobra.NoArgs,
	}
	c.Flags().StringVar(&out, "out", "", "the new file")
	c.Flags().StringVar(&into, "into", "",
		"a folder that keeps the newest of 7 days, 4 weeks and 12 months, and names the files itself")
	dataFlag(c, &data)
	c.RunE = func(c *cobra.Command, _ []string) error {
		if (out == "") == (into == "") {
			return errors.New("expected --out with the name of a new file, or --into with a folder")
		}
		return onData(c.Context(), data, false, func(url string) error {
			begun := time.Now()
			m, err := makeBackup(c.Context(), url, out, into, begun)
			if err != nil {
				return err
			}
			p := backupPrinted{Format: "maestrale-backup-made/1", File: m.File, At: m.At, Bytes: m.Bytes,
				SHA256: hex.EncodeToString(m.SHA256[:]), Version: m.Version, Tables: len(m.Tables), Chains: len(m.Chains),
				Seconds: time.Since(begun).Seconds()}
			for _, t := range m.Tables {
				p.Rows += t.Rows
			}
			return writeJSON(c.OutOrStdout(), p)
		})
	}
	return c
}

// makeBackup makes a backup as a file, or into a folder from which what is not kept is taken out.
func makeBackup(ctx context.Context, url, out, into string, now time.Time) (*backup.Made, error) {
	if into == "" {
		return backup.To(ctx, url, out, backup.Asked, versionWords(), now)
	}
	folder, err := filepath.Abs(into)
	if err != nil {
		return nil, fmt.Errorf("folder of backups: %w", err)
	}
	k := backup.Keeper{Address: url, Folder: folder, Version: versionWords(), Now: func() time.Time { return now },
		Zone: time.Local}
	m, err := k.Make(ctx, backup.Daily)
	if err != nil {
		return nil, err
	}
	return m, k.Thin()
}

func restoreCommand() *cobra.Command {
	var data string
	c := &cobra.Command{
		Use: "restore FILE",
		Short: "Puts a backup into an empty database, with the owner's login in MIGRATE_URL (or DATABASE_URL), and proves " +
			"the " +
			"copy",
		Args: cobra.ExactArgs(1),
	}
	dataFlag(c, &data)
	c.RunE = func(c *cobra.Command, args []string) error {
		a, err := backup.Open(args[0])
		if err != nil {
			return err
		}
		defer func() { _ = a.Close() }()
		return onData(c.Context(), data, true, func(url string) error {
			proof, err := a.Restore(c.Context(), url, func(ctx context.Context) (string, error) { return servePage(ctx, url) })
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			return writeJSON(c.OutOrStdout(), struct {
				Format string    `json:"format"`
				Of     time.Time `json:"backup_of"`
				backup.Proof
				Seconds float64 `json:"seconds"`
			}{"maestrale-restored/1", a.At, proof, proof.Took.Seconds()})
		})
	}
	return c
}

func dataFlag(c *cobra.Command, data *string) {
	c.Flags().StringVar(data, "data", "", "data folder of maestrale up, instead of MIGRATE_URL")
}

// onData works on the database of a data folder, which is started where it does not run, and made where it may be;
// without a folder on ownersURL.
func onData(ctx context.Context, data string, make bool, run func(url string) error) (err error) {
	if data == "" {
		url, err := ownersURL()
		if err != nil {
			return err
		}
		return run(url)
	}
	if url, runs := localpg.Running(data); runs {
		return run(url)
	}
	if _, err := os.Stat(filepath.Join(data, "postgres")); err != nil && !make {
		return fmt.Errorf("--data is %s, and maestrale up has kept no school there", data)
	}
	pg, err := localpg.Start(ctx, localpg.Options{Dir: data})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, pg.Stop()) }()
	return run(pg.URL())
}

// servePage serves the first page that anybody sees, from the database at an address.
func servePage(ctx context.Context, url string) (string, error) {
	st, err := store.Open(ctx, url, nil)
	if err != nil { // an owner who sets no passwords of others: the page is looked at as the owner
		var oerr error
		if st, oerr = store.OpenAsOwner(ctx, url); oerr != nil {
			return "", errors.Join(err, oerr)
		}
	}
	defer st.Close()
	app, err := web.New(web.Options{Store: st, Catalogue: drill.Shipped(), Log: slog.New(slog.DiscardHandler)})
	if err != nil {
		return "", err
	}
	defer app.Close()
	there, err := st.Founded(ctx)
	if err != nil {
		return "", err
	}
	path := "/sign-in"
	if !there {
		path = "/setup"
	}
	w := httptest.NewRecorder()
	app.ServeHTTP(w, httptest.NewRequestWithContext(ctx, http.MethodGet, path, nil))
	if w.Code != http.StatusOK || !strings.Contains(w.Body.String(), "<form") {
		return "", fmt.Errorf("%s answers %d", path, w.Code)
	}
	return path, nil
}

func rolesCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "roles",
		Short: "Prints the SQL that makes the server's role, which a plain dump does not carry",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			_, err := io.WriteString(c.OutOrStdout(), store.RolesSQL)
			return err
		},
	}
}
