package main

import (
	"fmt"
	"io"
	"runtime/debug"
	"strings"

	"github.com/spf13/cobra"
)

func versionCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "version",
		Short: "Says which build this is",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			info, _ := debug.ReadBuildInfo() // nil only without module support
			return writeVersion(c.OutOrStdout(), info)
		},
	}
}

// versionWords is which build this is, in one line.
func versionWords() string {
	var b strings.Builder
	info, _ := debug.ReadBuildInfo() // nil only without module support
	_ = writeVersion(&b, info)       // a builder takes everything
	return strings.TrimSpace(b.String())
}

// writeVersion says the commit, its time, whether files had been changed since, and the compiler.
func writeVersion(w io.Writer, info *debug.BuildInfo) error {
	commit, at, changed := "unknown", "", ""
	if info == nil {
		info = &debug.BuildInfo{GoVersion: "unknown"}
	}
	for _, s := range info.Settings {
		switch s.Key {
		case "vcs.revision":
			commit = s.Value[:min(12, len(s.Value))]
		case "vcs.time":
			at = " of " + s.Value
		case "vcs.modified":
			if s.Value == "true" {
				changed = ", with changes"
			}
		}
	}
	_, err := fmt.Fprintf(w, "maestrale %s%s%s, %s\n", commit, at, changed, info.GoVersion)
	return err
}
