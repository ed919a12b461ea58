// Command tables makes the tables of docs/tables anew, from fixed seeds: how the scorer fares on
// logs as receivers record them, and how the chances of passing hold for learners of many laws.
package main

import (
	"bufio"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"
)

func main() {
	out := flag.String("out", "docs/tables", "folder that the tables are written to")
	seed := flag.Uint64("seed", 2026, "of every made-up noise and learner")
	flag.Parse()
	for name, write := range map[string]func(io.Writer, uint64) error{"noise.md": noiseTable, "chances.md": chancesTable} {
		if err := file(filepath.Join(*out, name), *seed, write); err != nil {
			fmt.Fprintln(os.Stderr, "tables:", err)
			os.Exit(2)
		}
	}
}

func file(path string, seed uint64, write func(io.Writer, uint64) error) error {
	f, err := os.Create(path) //nolint:gosec // the developer names it
	if err != nil {
		return fmt.Errorf("make a table: %w", err)
	}
	w := bufio.NewWriter(f)
	if err := write(w, seed); err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	if err := w.Flush(); err != nil {
		return fmt.Errorf("%s: %w", path, err)
	}
	return f.Close() //nolint:wrapcheck // says the path
}
