package main

import (
	"bytes"
	"fmt"
	"os"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"maestrale/core/craft"
	"maestrale/core/misread"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/core/track"
)

func drillsCommand() *cobra.Command {
	var key, school string
	c := &cobra.Command{
		Use:   "drills [--drill KEY]",
		Short: "Prints the drill catalogue as YAML",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			cat, err := catalogue(school)
			if err != nil {
				return err
			}
			data := cat.YAML()
			if key != "" {
				d, err := cat.Drill(key)
				if err != nil {
					return err
				}
				data = d.Source
			}
			_, err = c.OutOrStdout().Write(data)
			return err
		},
	}
	c.Flags().StringVar(&key, "drill", "", "only this drill")
	c.Flags().StringVar(&school, "school", "", "folder of the school's own YAML files")
	return c
}

func readyCommand() *cobra.Command {
	var file, at, class, school string
	c := &cobra.Command{
		Use:   "ready --record FILE [--at TIME] [--craft-class C]",
		Short: "Judges the standing of every cell from a record",
		Args:  cobra.NoArgs,
	}
	c.RunE = func(c *cobra.Command, _ []string) error {
		if file == "" {
			return fmt.Errorf("no --record is given; expected a maestrale-record/1 file")
		}
		var o readiness.Options
		if at != "" {
			t, err := time.Parse(time.RFC3339Nano, at)
			if err != nil {
				return fmt.Errorf("--at is %q; expected a time as 2026-03-02T09:14:00Z", at)
			}
			o.At = t
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
		f, err := input(c, file)
		if err != nil {
			return err
		}
		defer func() { _ = f.Close() }()
		rec, left, err := record.Read(f)
		if err != nil {
			return misread.InFile(file, err)
		}
		notes(c, file, left)
		report, err := readiness.Ready(rec, cat, o)
		if err != nil {
			return err
		}
		return writeJSON(c.OutOrStdout(), report)
	}
	c.Flags().StringVar(&file, "record", "", "the record (maestrale-record/1)")
	c.Flags().StringVar(&at, "at", "", "the moment that is judged; the newest attempt's where not given")
	c.Flags().StringVar(&class, "craft-class", "", "only this class")
	c.Flags().StringVar(&school, "school", "", "folder of the school's own YAML files")
	return c
}

func convertCommand() *cobra.Command {
	var to, out, school string
	var at place
	c := &cobra.Command{
		Use:   "convert [--to csv|csv-geo|gpx|igc|kml|geojson] [--out FILE] [--origin LAT,LON,ALT --away DEG | --course FILE] TRACK",
		Short: "Converts a track between the open formats; what it is, is told by how it begins",
		Args:  cobra.ExactArgs(1),
	}
	at.flags(c)
	c.Flags().StringVar(&to, "to", "csv", "csv (field form), csv-geo (geographic form), gpx, igc, kml or geojson")
	c.Flags().StringVar(&out, "out", "-", "where to write; - is standard output")
	c.Flags().StringVar(&school, "school", "", "folder of the school's own YAML files")
	c.RunE = func(c *cobra.Command, args []string) error {
		if !slices.Contains(track.Formats, track.Format(to)) {
			return fmt.Errorf("--to is %q; expected csv or csv-geo, gpx, igc, kml or geojson", to)
		}
		if _, err := catalogue(school); err != nil {
			return err
		}
		_, plane, err := at.read(c)
		if err != nil {
			return err
		}
		t, err := at.readTrack(c, args[0], plane)
		if err != nil {
			return err
		}
		var buf bytes.Buffer // so that a failure leaves no half a file
		if to != "csv" && plane == nil {
			return fmt.Errorf("%s needs the field's place; expected --origin and --away, or a course with an origin", to)
		}
		lost, err := track.Write(&buf, t, track.Format(to), plane)
		notes(c, args[0], lost)
		if err != nil {
			return err
		}
		if out == "-" {
			_, err = c.OutOrStdout().Write(buf.Bytes())
			return err
		}
		if err := os.WriteFile(out, buf.Bytes(), 0o644); err != nil {
			return fmt.Errorf("write %s: %w", out, err)
		}
		return nil
	}
	return c
}
