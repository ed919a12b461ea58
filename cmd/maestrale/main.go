// Command maestrale trains pilots of multirotors: it serves the school's
// screens and scores, judges and converts from the command line.
package main

import (
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"
)

func main() { os.Exit(run(os.Args[1:], os.Stdin, os.Stdout, os.Stderr)) }

// run executes one command and returns its exit status: 0 done, 1 where verify finds a broken record or doctor finds
// something wrong, 2 wrong usage or unreadable input, with one clear line on standard error.
func run(args []string, in io.Reader, out, errOut io.Writer) int {
	root := &cobra.Command{
		Use:           "maestrale",
		Short:         "Trains pilots of multirotors: marks drills, scores logs, keeps the record",
		SilenceUsage:  true,
		SilenceErrors: true,
		Args:          cobra.NoArgs,
		RunE:          func(c *cobra.Command, _ []string) error { return c.Help() },
	}
	root.CompletionOptions.DisableDefaultCmd = true
	root.SetArgs(args)
	root.SetIn(in)
	root.SetOut(out)
	root.SetErr(errOut)
	root.AddCommand(drillsCommand(), scoreCommand(), readyCommand(), lessonCommand(), exportCommand(), importCommand(),
		verifyCommand(), regainCommand(), sightCommand(), yawCommand(), convertCommand(), packCommand(), courseCommand(),
		flyCommand(), dayCommand(), logsCommand(), standinCommand(), demoCommand(), upCommand(), schoolCommand(),
		peopleCommand(),
		passwordCommand(), markCommand(), witnessCommand(), signCommand(), cardCommand(), serveCommand(), versionCommand(),
		migrateCommand(), backupCommand(), restoreCommand(), rolesCommand(), doctorCommand())
	if err := root.Execute(); err != nil {
		fmt.Fprintln(errOut, oneLine(err))
		if errors.Is(err, errUnsound) || errors.Is(err, errIll) {
			return 1
		}
		return 2
	}
	return 0
}

func oneLine(err error) string {
	s := []rune(err.Error())
	for i, r := range s {
		if r == '\n' || r == '\r' {
			s[i] = ' '
		}
	}
	return string(s)
}

// input opens a file, or standard input for "-".
func input(c *cobra.Command, name string) (io.ReadCloser, error) {
	if name == "-" {
		return io.NopCloser(c.InOrStdin()), nil
	}
	f, err := os.Open(name)
	if err != nil {
		return nil, plain(err)
	}
	if st, err := f.Stat(); err == nil && st.IsDir() {
		_ = f.Close()
		return nil, fmt.Errorf("%s: is a folder; expected a file", name)
	}
	return f, nil
}

// plain says a file error as FILE: what.
func plain(err error) error {
	var p *os.PathError
	if errors.As(err, &p) {
		return fmt.Errorf("%s: %w; expected a file that can be read", p.Path, p.Err)
	}
	return err
}

// notes writes what was left out to standard error.
func notes(c *cobra.Command, name string, list []string) {
	for _, n := range list {
		fmt.Fprintf(c.ErrOrStderr(), "%s: %s\n", name, n)
	}
}
