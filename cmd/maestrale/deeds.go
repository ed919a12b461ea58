package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/attempt"
	own "maestrale/internal/catalogue"
	"maestrale/internal/knowledge"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// catalogueIn is the catalogue of the school of a transaction: what ships, with the school's own files over it.
func catalogueIn(c *cobra.Command, tx store.Tx) (*drill.Catalogue, error) {
	list, err := tx.Files(c.Context())
	if err != nil || len(list) == 0 {
		return drill.Shipped(), err
	}
	return drill.Shipped().With(own.FilesIn(list))
}

// deed is something that a person of a school does from the command line.
type deed struct {
	school, by, student string
}

func (d *deed) flags(c *cobra.Command, about bool) {
	f := c.Flags()
	f.StringVar(&d.school, "school", "", "the school's id")
	f.StringVar(&d.by, "by", "", "the e-mail address of the instructor who does it")
	if about {
		f.StringVar(&d.student, "student", "", "the student's id")
	}
}

// doing is a deed under way.
type doing struct {
	store.Tx
	by      *store.Person
	cat     *drill.Catalogue
	student uuid.UUID
}

// do runs a deed in a transaction of the school, as the person who does it: a chief or an instructor of that school.
func (d *deed) do(c *cobra.Command, run func(doing) error) error {
	err := onDatabase(c, func(st *store.Store) error {
		p, err := d.person(c, st)
		if err != nil {
			return err
		}
		return st.InSchool(c.Context(), p.SchoolID, func(tx store.Tx) error {
			now := doing{Tx: tx, by: &p}
			var err error
			if now.cat, err = catalogueIn(c, tx); err != nil {
				return err
			}
			if d.student != "" {
				if now.student, err = uuid.Parse(d.student); err == nil {
					_, err = tx.Student(c.Context(), now.student)
				}
				if err != nil {
					return fmt.Errorf("--student is %q; expected a student of the school", d.student)
				}
			}
			return run(now)
		})
	})
	if sentence, is := refusal.Of(err); is {
		return errors.New(strings.TrimSuffix(sentence, "."))
	}
	return err
}

// person finds who does the deed: a chief or an instructor of the school.
func (d *deed) person(c *cobra.Command, st *store.Store) (p store.Person, err error) {
	cred, err := st.ByEmail(c.Context(), d.by)
	if err == nil {
		p, err = st.ByAccount(c.Context(), cred.AccountID)
	}
	if errors.Is(err, store.ErrNotFound) || err == nil && (p.SchoolID.String() != d.school ||
		p.Role != store.Chief && p.Role != store.Instructor) {
		return p, fmt.Errorf("--by is %q; expected the address of a chief or an instructor of the school", d.by)
	}
	return p, err
}

func (d doing) attempts() attempt.Recorder {
	return attempt.Recorder{Cat: d.cat, Now: time.Now, By: d.by}
}

