package main

import (
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"maestrale/core/course"
	"maestrale/core/drill"
	"maestrale/core/intake"
	"maestrale/core/misread"
	"maestrale/core/pack"
	own "maestrale/internal/catalogue"
	"maestrale/internal/exchange"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// takenPrinted is maestrale-taken/1: what a file brought.
type takenPrinted struct {
	Format string `json:"format"`
	File   string `json:"file"`
	Kind   string `json:"kind"`
	Count  int    `json:"count"`
}

func schoolTakeCommand() *cobra.Command {
	var d deed
	var site string
	c := &cobra.Command{
		Use: "take --school ID --by EMAIL [--site NAME] FILE...",
		Short: "Takes files into a school, all of them or none: tables (CSV) of students, craft, packs and past passes, a " +
			"fleet, a course with its site, craft types, drills, programmes and gates (YAML)",
		Args: cobra.MinimumNArgs(1),
	}
	d.flags(c, false)
	c.Flags().StringVar(&site, "site", "", "the name of the site of a course that lies on the earth")
	c.RunE = func(c *cobra.Command, args []string) error {
		var out []takenPrinted
		err := d.do(c, func(now doing) error {
			for _, name := range args {
				t, err := now.takeFile(c, name, site)
				if sentence, is := refusal.Of(err); is {
					return fmt.Errorf("%s: %s", name, strings.TrimSuffix(sentence, "."))
				}
				if err != nil {
					return misread.InFile(name, err)
				}
				out = append(out, t)
				// A later file may name what an earlier one brought.
				if now.cat, err = catalogueIn(c, now.Tx); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
		return writeJSON(c.OutOrStdout(), out)
	}
	return c
}

// takeFile takes one file.
func (d doing) takeFile(c *cobra.Command, name, site string) (t takenPrinted, err error) {
	t = takenPrinted{Format: "maestrale-taken/1", File: name, Count: 1}
	in, err := input(c, name)
	if err != nil {
		return t, err
	}
	defer func() { _ = in.Close() }()
	data, err := io.ReadAll(io.LimitReader(in, intake.MostBytes+1))
	if err != nil {
		return t, plain(err)
	}
	if ext := strings.ToLower(filepath.Ext(name)); ext != ".yaml" && ext != ".yml" {
		return t, d.takeTable(c, &t, data)
	}
	if t.Kind, err = drill.FormatOf(data); err != nil {
		return t, err
	}
	switch t.Kind {
	case "maestrale-fleet/1":
		f, err := pack.ParseFleet(data, d.cat.Craft)
		if err != nil {
			return t, err
		}
		t.Count = len(f.Craft) + len(f.Packs)
		_, err = exchange.TakeTable(c.Context(), d.Tx, d.attempts(), intake.Batch{Craft: f.Craft, Packs: f.Packs})
		return t, err
	case "maestrale-course/1":
		return t, d.takeCourse(c, data, site)
	case own.Drill, own.Programme, own.Gate, own.Craft:
		key, err := d.cat.KeyIn(data)
		if err != nil {
			return t, err
		}
		_, err = d.AddFile(c.Context(), d.by.ID, store.SchoolFile{Format: t.Kind, Key: key, Source: string(data)})
		return t, err
	}
	return t, misread.At(1, "a fleet, a course, a craft type, a drill, a programme or a gate", "the format %.40q", t.Kind)
}

// takeTable takes a table whose headings say what it is.
func (d doing) takeTable(c *cobra.Command, t *takenPrinted, data []byte) error {
	table, err := intake.ReadTable(data)
	if err != nil {
		return err
	}
	kind := intake.Guess(table.Headings)
	if kind == "" {
		return misread.At(1, "those of the empty files on the import page", "the headings fit no table: %.80s",
			strings.Join(table.Headings, ", "))
	}
	notes(c, t.File, table.Notes)
	known, err := exchange.Known(c.Context(), d.Tx, d.cat, d.by.Zone(), time.Now())
	if err != nil {
		return err
	}
	b, mistakes := intake.Read(kind, table, intake.Match(kind, table.Headings), known)
	if len(mistakes) > 0 {
		m := mistakes[0]
		return misread.At(m.Line, m.Expected, "%s (the first of %d mistakes)", m.What, len(mistakes))
	}
	t.Kind, t.Count = string(kind), b.Count()
	id := store.NewID()
	if err := d.AddIntake(c.Context(), id, d.by.ID, filepath.Base(t.File), data, time.Now()); err != nil {
		return err
	}
	made, err := exchange.TakeTable(c.Context(), d.Tx, d.attempts(), b)
	if err != nil {
		return err
	}
	err = d.TookIntake(c.Context(), id, t.Kind, made, time.Now())
	if errors.Is(err, store.ErrTwice) {
		return misread.At(0, "a file that was not taken before", "this very file was taken already")
	}
	return err
}

// takeCourse lays a course, with its site where that is new, and makes it the day's where there is none.
func (d doing) takeCourse(c *cobra.Command, data []byte, name string) error {
	laid, err := course.Parse(data)
	if err != nil {
		return err
	}
	if laid.Plane == nil || name == "" {
		return misread.At(0, "an origin on the earth in the file, and --site NAME", "the course has no site")
	}
	sites, err := d.Sites(c.Context())
	if err != nil {
		return err
	}
	site := store.Site{ID: store.NewID(), Name: name, Geo: laid.Plane.Origin()}
	for _, s := range sites {
		if s.Name == name {
			site = s
		}
	}
	if err := course.CheckSite(site.Geo); err != nil {
		return err
	}
	if err := d.KeepSite(c.Context(), site); err != nil {
		return err
	}
	if laid.Name == "" {
		laid.Name = "Course"
	}
	id := store.NewID()
	if err := d.AddCourse(c.Context(), id, site.ID, laid.Name); errors.Is(err, store.ErrTaken) {
		return fmt.Errorf("there is a course %s at %s already", laid.Name, name)
	} else if err != nil {
		return err
	}
	if err := d.Draw(c.Context(), id, d.by.ID, 0, time.Now(), "taken from a file", string(data)); err != nil {
		return err
	}
	set, err := d.Settings(c.Context())
	if err != nil || set.CourseID != nil {
		return err
	}
	away := laid.Plane.AwayDeg()
	set.CourseID, set.AwayDeg = &id, &away
	return d.KeepSettings(c.Context(), set)
}
