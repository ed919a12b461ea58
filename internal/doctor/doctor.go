// Package doctor looks at an installation and says in plain words what is wrong with it, and what to do.
package doctor

import (
	"bufio"
	"context"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"maestrale/internal/store"
)

// Finding is what was found of one thing.
type Finding struct {
	About string `json:"about"`
	Wrong bool   `json:"wrong"`
	Words string `json:"words"`
	Do    string `json:"do,omitempty"` // what helps, where something is wrong
}

// Installation is what is looked at. Empty fields are not looked at.
type Installation struct {
	Database string // the address at which the server works
	Owner    string // the address of the owner, where it is known
	Data     string // the data folder
	CertFile string
	KeyFile  string
	Built    time.Time // when the program was made
	Now      func() time.Time
}

// The limits beyond which something is wrong.
const (
	leastDisk    = 500 << 20
	leastMemory  = 200 << 20
	oldestBackup = 48 * time.Hour
	clockOff     = 5 * time.Second
	certDays     = 14
)

// Look looks at everything.
func (i Installation) Look(ctx context.Context) []Finding {
	if i.Now == nil {
		i.Now = time.Now
	}
	out := i.database(ctx)
	out = append(out, i.clock(ctx))
	if i.Data != "" {
		out = append(out, i.permissions(), i.disk())
	}
	out = append(out, i.certificates()...)
	out = append(out, i.backup(ctx), memory())
	return out
}

func good(about, format string, args ...any) Finding {
	return Finding{About: about, Words: fmt.Sprintf(format, args...)}
}

func wrong(about, do, format string, args ...any) Finding {
	return Finding{About: about, Wrong: true, Words: fmt.Sprintf(format, args...), Do: do}
}

// database looks whether the server can work, with which rights, and on which version of the tables.
func (i Installation) database(ctx context.Context) []Finding {
	const about = "database"
	if i.Database == "" {
		return []Finding{wrong(about, "Set DATABASE_URL, or start the school with maestrale up.",
			"No database is known: DATABASE_URL is not set, and no school runs from this folder.")}
	}
	begun := time.Now()
	st, err := store.Open(ctx, i.Database, nil)
	if err != nil {
		return []Finding{wrong(about,
			"Read the message; the chapter “When something fails” of docs/operating.md goes on from it.",
			"The server could not work: %v.", err)}
	}
	defer st.Close()
	d, err := st.Diagnose(ctx)
	if err != nil {
		return []Finding{wrong(about, "Try again; if it stays so, look into PostgreSQL's log.", "It does not answer: %v.",
			err)}
	}
	out := []Finding{good(about, "PostgreSQL %s answers after %d ms; the tables have version %d, as this program needs.",
		d.Server, time.Since(begun).Milliseconds(), d.Version)}
	if len(d.Loose) > 0 {
		out = append(out, wrong("rights", "Run maestrale migrate with the owner's login in MIGRATE_URL.",
			"The server may do more than its work: %s.", strings.Join(d.Loose, "; ")))
	} else {
		out = append(out, good("rights", "The server logs in as %s, which can do its work and nothing else.", d.Login))
	}
	if free := d.MostConnections - d.Connections; free < 5 {
		out = append(out, wrong("connections",
			"Raise max_connections of PostgreSQL, or give the server fewer with --connections.",
			"%d of %d connections of PostgreSQL are in use.", d.Connections, d.MostConnections))
	}
	return out
}

// clock compares this machine's clock with what cannot be in its future.
func (i Installation) clock(ctx context.Context) Finding {
	const about, do = "clock", "Set the clock of this machine; at a field without internet by hand, with date -s."
	now := i.Now()
	if !i.Built.IsZero() && now.Before(i.Built) {
		return wrong(about, do, "This machine's clock says %s, and this program was made after that.",
			now.Format("2 January 2006, 15:04"))
	}
	if i.Database == "" {
		return good(about, "It says %s.", now.Format("2 January 2006, 15:04 MST"))
	}
	st, err := store.Open(ctx, i.Database, nil)
	if err != nil {
		return good(about, "It says %s; the database could not be asked for its own.",
			now.Format("2 January 2006, 15:04 MST"))
	}
	defer st.Close()
	d, err := st.Diagnose(ctx)
	if err != nil {
		return good(about, "It says %s; the database could not be asked for its own.",
			now.Format("2 January 2006, 15:04 MST"))
	}
	if off := now.Sub(d.Now).Abs(); off > clockOff {
		return wrong(about, do, "This machine's clock and the database's differ by %s.", off.Round(time.Second))
	}
	return good(about, "It says %s, as the database's does.", now.Format("2 January 2006, 15:04 MST"))
}

// permissions looks who can read what only the school may.
func (i Installation) permissions() Finding {
	const about = "permissions"
	for name, most := range map[string]fs.FileMode{"password": 0o600, "https/authority.key": 0o600, "https": 0o700,
		"backups": 0o700, "postgres": 0o700} {
		file := filepath.Join(i.Data, name)
		info, err := os.Stat(file)
		if errors.Is(err, fs.ErrNotExist) || errors.Is(err, fs.ErrPermission) {
			continue
		}
		if err != nil {
			return wrong(about, "Look at the folder.", "%v.", err)
		}
		if mode := info.Mode().Perm(); mode&^most != 0 {
			return wrong(about, fmt.Sprintf("chmod %04o %s", most, file), "Others on this machine can read %s (%04o).", file,
				mode)
		}
	}
	probe, err := os.CreateTemp(i.Data, ".doctor-*")
	if err != nil {
		return wrong(about, "Run this as the user who runs the server, or give that user the folder.",
			"Nothing can be written into %s: %v.", i.Data, err)
	}
	_ = probe.Close()
	_ = os.Remove(probe.Name())
	return good(about, "Only the school's own user reads the keys, the password and the backups.")
}

