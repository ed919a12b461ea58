package main

import (
	"bytes"
	"fmt"
	"os"
	"slices"

	"github.com/spf13/cobra"

	"maestrale/core/track"
)

func convertCommand() *cobra.Command {
	var to, out, school string
	var at place
	c := &cobra.Command{
		Use: "convert [--to csv|csv-geo|gpx|igc|kml|geojson] [--out FILE] [--origin LAT,LON,ALT --away DEG | --course " +
			"FILE] TRACK",
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
