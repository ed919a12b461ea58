package main

import (
	"encoding/json"
	"fmt"
	"io"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"maestrale/core/misread"
	"maestrale/core/plan"
)

func dayCommand() *cobra.Command {
	var file, before, format string
	c := &cobra.Command{
		Use:   "day --input FILE [--before PLAN]",
		Short: "Plans a field day: who flies when on which pack, and when each pack charges",
		Args:  cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&file, "input", "", "the day (maestrale-day/1)")
	f.StringVar(&before, "before", "",
		"the plan that stood (maestrale-day-plan/1): the rest of the day is planned with as little change as can be")
	f.StringVar(&format, "format", "json", "json or table")
	c.RunE = func(c *cobra.Command, _ []string) error {
		if file == "" {
			return fmt.Errorf("expected --input FILE")
		}
		if format != "json" && format != "table" {
			return fmt.Errorf("--format is %q; expected json or table", format)
		}
		in, err := input(c, file)
		if err != nil {
			return err
		}
		defer func() { _ = in.Close() }()
		day, left, err := plan.Read(in)
		if err != nil {
			return misread.InFile(file, err)
		}
		notes(c, file, left)
		var p plan.Plan
		if before == "" {
			p = plan.Solve(day)
		} else {
			stood, err := input(c, before)
			if err != nil {
				return err
			}
			defer func() { _ = stood.Close() }()
			flights, err := plan.ReadFlights(stood)
			if err != nil {
				return misread.InFile(before, err)
			}
			p = plan.Replan(day, flights)
		}
		if format == "table" {
			return dayTable(c.OutOrStdout(), p)
		}
		enc := json.NewEncoder(c.OutOrStdout())
		enc.SetIndent("", "  ")
		return enc.Encode(p)
	}
	return c
}

func dayTable(out io.Writer, p plan.Plan) error {
	w := tabwriter.NewWriter(out, 0, 4, 2, ' ', 0)
	fmt.Fprintln(w, "start\tend\tbox\tstudent\tcraft\tpack\tinstructor\tspotter\tkind")
	for _, f := range p.Flights {
		fmt.Fprintf(w, "%s\t%s\t%d\t%s\t%s\t%s\t%s\t%s\t%s\n", f.Start.Format("15:04"), f.End.Format("15:04"), f.Box,
			f.Student, f.Craft, f.Pack, f.Instructor, f.Spotter, f.Kind)
	}
	if len(p.Charges) > 0 {
		fmt.Fprintln(w, "\nstart\tend\tcharger\tslot\tpack")
	}
	for _, g := range p.Charges {
		fmt.Fprintf(w, "%s\t%s\t%s\t%d\t%s\n", g.Start.Format("15:04"), g.End.Format("15:04"), g.Charger, g.Slot, g.Pack)
	}
	fmt.Fprintf(w, "\nlast landing after %.1f min; not under %.1f min (%s); waits %.0f min in the mean, %.0f at most\n",
		p.MakespanMinutes, p.LowerBoundMinutes, p.Bound, p.WaitMeanMinutes, p.WaitMostMinutes)
	for _, u := range p.Unplaced {
		fmt.Fprintf(w, "left out: %s, %d: %s\n", u.Student, u.Flights, u.Why)
	}
	for _, s := range p.Fits {
		fmt.Fprintf(w, "all would fit with %s\n", s)
	}
	if c := p.Changed; c != nil {
		fmt.Fprintf(w, "against the plan before: %d as they were, %d at another time, %d on another craft, %d gone\n", c.Same,
			c.Moved, c.Swaps, c.Gone)
	}
	return w.Flush()
}