// disk looks how much room there is.
func (i Installation) disk() Finding {
	const about = "disk"
	var s syscall.Statfs_t
	if err := syscall.Statfs(i.Data, &s); err != nil {
		return wrong(about, "Look at the folder.", "Its room could not be asked for: %v.", err)
	}
	free := s.Bavail * uint64(s.Bsize)
	if free < leastDisk {
		return wrong(about, "Make room: take old backups and logs to another disk.",
			"Only %d MB are free where the data are; a full disk stops the school.", free>>20)
	}
	return good(about, "%.1f GB are free where the data are.", float64(free)/1e9)
}

// certificates looks until when those of this installation are valid.
func (i Installation) certificates() (out []Finding) {
	const about = "certificate"
	look := func(file, do string) {
		data, err := os.ReadFile(file)
		if errors.Is(err, fs.ErrNotExist) {
			return
		}
		var cert *x509.Certificate
		if err == nil {
			block, _ := pem.Decode(data)
			for block != nil && block.Type != "CERTIFICATE" {
				block, data = pem.Decode(data)
			}
			if block == nil {
				err = errors.New("there is no certificate in it")
			} else {
				cert, err = x509.ParseCertificate(block.Bytes)
			}
		}
		if err != nil {
			out = append(out, wrong(about, do, "%s cannot be read: %v.", file, err))
			return
		}
		left := int(cert.NotAfter.Sub(i.Now()).Hours() / 24)
		switch {
		case i.Now().Before(cert.NotBefore):
			out = append(out, wrong(about, "Set this machine's clock.", "%s is valid only from %s on.", file,
				cert.NotBefore.Format("2 January 2006")))
		case left < certDays:
			out = append(out, wrong(about, do, "%s ends on %s.", file, cert.NotAfter.Format("2 January 2006")))
		default:
			out = append(out, good(about, "%s is valid until %s.", file, cert.NotAfter.Format("2 January 2006")))
		}
	}
	if i.Data != "" {
		look(filepath.Join(i.Data, "https", "authority.pem"), "Move the folder https away, start again, and let the phones "+
			"trust the new authority.")
	}
	if i.CertFile != "" {
		look(i.CertFile, "Renew it where it was made; the server takes the new files without a restart.")
		if _, err := tls.LoadX509KeyPair(i.CertFile, i.KeyFile); err != nil {
			out = append(out, wrong(about, "Give the key that belongs to the certificate.", "%v.", err))
		}
	}
	return out
}

// backup looks how old the newest backup is, and whether it is still there.
func (i Installation) backup(ctx context.Context) Finding {
	const about = "backup"
	if i.Database == "" {
		return wrong(about, "Mend the database first.", "Nobody can be asked for backups.")
	}
	st, err := store.Open(ctx, i.Database, nil)
	if err != nil {
		return wrong(about, "Mend the database first.", "Nobody can be asked for backups.")
	}
	defer st.Close()
	b, err := st.NewestBackup(ctx)
	switch {
	case err != nil:
		return wrong(about, "Mend the database first.", "The database could not be asked for backups: %v.", err)
	case b == nil:
		return wrong(about, "Run maestrale backup --out FILE, or let maestrale up do it every day.",
			"No backup of this database was ever made.")
	}
	age := i.Now().Sub(b.At)
	if age > oldestBackup {
		return wrong(about, "Run maestrale backup --out FILE, and see why the daily one is missing.",
			"The newest backup is %d days old, of %s.", int(age.Hours()/24), b.At.Local().Format("2 January 2006, 15:04"))
	}
	if filepath.IsAbs(b.File) {
		if _, err := os.Stat(b.File); errors.Is(err, fs.ErrNotExist) {
			return wrong(about, "If it was not moved to a safe place, make another.",
				"The newest backup is of %s, and its file %s is not there.", b.At.Local().Format("2 January, 15:04"), b.File)
		}
	}
	return good(about, "The newest is of %s: %s.", b.At.Local().Format("2 January 2006, 15:04"), b.File)
}

// memory looks how much memory is left.
func memory() Finding {
	const about = "memory"
	f, err := os.Open("/proc/meminfo")
	if err != nil {
		return good(about, "It is not known how much is free.")
	}
	defer func() { _ = f.Close() }()
	for lines := bufio.NewScanner(f); lines.Scan(); {
		words := strings.Fields(lines.Text())
		if len(words) < 2 || words[0] != "MemAvailable:" {
			continue
		}
		kB, err := strconv.ParseInt(words[1], 10, 64)
		if err != nil {
			break
		}
		if free := kB << 10; free < leastMemory {
			return wrong(about, "End other programs.", "Only %d MB of memory are free.", free>>20)
		}
		return good(about, "%.1f GB are free.", float64(kB)/1e6)
	}
	return good(about, "It is not known how much is free.")
}
