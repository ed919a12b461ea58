package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"runtime/debug"
	"time"

	"github.com/spf13/cobra"

	"maestrale/internal/doctor"
	"maestrale/internal/localpg"
)

// errIll is returned by doctor alone, where something is wrong: it ends with status 1.
var errIll = errors.New("something is wrong with this installation")

func doctorCommand() *cobra.Command {
	var data, cert, key, format string
	c := &cobra.Command{
		Use:   "doctor",
		Short: "Says in plain words what is wrong with this installation; status 1 where something is",
		Args:  cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&data, "data", "", "data folder of maestrale up (default .maestrale-school here, where there is one)")
	f.StringVar(&cert, "tls-cert", "", "file of the certificate that the server uses")
	f.StringVar(&key, "tls-key", "", "file of its key")
	f.StringVar(&format, "format", "table", "table or json")
	c.RunE = func(c *cobra.Command, _ []string) error {
		if format != "table" && format != "json" {
			return fmt.Errorf("--format is %q; expected table or json", format)
		}
		in := doctor.Installation{Database: os.Getenv("DATABASE_URL"), Owner: os.Getenv("MIGRATE_URL"), CertFile: cert,
			KeyFile: key, Built: built()}
		folder := data
		if folder == "" {
			folder = schoolFolder()
		}
		if _, err := os.Stat(filepath.Join(folder, "postgres")); err == nil || data != "" {
			in.Data = folder
			if url, runs := localpg.Running(folder); runs && in.Database == "" {
				in.Database = url
			}
		}
		findings := in.Look(c.Context())
		ill := false
		for _, x := range findings {
			ill = ill || x.Wrong
		}
		if format == "json" {
			if err := writeJSON(c.OutOrStdout(), map[string]any{"format": "maestrale-doctor/1",
				"findings": findings}); err != nil {
				return err
			}
		} else {
			for _, x := range findings {
				sign := "ok   "
				if x.Wrong {
					sign = "WRONG"
				}
				fmt.Fprintf(c.OutOrStdout(), "%s  %-12s %s\n", sign, x.About, x.Words)
				if x.Do != "" {
					fmt.Fprintf(c.OutOrStdout(), "       %-12s → %s\n", "", x.Do)
				}
			}
		}
		if ill {
			return errIll
		}
		return nil
	}
	return c
}

// built is when the program's source was committed; zero where that is not known.
func built() time.Time {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return time.Time{}
	}
	for _, s := range info.Settings {
		if s.Key == "vcs.time" {
			if t, err := time.Parse(time.RFC3339, s.Value); err == nil {
				return t
			}
		}
	}
	return time.Time{}
}
