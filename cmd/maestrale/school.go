package main

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/spf13/cobra"

	"maestrale/core/school"
	"maestrale/core/units"
	"maestrale/internal/store"
)

// defaultPublic is where a server of one's own is reached, for links that the command line prints.
const defaultPublic = "http://127.0.0.1:8080"

// schoolPrinted is maestrale-school/1: a school, and the link that lets its chief in.
type schoolPrinted struct {
	Format   string     `json:"format"`
	ID       string     `json:"id"`
	Name     string     `json:"name"`
	TimeZone string     `json:"time_zone"`
	Units    [2]string  `json:"units"`
	Since    time.Time  `json:"since"`
	Closed   *time.Time `json:"closed,omitempty"`
	Chief    string     `json:"chief,omitempty"` // id of the account
	Link     string     `json:"link,omitempty"`
	LinkEnds *time.Time `json:"link_ends,omitempty"`
}

func schoolCommand() *cobra.Command {
	c := &cobra.Command{Use: "school", Short: "Makes a school, lists the schools, or takes files into one",
		Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error { return c.Help() }}
	c.AddCommand(schoolNewCommand(), schoolListCommand(), schoolTakeCommand())
	return c
}

// publicFlag is the address under which the links are printed.
func publicFlag(c *cobra.Command) *string {
	return c.Flags().String("public-url", defaultPublic, "the address at which people reach the server")
}

func schoolNewCommand() *cobra.Command {
	var name, zone, chief, email, system string
	c := &cobra.Command{
		Use:   "new --name N --zone Z --chief-name N --chief-email E [--units metric|imperial]",
		Short: "Makes a school and its chief, and prints a link, used once, that sets the chief's password",
		Args:  cobra.NoArgs,
	}
	public := publicFlag(c)
	f := c.Flags()
	f.StringVar(&name, "name", "", "the school's name")
	f.StringVar(&zone, "zone", "", "its time zone, such as Europe/Rome")
	f.StringVar(&chief, "chief-name", "", "the chief instructor's name")
	f.StringVar(&email, "chief-email", "", "the chief instructor's e-mail address")
	f.StringVar(&system, "units", "metric", "metric or imperial")
	c.RunE = func(c *cobra.Command, _ []string) error {
		of, known := map[string]units.System{"metric": units.Metric, "imperial": units.Imperial}[system]
		if !known {
			return fmt.Errorf("--units is %q; expected metric or imperial", system)
		}
		email, emailErr := school.ReadEmail(email)
		for _, err := range []error{school.CheckName("The school (--name)", name), school.CheckZone(zone),
			school.CheckName("The chief (--chief-name)", chief), emailErr} {
			if err != nil {
				return err
			}
		}
		url, err := ownersURL()
		if err != nil {
			return err
		}
		if err := store.Migrate(c.Context(), url); err != nil {
			return err
		}
		made := store.School{ID: store.NewID(), Name: name, TimeZone: zone, LengthUnit: of.Length, SpeedUnit: of.Speed,
			CreatedAt: time.Now()}
		account := store.Account{ID: store.NewID(), Name: chief, Email: email, PasswordHash: "none"}
		err = store.CreateSchool(c.Context(), url, made, &account)
		if errors.Is(err, store.ErrTaken) {
			return fmt.Errorf("--chief-email is %s, which has an account already; expected another address", email)
		}
		if err != nil {
			return err
		}
		printed := printedSchool(made)
		printed.Chief = account.ID.String()
		return inSchool(c, "--school", made.ID.String(), func(tx store.Tx) error {
			link, err := linkFor(c, tx, store.NewLink{Kind: store.PasswordLink, AccountID: &account.ID}, *public)
			if err != nil {
				return err
			}
			printed.Link, printed.LinkEnds = link.Link, &link.Ends
			return writeJSON(c.OutOrStdout(), printed)
		})
	}
	return c
}

func printedSchool(s store.School) schoolPrinted {
	return schoolPrinted{Format: "maestrale-school/1", ID: s.ID.String(), Name: s.Name, TimeZone: s.TimeZone,
		Units: [2]string{string(s.LengthUnit), string(s.SpeedUnit)}, Since: s.CreatedAt.UTC(), Closed: s.ClosedAt}
}

func schoolListCommand() *cobra.Command {
	return &cobra.Command{Use: "list", Short: "Lists the schools in the database", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			url, err := ownersURL()
			if err != nil {
				return err
			}
			list, err := store.ListSchools(c.Context(), url)
			if err != nil {
				return err
			}
			out := []schoolPrinted{}
			for _, s := range list {
				out = append(out, printedSchool(s))
			}
			return writeJSON(c.OutOrStdout(), out)
		}}
}

// linkPrinted is maestrale-link/1: a link that is used once.
type linkPrinted struct {
	Format  string    `json:"format"`
	Kind    string    `json:"kind"` // invitation, password or card
	For     string    `json:"for"`
	Student string    `json:"student,omitempty"` // id of the student's record
	Link    string    `json:"link"`
	Ends    time.Time `json:"ends,omitzero"`
}

// linkFor makes a link, to be opened at the server's public address.
func linkFor(c *cobra.Command, tx store.Tx, l store.NewLink, public string) (linkPrinted, error) {
	now := time.Now()
	address, err := tx.AddLink(c.Context(), l, now)
	if err != nil {
		return linkPrinted{}, err
	}
	return linkPrinted{Format: "maestrale-link/1", Kind: l.Kind, For: l.Name,
		Link: strings.TrimSuffix(public, "/") + "/join/" + address, Ends: now.AddDate(0, 0, school.LinkDays).UTC()}, nil
}

