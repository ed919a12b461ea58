package main

import (
	"bytes"
	"context"
	"crypto/ed25519"
	"crypto/rand"
	"crypto/x509"
	"encoding/pem"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"maestrale/core/misread"
	"maestrale/core/record"
	"maestrale/internal/exchange"
	"maestrale/internal/store"
)

// errUnsound is returned by verify alone: it ends with status 1.
var errUnsound = errors.New("the record is not sound")

// verification is maestrale-verification/1.
type verification struct {
	Format   string           `json:"format"`
	Sound    bool             `json:"sound"`
	Why      string           `json:"why"`
	Row      int64            `json:"row"` // of the chain, where it is broken; 0 = elsewhere
	SignedBy record.Signature `json:"signature"`
	Pinned   bool             `json:"pinned"` // the key is the one that was asked for
	Student  record.Student   `json:"student"`
	Attempts int              `json:"attempts"`
	Entries  int              `json:"entries"`
	Newest   time.Time        `json:"newest"`
}

func verifyCommand() *cobra.Command {
	var key, school string
	c := &cobra.Command{
		Use: "verify [--key BASE64] FILE | verify --school-id ID",
		Short: "Verifies an exported record: its signature, its chain and its marks; or the records of a school in the " +
			"database; status 1 where one is broken",
		Args: cobra.MaximumNArgs(1),
	}
	c.Flags().StringVar(&school, "school-id", "", "the school whose records are verified, in the database at DATABASE_URL")
	c.Flags().StringVar(&key, "key", "", "the public key of the school that has to have signed it")
	c.RunE = func(c *cobra.Command, args []string) error {
		if (school != "") == (len(args) == 1) {
			return errors.New("nothing was verified; expected a FILE or --school-id")
		}
		if school != "" {
			return verifySchool(c, school)
		}
		var pinned ed25519.PublicKey
		if key != "" {
			var err error
			if pinned, err = record.ReadKey(key); err != nil {
				return misread.InFile("--key", err)
			}
		}
		in, err := input(c, args[0])
		if err != nil {
			return err
		}
		defer func() { _ = in.Close() }()
		_, v, left, err := record.ReadExported(in, pinned)
		if err != nil {
			return misread.InFile(args[0], err)
		}
		notes(c, args[0], left)
		if err := writeJSON(c.OutOrStdout(), verification{"maestrale-verification/1", v.Sound, v.Why, v.Row, v.Signature,
			pinned != nil, v.Student, v.Attempts, v.Entries, v.Newest}); err != nil {
			return err
		}
		if !v.Sound {
			return fmt.Errorf("%w: %s", errUnsound, v.Why)
		}
		return nil
	}
	return c
}

// schoolVerification is what was found of a school's records, as maestrale-school-verification/1.
type schoolVerification struct {
	Format   string         `json:"format"`
	Sound    bool           `json:"sound"`
	Students int            `json:"students"`
	Entries  int            `json:"entries"`
	Marked   int            `json:"marked"` // attempts whose marks were compared with the chain
	Broken   []brokenRecord `json:"broken"`
}

type brokenRecord struct {
	Student string `json:"student"`
	Row     int64  `json:"row"` // of the chain; 0 = elsewhere
	Why     string `json:"why"`
}

