// Packschool makes the four weeks of the sample school and packs them into one file. make build calls it; it is no part
// of what is installed. With -judge it flies nothing: it gives the flights of the file the results that the scorer has
// for them by now, which takes a second where flying takes a quarter of a minute.
package main

import (
	"bytes"
	"flag"
	"fmt"
	"os"
	"path/filepath"

	"maestrale/core/drill"
	"maestrale/internal/demo/weeks"
)

func main() {
	judge := flag.Bool("judge", false, "judge the flights of FILE anew")
	flag.Parse()
	if flag.NArg() != 1 {
		fmt.Fprintln(os.Stderr, "packschool [-judge] FILE")
		os.Exit(2)
	}
	fly := weeks.Make
	if *judge {
		fly = func(cat *drill.Catalogue, _ ...int) ([]weeks.Flight, error) { return again(cat, flag.Arg(0)) }
	}
	if err := pack(flag.Arg(0), fly); err != nil {
		fmt.Fprintln(os.Stderr, "packschool:", err)
		os.Exit(1)
	}
}

// again are the flights of a file, judged anew.
func again(cat *drill.Catalogue, file string) ([]weeks.Flight, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close() }()
	list, err := weeks.Read(f)
	if err != nil {
		return nil, err
	}
	return list, weeks.Judge(cat, list)
}

func pack(file string, fly func(*drill.Catalogue, ...int) ([]weeks.Flight, error)) error {
	list, err := fly(drill.Shipped())
	if err != nil {
		return fmt.Errorf("make the weeks: %w", err)
	}
	var out bytes.Buffer
	if err := weeks.Write(&out, list); err != nil {
		return fmt.Errorf("make the weeks: %w", err)
	}
	if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
		return fmt.Errorf("make the folder: %w", err)
	}
	if err := os.WriteFile(file, out.Bytes(), 0o644); err != nil {
		return fmt.Errorf("write the weeks: %w", err)
	}
	return nil
}