func peopleCommand() *cobra.Command {
	c := &cobra.Command{Use: "people", Short: "Adds people to a school", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error { return c.Help() }}
	c.AddCommand(peopleAddCommand())
	return c
}

func peopleAddCommand() *cobra.Command {
	var school, role, name, email, student, programme, craftType string
	c := &cobra.Command{
		Use:   "add --school ID --role R --name N [--email E] [--student ID] [--programme KEY] [--craft KEY]",
		Short: "Invites somebody, and prints the invitation's link; for a student without --student the record is made too",
		Args:  cobra.NoArgs,
	}
	public := publicFlag(c)
	f := c.Flags()
	f.StringVar(&school, "school", "", "the school's id")
	f.StringVar(&role, "role", "", "chief, instructor, spotter or student")
	f.StringVar(&name, "name", "", "the person's name")
	f.StringVar(&email, "email", "", "the person's e-mail address")
	f.StringVar(&student, "student", "", "whose record a student's account shows")
	f.StringVar(&programme, "programme", "", "the new student's programme, by key")
	f.StringVar(&craftType, "craft", "", "the new student's craft type, by key")
	c.RunE = func(c *cobra.Command, _ []string) error {
		l, err := invitation(role, name, email, student)
		if err != nil {
			return err
		}
		return inSchool(c, "--school", school, func(tx store.Tx) error {
			if l.Role == store.Learner {
				if err := studentOf(c, tx, &l, programme, craftType); err != nil {
					return err
				}
			}
			link, err := linkFor(c, tx, l, *public)
			if err != nil {
				return err
			}
			if l.StudentID != nil {
				link.Student = l.StudentID.String()
			}
			return writeJSON(c.OutOrStdout(), link)
		})
	}
	return c
}

// invitation reads who is invited.
func invitation(role, name, email, student string) (l store.NewLink, err error) {
	l = store.NewLink{Kind: store.Invitation, Role: role, Name: name}
	if !school.Role(role).Known() {
		return l, fmt.Errorf("--role is %q; expected chief, instructor, spotter or student", role)
	}
	if err := school.CheckName("The person (--name)", name); err != nil {
		return l, err
	}
	if email != "" {
		if l.Email, err = school.ReadEmail(email); err != nil {
			return l, err
		}
	}
	if student != "" {
		id, err := uuid.Parse(student)
		if err != nil || role != store.Learner {
			return l, fmt.Errorf("--student is %q; expected a student's id, with --role student", student)
		}
		l.StudentID = &id
	}
	return l, nil
}

// studentOf finds the student of an invitation, or makes the record.
func studentOf(c *cobra.Command, tx store.Tx, l *store.NewLink, programme, craftType string) error {
	ctx := c.Context()
	if l.StudentID != nil {
		if _, err := tx.Student(ctx, *l.StudentID); errors.Is(err, store.ErrNotFound) {
			return fmt.Errorf("--student is %q; expected a student of the school", *l.StudentID)
		} else if err != nil {
			return err
		}
		has, err := tx.HasAccount(ctx, *l.StudentID)
		if err == nil && has {
			err = errors.New("the student has an account already; maestrale password helps who is locked out")
		}
		return err
	}
	cat, err := catalogueIn(c, tx)
	if err != nil {
		return err
	}
	if programme == "" {
		programme = cat.ProgrammeKeys()[0]
	}
	if craftType == "" {
		craftType = cat.Craft.Keys()[0]
	}
	if _, known := cat.Programmes[programme]; !known {
		return fmt.Errorf("--programme is %q; expected one of %s", programme, strings.Join(cat.ProgrammeKeys(), ", "))
	}
	if _, known := cat.Craft[craftType]; !known {
		return fmt.Errorf("--craft is %q; expected one of %s", craftType, strings.Join(cat.Craft.Keys(), ", "))
	}
	st := store.Student{ID: store.NewID(), Name: l.Name, Programme: programme, CraftType: craftType, StartedOn: time.Now()}
	l.StudentID = &st.ID
	return tx.AddStudent(ctx, st)
}

func passwordCommand() *cobra.Command {
	var email string
	c := &cobra.Command{
		Use:   "password --email E",
		Short: "Prints a link, used once, that sets a new password for who is locked out",
		Args:  cobra.NoArgs,
	}
	public := publicFlag(c)
	c.Flags().StringVar(&email, "email", "", "the e-mail address that the person signs in with")
	c.RunE = func(c *cobra.Command, _ []string) error {
		return onDatabase(c, func(st *store.Store) error {
			who, err := st.ByEmail(c.Context(), email)
			if errors.Is(err, store.ErrNotFound) {
				return fmt.Errorf("--email is %q; expected the address of an account that is open", email)
			}
			if err != nil {
				return err
			}
			return st.InSchool(c.Context(), who.SchoolID, func(tx store.Tx) error {
				link, err := linkFor(c, tx, store.NewLink{Kind: store.PasswordLink, AccountID: &who.AccountID}, *public)
				if err != nil {
					return err
				}
				link.For = email
				return writeJSON(c.OutOrStdout(), link)
			})
		})
	}
	return c
}