// verifySchool verifies the chain and the marks of every student of a school.
func verifySchool(c *cobra.Command, school string) error {
	out := schoolVerification{Format: "maestrale-school-verification/1", Broken: []brokenRecord{}}
	err := inSchool(c, "--school-id", school, func(tx store.Tx) error {
		list, err := tx.Students(c.Context())
		if err != nil {
			return err
		}
		for _, st := range list {
			rec, err := tx.Record(c.Context(), st.ID)
			if err != nil {
				return err
			}
			out.Students++
			out.Entries, out.Marked = out.Entries+len(rec.Chain), out.Marked+len(rec.Marks)
			if why, row := rec.Broken(); why != "" {
				out.Broken = append(out.Broken, brokenRecord{st.ID.String(), row, why})
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	out.Sound = len(out.Broken) == 0
	if err := writeJSON(c.OutOrStdout(), out); err != nil || out.Sound {
		return err
	}
	return fmt.Errorf("%w: %d records are broken", errUnsound, len(out.Broken))
}

func exportCommand() *cobra.Command {
	var file, keyFile, out, school, student string
	c := &cobra.Command{
		Use: "export (--student ID --school-id ID | --record FILE --key FILE) [--out FILE]",
		Short: "Writes a student's record, signed: from the database at DATABASE_URL, or from a record file with a key " +
			"file (made where it is not there)",
		Args: cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&student, "student", "", "the student's id")
	f.StringVar(&school, "school-id", "", "the school's id")
	f.StringVar(&file, "record", "", "a record that is not signed (maestrale-record/1)")
	f.StringVar(&keyFile, "key", "", "Ed25519 key, PKCS 8 in PEM")
	f.StringVar(&out, "out", "-", "where to write; - is standard output")
	c.RunE = func(c *cobra.Command, _ []string) error {
		var data []byte
		switch {
		case file != "" && keyFile != "" && student == "":
			var err error
			if data, err = signedFile(c, file, keyFile); err != nil {
				return err
			}
		case student != "" && school != "" && file == "":
			err := inSchool(c, "--school-id", school, func(tx store.Tx) error {
				id, err := uuid.Parse(student)
				if err != nil {
					return fmt.Errorf("--student is %q; expected an id", student)
				}
				rec, err := tx.Record(c.Context(), id)
				if errors.Is(err, store.ErrNotFound) {
					return fmt.Errorf("--student is %q; expected a student of the school", student)
				}
				if err != nil {
					return err
				}
				key, err := tx.SigningKey(c.Context())
				if err != nil {
					return err
				}
				data, err = record.Sign(rec, key, time.Now())
				return err
			})
			if err != nil {
				return err
			}
		default:
			return errors.New("export names no record; expected --student and --school-id, or --record and --key")
		}
		return writeOut(c, out, data)
	}
	return c
}

// signedFile signs a record of a file with a key of another, which is made where it is not there.
func signedFile(c *cobra.Command, file, keyFile string) ([]byte, error) {
	rec, err := readRecord(c, file)
	if err != nil {
		return nil, err
	}
	key, err := keyOf(keyFile)
	if err != nil {
		return nil, err
	}
	chain, err := record.Chained(rec)
	if err != nil {
		return nil, err
	}
	return record.Sign(&record.Exported{Record: *rec, Chain: chain}, key, time.Now())
}

// writeOut writes a file whole, or standard output.
func writeOut(c *cobra.Command, out string, data []byte) error {
	if out == "-" {
		_, err := c.OutOrStdout().Write(data)
		return err
	}
	if err := os.WriteFile(out, data, 0o644); err != nil {
		return fmt.Errorf("cannot write %s: %w; expected a place that can be written", out, err)
	}
	return nil
}

// keyOf reads a key file, and makes one where it is not there.
func keyOf(name string) (ed25519.PrivateKey, error) {
	data, err := os.ReadFile(name)
	if errors.Is(err, os.ErrNotExist) {
		_, key, err := ed25519.GenerateKey(rand.Reader)
		if err != nil {
			return nil, fmt.Errorf("make a key: %w", err)
		}
		der, err := x509.MarshalPKCS8PrivateKey(key)
		if err == nil {
			err = os.WriteFile(name, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: der}), 0o600)
		}
		if err != nil {
			return nil, fmt.Errorf("write the key %s: %w", name, err)
		}
		return key, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read the key %s: %w", name, err)
	}
	return readKey(name, data)
}

// readKey reads a signing key.
func readKey(name string, data []byte) (ed25519.PrivateKey, error) {
	block, _ := pem.Decode(data)
	if block == nil {
		return nil, fmt.Errorf("%s: no PEM, and a PKCS 8 key in PEM was expected", name)
	}
	any, err := x509.ParsePKCS8PrivateKey(block.Bytes)
	key, ok := any.(ed25519.PrivateKey)
	if err != nil || !ok {
		return nil, fmt.Errorf("%s: no Ed25519 key, and one in PKCS 8 was expected", name)
	}
	return key, nil
}

// onDatabase works on the database at DATABASE_URL.
func onDatabase(c *cobra.Command, f func(*store.Store) error) error {
	url, err := databaseURL()
	if err != nil {
		return err
	}
	st, err := store.Open(c.Context(), url, nil)
	if err != nil {
		return err
	}
	defer st.Close()
	return f(st)
}

// inSchool works on the database at DATABASE_URL for one school, whose id a flag says.
func inSchool(c *cobra.Command, flag, school string, f func(store.Tx) error) error {
	id, err := uuid.Parse(school)
	if err != nil {
		return fmt.Errorf("%s is %q; expected an id, as maestrale school list prints it", flag, school)
	}
	return onDatabase(c, func(st *store.Store) error { return st.InSchool(c.Context(), id, f) })
}

func importCommand() *cobra.Command {
	var school, student, by, folder string
	var counts bool
	c := &cobra.Command{
		Use: "import --school-id ID --student ID --by EMAIL [--counts] FILE",
		Short: "Takes over a record that another school has signed; its attempts count only with --counts, as the chief " +
			"decides",
		Args: cobra.ExactArgs(1),
	}
	f := c.Flags()
	f.StringVar(&school, "school-id", "", "the school's id")
	f.StringVar(&student, "student", "", "whose it is at the school")
	f.StringVar(&by, "by", "", "the chief instructor who takes it over")
	f.BoolVar(&counts, "counts", false, "its attempts count here")
	f.StringVar(&folder, "school", "", "folder of the school's own YAML files")
	c.RunE = func(c *cobra.Command, args []string) error {
		cat, err := catalogue(folder)
		if err != nil {
			return err
		}
		in, err := input(c, args[0])
		if err != nil {
			return err
		}
		defer func() { _ = in.Close() }()
		data, err := io.ReadAll(io.LimitReader(in, record.MaxBytes+1))
		if err != nil {
			return fmt.Errorf("%s: %w", args[0], err)
		}
		rec, found, left, err := record.ReadExported(bytes.NewReader(data), nil)
		if err != nil {
			return misread.InFile(args[0], err)
		}
		notes(c, args[0], left)
		who, err := uuid.Parse(student)
		if err != nil {
			return fmt.Errorf("--student is %q; expected an id", student)
		}
		var out exchange.Taken
		err = inSchool(c, "--school-id", school, func(tx store.Tx) error {
			chief, err := chiefAt(c.Context(), tx, by)
			if err != nil {
				return err
			}
			if _, err := tx.Student(c.Context(), who); err != nil {
				return fmt.Errorf("--student is %q; expected a student of the school", student)
			}
			if out, err = exchange.Take(c.Context(), tx, exchange.Taking{Record: rec, Found: found, File: data, Student: who,
				By: chief, Counts: counts, Now: time.Now(), Drills: cat.Drills}); err != nil {
				return misread.InFile(args[0], err)
			}
			return nil
		})
		if err != nil {
			return err
		}
		return writeJSON(c.OutOrStdout(), map[string]any{"format": "maestrale-import/1", "new": out.New,
			"unknown_drills": append([]string{}, out.Unknown...), "counts": counts})
	}
	return c
}

// chiefAt finds the chief instructor with an address.
func chiefAt(ctx context.Context, tx store.Tx, address string) (uuid.UUID, error) {
	staff, err := tx.Staff(ctx)
	if err != nil {
		return uuid.Nil, err
	}
	for _, a := range staff {
		if a.Role == store.Chief && strings.EqualFold(a.Email, address) {
			return a.ID, nil
		}
	}
	return uuid.Nil, fmt.Errorf("--by is %q; expected the chief instructor's address", address)
}
