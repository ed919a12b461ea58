package main

import (
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"maestrale/core/daylogs"
	"maestrale/core/drill"
	"maestrale/core/misread"
	"maestrale/core/track"
)

// sortedOutput is a folder of logs as it was sorted, and how those who marked compare with the logs.
type sortedOutput struct {
	Format string `json:"format"`
	*daylogs.Found
	Agreement []daylogs.Agreement `json:"agreement"`
}

func logsCommand() *cobra.Command {
	var day, school, format string
	var at place
	c := &cobra.Command{
		Use:   "logs --day FILE [--course FILE] FOLDER|LOG...",
		Short: "Sorts the logs of a field day into its flights and drills, and compares them with what was marked",
		Args:  cobra.MinimumNArgs(1),
	}
	c.Flags().StringVar(&day, "day", "", "the flights and marks of the day ("+daylogs.Format+")")
	c.Flags().StringVar(&school, "school", "", "folder of the school's own YAML files")
	c.Flags().StringVar(&format, "format", "json", "json or table")
	at.flags(c)
	c.RunE = func(c *cobra.Command, args []string) error {
		if day == "" {
			return fmt.Errorf("expected --day FILE")
		}
		if format != "json" && format != "table" {
			return fmt.Errorf("--format is %q; expected json or table", format)
		}
		d, err := readFlownDay(c, day)
		if err != nil {
			return err
		}
		lay, o, err := at.lays(c, school)
		if err != nil {
			return err
		}
		logs, err := readLogs(args, o)
		if err != nil {
			return err
		}
		found, err := daylogs.Sort(c.Context(), d, logs, lay, func(done, of int) {
			fmt.Fprintf(c.ErrOrStderr(), "\rmaestrale: %d of %d logs", done, of)
		})
		fmt.Fprintln(c.ErrOrStderr())
		if err != nil {
			return plain(err)
		}
		out := sortedOutput{"maestrale-sorted-logs/1", found, daylogs.Agreements(daylogs.PairsOf(found))}
		if format == "table" {
			return logsTable(c.OutOrStdout(), d, out)
		}
		return writeJSON(c.OutOrStdout(), out)
	}
	return c
}

func readFlownDay(c *cobra.Command, name string) (daylogs.Day, error) {
	in, err := input(c, name)
	if err != nil {
		return daylogs.Day{}, err
	}
	defer func() { _ = in.Close() }()
	d, left, err := daylogs.ReadDay(in)
	if err != nil {
		return d, misread.InFile(name, err)
	}
	notes(c, name, left)
	return d, nil
}

// lays says how drills are laid out and logs are read: on the course or at the place of the flags.
func (p *place) lays(c *cobra.Command, school string) (daylogs.Lay, track.Options, error) {
	cat, err := catalogue(school)
	if err != nil {
		return nil, track.Options{}, err
	}
	laid, plane, err := p.read(c)
	if err != nil {
		return nil, track.Options{}, err
	}
	return func(x drill.Cell, kind string) (drill.Task, error) {
		d, err := cat.Drill(x.Drill)
		if err != nil {
			return drill.Task{}, err //nolint:wrapcheck // it says which drill
		}
		t, ok := cat.Craft[kind]
		if !ok {
			return drill.Task{}, misread.At(0, "one of the craft types", "craft %q is not known", kind)
		}
		on := laid
		if on != nil && d.Fits(t.Class(), on) != nil {
			on = nil // flown on its own template
		}
		return d.Lay(x.Side, x.Level, t.Class(), on) //nolint:wrapcheck // it says which drill
	}, track.Options{CSVOptions: track.CSVOptions{Plane: plane}, Heights: track.Heights(p.heights)}, nil
}

// readLogs reads files, and all that lie in folders. A log without a clock ended when its file was last written.
func readLogs(args []string, o track.Options) (out []daylogs.Log, err error) {
	for _, arg := range args {
		err := filepath.WalkDir(arg, func(name string, e fs.DirEntry, err error) error {
			if err != nil || e.IsDir() {
				return err
			}
			info, err := e.Info()
			if err != nil {
				return err
			}
			if info.Size() > track.MaxBytes {
				out = append(out, daylogs.Log{Name: filepath.ToSlash(name), Wrong: track.ErrTooLarge.Error()})
				return nil
			}
			data, err := os.ReadFile(name)
			if err != nil {
				return err
			}
			l := daylogs.Read(filepath.ToSlash(name), data, o)
			if l.Track != nil && l.Track.Start.IsZero() {
				l.Track.Start = info.ModTime().Add(-time.Duration(l.Track.T[l.Track.Len()-1] * float64(time.Second)))
			}
			out = append(out, l)
			return nil
		})
		if err != nil {
			return nil, plain(err)
		}
	}
	return out, nil
}

func logsTable(w io.Writer, d daylogs.Day, out sortedOutput) error {
	names := map[string]string{}
	for _, f := range d.Flights {
		names[f.Student] = f.Name
	}
	t := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	fmt.Fprintln(t, "at\tstudent\tdrill\tthe log\tthe eye\tlog file\thow it is known")
	for _, it := range out.Items {
		log, eye := "", ""
		if it.Result != nil {
			log = string(it.Result.Verdict)
		}
		if it.Mark != nil {
			eye = string(it.Mark.Verdict)
		}
		fmt.Fprintf(t, "%s\t%s\t%s\t%s\t%s\t%s\t%s\n", it.At.Format("15:04:05"), names[it.Student], it.Cell.Drill, log, eye,
			out.Logs[it.Log].Name, it.Why)
	}
	for _, l := range out.Logs {
		if l.LeftOut != "" {
			fmt.Fprintf(t, "\t\t\t\t\t%s\t%s\n", l.Name, l.LeftOut)
		}
	}
	for _, a := range out.Agreement {
		fmt.Fprintf(t, "\n%s, %s: %d of %d as the log (95 %% between %.2f and %.2f). %s\n", a.By, a.Drill, a.Same, a.N, a.Low,
			a.High, a.Words())
	}
	return plain(t.Flush())
}
