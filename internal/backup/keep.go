package backup

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

// How many backups are kept: the newest of each of so many days, weeks and months.
const (
	keepDays   = 7
	keepWeeks  = 4
	keepMonths = 12
	// keepBefore is how many of those before a migration are kept, besides what their days keep.
	keepBefore = 3
)

const (
	suffix     = ".maestrale"
	nameLayout = "2006-01-02T150405Z"
)

// Kept is a backup in a folder.
type Kept struct {
	File string
	At   time.Time
	Why  string
}

// Surplus tells which backups are not kept: none that is the newest of one of the last seven days, four weeks or twelve
// months that have one, and not the last three before a migration. The newest of all is always kept.
func Surplus(all []Kept, zone *time.Location) []Kept {
	newest := slices.Clone(all)
	slices.SortStableFunc(newest, func(a, b Kept) int { return b.At.Compare(a.At) })
	keep := map[string]bool{}
	period := func(most int, of func(time.Time) string) {
		seen := map[string]bool{}
		for _, k := range newest {
			if p := of(k.At.In(zone)); !seen[p] && len(seen) < most {
				seen[p] = true
				keep[k.File] = true
			}
		}
	}
	period(keepDays, func(t time.Time) string { return t.Format("2006-01-02") })
	period(keepWeeks, func(t time.Time) string { y, w := t.ISOWeek(); return fmt.Sprint(y, w) })
	period(keepMonths, func(t time.Time) string { return t.Format("2006-01") })
	before := 0
	for _, k := range newest {
		if k.Why == BeforeMigration && before < keepBefore {
			before++
			keep[k.File] = true
		}
	}
	return slices.DeleteFunc(newest, func(k Kept) bool { return keep[k.File] })
}

// Keeper makes backups of a database into a folder, one a day, and takes out those that are not kept.
type Keeper struct {
	Address string // the owner's
	Folder  string
	Version string // of the program
	Now     func() time.Time
	Zone    *time.Location
	Log     *slog.Logger
	Every   time.Duration // how often it looks whether one is due; 0 = every minute
	Noted   func(time.Time)
}

// Make makes a backup now.
func (k Keeper) Make(ctx context.Context, why string) (*Made, error) {
	if err := os.MkdirAll(k.Folder, 0o700); err != nil {
		return nil, fmt.Errorf("folder of backups: %w", err)
	}
	now := k.Now()
	file := filepath.Join(k.Folder, now.UTC().Format(nameLayout)+"-"+why+suffix)
	return To(ctx, k.Address, file, why, k.Version, now)
}

// List reads which backups are in the folder; other files are left alone.
func (k Keeper) List() ([]Kept, error) {
	entries, err := os.ReadDir(k.Folder)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("folder of backups: %w", err)
	}
	var out []Kept
	for _, e := range entries {
		when, why, ok := strings.Cut(strings.TrimSuffix(e.Name(), suffix), "Z-")
		at, err := time.Parse(nameLayout, when+"Z")
		if !ok || err != nil || !strings.HasSuffix(e.Name(), suffix) {
			continue
		}
		out = append(out, Kept{filepath.Join(k.Folder, e.Name()), at, why})
	}
	return out, nil
}

// Due tells whether there is no backup of today yet. One in the future, from when the clock was wrong, is none.
func (k Keeper) Due() (bool, error) {
	list, err := k.List()
	if err != nil {
		return false, err
	}
	now := k.Now()
	today := now.In(k.Zone).Format(time.DateOnly)
	return !slices.ContainsFunc(list, func(b Kept) bool {
		return b.At.In(k.Zone).Format(time.DateOnly) == today && !b.At.After(now.Add(time.Minute))
	}), nil
}

// Today makes a backup where none of today is there, and takes out what is not kept.
func (k Keeper) Today(ctx context.Context) error {
	due, err := k.Due()
	if err != nil || !due {
		return err
	}
	m, err := k.Make(ctx, Daily)
	if err != nil {
		return err
	}
	k.Log.InfoContext(ctx, "backup", "file", m.File, "bytes", m.Bytes)
	if k.Noted != nil {
		k.Noted(m.At)
	}
	return k.Thin()
}

// Thin takes out what is not kept.
func (k Keeper) Thin() error {
	list, err := k.List()
	if err != nil {
		return err
	}
	for _, old := range Surplus(list, k.Zone) {
		if err := os.Remove(old.File); err != nil {
			return fmt.Errorf("take out an old backup: %w", err)
		}
	}
	return nil
}

// Run makes a backup each day until the context ends. One that fails is tried again, later and later, an hour at most.
func (k Keeper) Run(ctx context.Context) {
	every := k.Every
	if every == 0 {
		every = time.Minute
	}
	wait := every
	for {
		if err := k.Today(ctx); err != nil && ctx.Err() == nil {
			k.Log.ErrorContext(ctx, msgBackupFailedTried, "error", err)
			wait = min(2*wait, max(time.Hour, every))
		} else {
			wait = every
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(wait):
		}
	}
}