func markCommand() *cobra.Command {
	var d deed
	var key, side, aids, craftType string
	var level int
	c := &cobra.Command{
		Use: "mark --school ID --by EMAIL --student ID --drill KEY [--side S] [--aids A] [--level N] [--craft KEY] MARKS",
		Short: "Stores an attempt that an instructor marked by eye (maestrale-marks/1), and prints what it did to the " +
			"standing",
		Args: cobra.ExactArgs(1),
	}
	d.flags(c, true)
	f := c.Flags()
	f.StringVar(&key, "drill", "", "the drill")
	f.StringVar(&side, "side", "none", "left, right or none")
	f.StringVar(&aids, "aids", "", "the aids flown with; the most that the craft has where nothing is said")
	f.StringVar(&craftType, "craft", "", "the craft type; the student's where nothing is said")
	f.IntVar(&level, "level", 1, "the drill's level")
	c.RunE = func(c *cobra.Command, args []string) error {
		marks, err := marksIn(c, args[0])
		if err != nil {
			return err
		}
		return d.do(c, func(now doing) error {
			st, err := now.Student(c.Context(), now.student)
			if err != nil {
				return err
			}
			if craftType == "" {
				craftType = st.CraftType
			}
			t, known := now.cat.Craft[craftType]
			if !known {
				return fmt.Errorf("--craft is %q; expected one of %s", craftType, strings.Join(now.cat.Craft.Keys(), ", "))
			}
			if aids == "" {
				aids = string(t.Aids[0])
			}
			in := attempt.Sent{Opening: attempt.Opening{ID: store.NewID(), Drill: key, Side: field.Side(side), Level: level,
				Aids: craft.Aids(aids), Craft: craftType, DeviceAt: time.Now()}, Marks: marks}
			if wrong := in.Check(now.by.Role); wrong != "" {
				return errors.New(wrong)
			}
			state, err := now.attempts().TakeMarks(c.Context(), now.Tx, now.student, in)
			if err != nil {
				return err
			}
			if state.Verdict == nil {
				return fmt.Errorf("%s: the marks do not end the attempt; expected a last mark done or void", args[0])
			}
			return writeJSON(c.OutOrStdout(), state.Verdict)
		})
	}
	return c
}

// marksIn reads a file of marks; each gets an id.
func marksIn(c *cobra.Command, name string) ([]score.Mark, error) {
	in, err := input(c, name)
	if err != nil {
		return nil, err
	}
	defer func() { _ = in.Close() }()
	data, err := io.ReadAll(io.LimitReader(in, 1<<20))
	if err != nil {
		return nil, plain(err)
	}
	var doc struct {
		Format string       `json:"format"`
		Marks  []score.Mark `json:"marks"`
	}
	if err := json.Unmarshal(data, &doc); err != nil || doc.Format != "maestrale-marks/1" || len(doc.Marks) == 0 {
		return nil, fmt.Errorf("%s: expected JSON with format maestrale-marks/1 and a list of marks", name)
	}
	for i := range doc.Marks {
		doc.Marks[i].ID = store.NewID().String()
	}
	return doc.Marks, nil
}

func witnessCommand() *cobra.Command {
	var d deed
	var act string
	c := &cobra.Command{Use: "witness --school ID --by EMAIL --student ID --act ACT",
		Short: "Keeps that an instructor saw a student do an act that a gate asks for", Args: cobra.NoArgs}
	d.flags(c, true)
	c.Flags().StringVar(&act, "act", "", "the act, such as briefing")
	c.RunE = func(c *cobra.Command, _ []string) error {
		return d.do(c, func(now doing) error {
			by, asked := now.cat.WitnessOf(act)
			if !asked {
				return fmt.Errorf("--act is %q; expected one that a gate asks for", act)
			}
			if by == store.Chief && now.by.Role != store.Chief {
				return fmt.Errorf("--by is %s; expected a chief instructor, who alone is witness to %s", now.by.Email, act)
			}
			w := record.Witnessed{Act: act, At: time.Now().UTC().Truncate(time.Microsecond), By: now.by.Name}
			if err := now.Witness(c.Context(), now.student, now.by.ID, w); err != nil {
				return err
			}
			return writeJSON(c.OutOrStdout(), w)
		})
	}
	return c
}

