package main

import (
	"fmt"
	"time"

	"github.com/spf13/cobra"

	"maestrale/core/craft"
	"maestrale/core/readiness"
)

func readyCommand() *cobra.Command {
	var file, at, class, school, craftKey string
	c := &cobra.Command{
		Use:   "ready --record FILE [--at TIME] [--craft-class C | --craft KEY]",
		Short: "Judges the standing of every cell from a record",
		Args:  cobra.NoArgs,
	}
	c.RunE = func(c *cobra.Command, _ []string) error {
		var o readiness.Options
		var err error
		if o.At, err = readAt(at); err != nil {
			return err
		}
		switch o.Class = craft.Class(class); o.Class {
		case "", craft.Micro, craft.Light, craft.Medium, craft.Heavy:
		default:
			return fmt.Errorf("--craft-class is %q; expected micro, light, medium or heavy", class)
		}
		cat, err := catalogue(school)
		if err != nil {
			return err
		}
		rec, err := readRecord(c, file)
		if err != nil {
			return err
		}
		if craftKey != "" {
			t, err := craftNamed(cat, craftKey)
			if err != nil {
				return err
			}
			o.Type = &t
		}
		o.Now, o.Estimates = time.Now().Add(time.Hour), true // an hour for clocks that go fast
		report, err := readiness.Ready(rec, cat, o)
		if err != nil {
			return err
		}
		return writeJSON(c.OutOrStdout(), report)
	}
	c.Flags().StringVar(&file, "record", "", "the record (maestrale-record/1)")
	c.Flags().StringVar(&at, "at", "", "the moment that is judged; the newest attempt's where not given")
	c.Flags().StringVar(&class, "craft-class", "", "only this class")
	c.Flags().StringVar(&craftKey, "craft", "",
		"the craft that is flown: gates name its substitutes, and what a new type asks for")
	c.Flags().StringVar(&school, "school", "", "folder of the school's own YAML files")
	return c
}
