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
		return []Finding{wrong(about, msgSetDatabaseUrl,
			msgNoDatabaseKnown)}
	}
	begun := time.Now()
	st, err := store.Open(ctx, i.Database, nil)
	if err != nil {
		return []Finding{wrong(about,
			msgReadMessageChapter,
			msgServerCouldNot, err)}
	}
	defer st.Close()
	d, err := st.Diagnose(ctx)
	if err != nil {
		return []Finding{wrong(about, msgTryAgainIf, msgDoesNotAnswer,
			err)}
	}
	out := []Finding{good(about, msgPostgresqlAnswersAfter,
		d.Server, time.Since(begun).Milliseconds(), d.Version)}
	if len(d.Loose) > 0 {
		out = append(out, wrong("rights", msgRunMaestraleMigrate,
			msgServerMayDo, strings.Join(d.Loose, "; ")))
	} else {
		out = append(out, good("rights", msgServerLogsWhich, d.Login))
	}
	if free := d.MostConnections - d.Connections; free < 5 {
		out = append(out, wrong("connections",
			msgRaiseMaxConnections,
			msgConnectionsPostgresqlUse, d.Connections, d.MostConnections))
	}
	return out
}

// clock compares this machine's clock with what cannot be in its future.
func (i Installation) clock(ctx context.Context) Finding {
	const about, do = "clock", msgSetClockMachine
	now := i.Now()
	if !i.Built.IsZero() && now.Before(i.Built) {
		return wrong(about, do, msgMachineClockSays,
			now.Format("2 January 2006, 15:04"))
	}
	if i.Database == "" {
		return good(about, "It says %s.", now.Format("2 January 2006, 15:04 MST"))
	}
	st, err := store.Open(ctx, i.Database, nil)
	if err != nil {
		return good(about, msgSaysDatabaseCould,
			now.Format("2 January 2006, 15:04 MST"))
	}
	defer st.Close()
	d, err := st.Diagnose(ctx)
	if err != nil {
		return good(about, msgSaysDatabaseCould,
			now.Format("2 January 2006, 15:04 MST"))
	}
	if off := now.Sub(d.Now).Abs(); off > clockOff {
		return wrong(about, do, msgMachineClockDatabase, off.Round(time.Second))
	}
	return good(about, msgSaysDatabaseDoes, now.Format("2 January 2006, 15:04 MST"))
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
			return wrong(about, msgLookFolder, "%v.", err)
		}
		if mode := info.Mode().Perm(); mode&^most != 0 {
			return wrong(about, fmt.Sprintf("chmod %04o %s", most, file), msgOthersMachineCan, file,
				mode)
		}
	}
	probe, err := os.CreateTemp(i.Data, ".doctor-*")
	if err != nil {
		return wrong(about, msgRunUserWho,
			msgNothingCanWritten, i.Data, err)
	}
	_ = probe.Close()
	_ = os.Remove(probe.Name())
	return good(about, msgOnlySchoolOwn)
}

// disk looks how much room there is.
func (i Installation) disk() Finding {
	const about = "disk"
	var s syscall.Statfs_t
	if err := syscall.Statfs(i.Data, &s); err != nil {
		return wrong(about, msgLookFolder, msgRoomCouldNot, err)
	}
	free := s.Bavail * uint64(s.Bsize)
	if free < leastDisk {
		return wrong(about, msgMakeRoomTake,
			msgOnlyMbFree, free>>20)
	}
	return good(about, msgGbFreeWhere, float64(free)/1e9)
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
			out = append(out, wrong(about, do, msgCannotRead, file, err))
			return
		}
		left := int(cert.NotAfter.Sub(i.Now()).Hours() / 24)
		switch {
		case i.Now().Before(cert.NotBefore):
			out = append(out, wrong(about, msgSetMachineClock, msgValidOnlyFrom, file,
				cert.NotBefore.Format("2 January 2006")))
		case left < certDays:
			out = append(out, wrong(about, do, "%s ends on %s.", file, cert.NotAfter.Format("2 January 2006")))
		default:
			out = append(out, good(about, msgValidUntil, file, cert.NotAfter.Format("2 January 2006")))
		}
	}
	if i.Data != "" {
		look(filepath.Join(i.Data, "https", "authority.pem"), msgMoveFolderHttps)
	}
	if i.CertFile != "" {
		look(i.CertFile, msgRenewWhereMade)
		if _, err := tls.LoadX509KeyPair(i.CertFile, i.KeyFile); err != nil {
			out = append(out, wrong(about, msgGiveKeyBelongs, "%v.", err))
		}
	}
	return out
}

// backup looks how old the newest backup is, and whether it is still there.
func (i Installation) backup(ctx context.Context) Finding {
	const about = "backup"
	if i.Database == "" {
		return wrong(about, msgMendDatabaseFirst, msgNobodyCanAsked)
	}
	st, err := store.Open(ctx, i.Database, nil)
	if err != nil {
		return wrong(about, msgMendDatabaseFirst, msgNobodyCanAsked)
	}
	defer st.Close()
	b, err := st.NewestBackup(ctx)
	switch {
	case err != nil:
		return wrong(about, msgMendDatabaseFirst, msgDatabaseCouldNot, err)
	case b == nil:
		return wrong(about, msgRunMaestraleBackup,
			msgNoBackupDatabase)
	}
	age := i.Now().Sub(b.At)
	if age > oldestBackup {
		return wrong(about, msgRunMaestraleBackupOut,
			msgNewestBackupDays, int(age.Hours()/24), b.At.Local().Format("2 January 2006, 15:04"))
	}
	if filepath.IsAbs(b.File) {
		if _, err := os.Stat(b.File); errors.Is(err, fs.ErrNotExist) {
			return wrong(about, msgIfNotMoved,
				msgNewestBackupFile, b.At.Local().Format("2 January, 15:04"), b.File)
		}
	}
	return good(about, msgTheNewestIs, b.At.Local().Format("2 January 2006, 15:04"), b.File)
}

// memory looks how much memory is left.
func memory() Finding {
	const about = "memory"
	f, err := os.Open("/proc/meminfo")
	if err != nil {
		return good(about, msgNotKnownHow)
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
			return wrong(about, msgEndOtherPrograms, msgOnlyMbMemory, free>>20)
		}
		return good(about, msgGbFree, float64(kB)/1e6)
	}
	return good(about, msgNotKnownHow)
}
