// Command words prints what people read in the program, and where it stands, for somebody who looks whether it is plain
// English: the message tables, the templates, and the sentences in the code that stand in no table yet.
package main

import (
	"bufio"
	"flag"
	"fmt"
	"os"

	"maestrale/internal/sentences"
)

func main() {
	root := flag.String("root", ".", "the project's folder")
	flag.Parse()
	if err := run(*root); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(root string) error {
	out := bufio.NewWriter(os.Stdout)
	part := func(title string, list []sentences.Found, err error) error {
		if err != nil {
			return err
		}
		_, _ = fmt.Fprintf(out, "# %s: %d\n", title, len(list))
		for _, f := range list {
			_, _ = fmt.Fprintln(out, f)
		}
		return nil
	}
	tables, err := sentences.Messages(root)
	if err := part("Message tables", tables, err); err != nil {
		return err
	}
	templates, err := sentences.Templates(root, "ui/templates")
	if err := part("Templates", templates, err); err != nil {
		return err
	}
	for _, folder := range []string{"core", "internal"} {
		loose, err := sentences.Loose(root, folder)
		if err := part("In no table yet, "+folder, loose, err); err != nil {
			return err
		}
	}
	return out.Flush() //nolint:wrapcheck // it says what failed
}