func signCommand() *cobra.Command {
	var d deed
	var key, reason, until, typed string
	c := &cobra.Command{
		Use: "sign --school ID --by EMAIL --student ID --gate KEY [--until DAY] [--against-the-rule REASON] " +
			"[--confirmed-by NAME]",
		Short: "Signs a gate as the rules of signing have it; --confirmed-by says that the student, who has no account, " +
			"confirmed its cautions before you, and types their name",
		Args: cobra.NoArgs,
	}
	d.flags(c, true)
	f := c.Flags()
	f.StringVar(&key, "gate", "", "the gate")
	f.StringVar(&until, "until", "", "until which day, such as 2027-01-31; the gate's own where nothing is said")
	f.StringVar(&reason, "against-the-rule", "", "a chief's reason for signing what the rule does not allow")
	f.StringVar(&typed, "confirmed-by", "", "the student's name, as the student types it")
	c.RunE = func(c *cobra.Command, _ []string) error {
		return d.do(c, func(now doing) error {
			g, known := now.cat.Gates[key]
			if !known {
				return fmt.Errorf("--gate is %q; expected one of %s", key, strings.Join(now.cat.GateKeys(), ", "))
			}
			if err := now.Lock(c.Context(), now.student); err != nil {
				return err
			}
			book := knowledge.Book{Cat: now.cat, Now: time.Now, Zone: now.by.Zone()}
			j, err := book.Of(c.Context(), now.Tx, now.student)
			if err != nil {
				return err
			}
			r := j.Gate(g)
			sign, err := r.SignOff(now.by.Signer(), readiness.SigningAsk{At: time.Now().UTC().Truncate(time.Microsecond),
				Against: reason != "", Reason: reason, Until: until}, now.by.Zone())
			if err != nil {
				return err
			}
			if err := now.SignOff(c.Context(), now.student, now.by.ID, sign); err != nil {
				return err
			}
			return now.printSigned(c, sign, typed)
		})
	}
	return c
}

// printSigned confirms a sign-off where that was asked, and prints it as it stands.
func (d doing) printSigned(c *cobra.Command, sign record.SignOff, typed string) error {
	newest := func() (record.SignOff, error) {
		_, signs, err := d.Decisions(c.Context(), d.student)
		for _, s := range signs {
			if s.Gate == sign.Gate && s.At.Equal(sign.At) {
				return s, err
			}
		}
		return record.SignOff{}, errors.Join(err, store.ErrNotFound)
	}
	kept, err := newest()
	if err != nil {
		return err
	}
	if typed != "" {
		id, err := uuid.Parse(kept.ID)
		if err != nil {
			return err
		}
		st, err := d.Student(c.Context(), d.student)
		if err != nil {
			return err
		}
		if has, err := d.HasAccount(c.Context(), d.student); err != nil || has {
			return errors.Join(err, errors.New("--confirmed-by: this student has an account, and confirms there"))
		}
		left := readiness.Confirmation{Typed: typed}
		if err := left.Check(st.Name); err != nil {
			return fmt.Errorf("--confirmed-by: %w", err)
		}
		if err := d.ConfirmOnDevice(c.Context(), d.student, id, d.by.ID, store.SignOffEvent{SignOff: kept.ID,
			At: time.Now().UTC().Truncate(time.Microsecond), By: d.by.Name}, left); err != nil {
			return err
		}
		if kept, err = newest(); err != nil {
			return err
		}
	}
	return writeJSON(c.OutOrStdout(), kept)
}

func cardCommand() *cobra.Command {
	var d deed
	var sign string
	c := &cobra.Command{Use: "card --school ID --by EMAIL --sign-off ID",
		Short: "Makes the card of a sign-off, and prints the address at which anybody can check it", Args: cobra.NoArgs}
	public := publicFlag(c)
	d.flags(c, false)
	c.Flags().StringVar(&sign, "sign-off", "", "the sign-off's id")
	c.RunE = func(c *cobra.Command, _ []string) error {
		return d.do(c, func(now doing) error {
			id, err := uuid.Parse(sign)
			if err == nil {
				now.student, err = now.SignOffOf(c.Context(), id)
			}
			if err != nil {
				return fmt.Errorf("--sign-off is %q; expected a sign-off of the school", sign)
			}
			address, err := now.NewCard(c.Context(), now.student, id, now.by.ID)
			if err != nil {
				return err
			}
			return writeJSON(c.OutOrStdout(), linkPrinted{Format: "maestrale-link/1", Kind: "card", For: sign,
				Student: now.student.String(), Link: strings.TrimSuffix(*public, "/") + "/check/" + address})
		})
	}
	return c
}
