package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"maestrale/core/drill"
	"maestrale/internal/backup"
	"maestrale/internal/localpg"
	"maestrale/internal/store"
	"maestrale/internal/web"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"
	"gopkg.in/natefinch/lumberjack.v2"
)

func upCommand() *cobra.Command {
	var data string
	c := &cobra.Command{
		Use:   "up",
		Short: "Runs a school without an administrator: a private PostgreSQL, HTTPS, daily backups and the server",
		Args:  cobra.NoArgs,
	}
	how := howFlags(c)
	c.Flags().StringVar(&data, "data", "", "data folder (default .maestrale-school here)")
	c.RunE = func(c *cobra.Command, _ []string) error {
		ctx, stop := untilSignal(c)
		defer stop()
		if data == "" {
			data = schoolFolder()
		}
		// Before anything in it is made for us alone: as root the database's own user has to come through.
		if err := os.MkdirAll(data, 0o755); err != nil {
			return fmt.Errorf("data folder: %w", err)
		}
		how.reach.Folder = filepath.Join(data, "https")
		front, proxies, err := how.listen()
		if err != nil {
			return err
		}
		defer front.Close()
		return onOwnServer(ctx, data, func(url, _ string) error {
			keeper := backup.Keeper{Address: url, Folder: filepath.Join(data, "backups"), Version: versionWords(),
				Now: time.Now, Zone: time.Local}
			if err := bringUpToDate(ctx, c.OutOrStdout(), url, keeper); err != nil {
				return err
			}
			if err := store.Analyze(ctx, url); err != nil { // there may have been a power cut
				return err
			}
			log, closeLog := fileLog(c.ErrOrStderr(), filepath.Join(data, "maestrale.log"))
			defer closeLog()
			keeper.Log = log
			return serve(ctx, c, site{url: url, front: front, proxies: proxies, metrics: how.metrics, cat: drill.Shipped(),
				log: log, keeper: &keeper, connections: how.connections})
		})
	}
	return c
}

// schoolFolder is where up keeps a school where nothing else is said.
func schoolFolder() string { return localpg.DataFolder() + "-school" }

// bringUpToDate migrates; what is there already is backed up before.
func bringUpToDate(ctx context.Context, out io.Writer, url string, keeper backup.Keeper) error {
	there, err := store.TablesVersion(ctx, url)
	if err != nil {
		return err
	}
	var before *backup.Made
	if there > 0 && there < store.Newest() {
		m, err := keeper.Make(ctx, backup.BeforeMigration)
		if err != nil {
			return fmt.Errorf("no backup could be made, so that nothing was brought up to date: %w", err)
		}
		fmt.Fprintf(out, "The tables are brought from version %d to %d. A backup of before is %s\n", there, store.Newest(),
			m.File)
		before = m
	}
	if err := store.Migrate(ctx, url); err != nil || before == nil {
		return err
	}
	return backup.Note(ctx, url, before) // tables of before may have had no place for it
}

// fileLog logs everything into a file that does not grow without end, and what went wrong to the terminal too.
func fileLog(terminal io.Writer, file string) (log *slog.Logger, end func()) {
	roll := &lumberjack.Logger{Filename: file, MaxSize: 10, MaxBackups: 3} // megabytes, files
	h := slog.NewMultiHandler(slog.NewJSONHandler(roll, nil),
		slog.NewTextHandler(terminal, &slog.HandlerOptions{Level: slog.LevelWarn}))
	return slog.New(web.LogHandler{Handler: h}), func() { _ = roll.Close() }
}

// onOwnServer starts a private PostgreSQL where DATABASE_URL names none, and hands its address over.
func onOwnServer(ctx context.Context, data string, run func(url, data string) error) (err error) {
	if url := os.Getenv("DATABASE_URL"); url != "" {
		return run(url, "")
	}
	pg, err := localpg.Start(ctx, localpg.Options{Dir: data})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, pg.Stop()) }()
	return run(pg.URL(), data)
}
