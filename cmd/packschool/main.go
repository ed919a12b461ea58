// Packschool makes the four weeks of the sample school and packs them into one
// file. make build calls it; it is no part of what is installed.
package main

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"

	"maestrale/core/drill"
	"maestrale/internal/demo/weeks"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "packschool FILE")
		os.Exit(2)
	}
	if err := pack(os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, "packschool:", err)
		os.Exit(1)
	}
}

func pack(file string) error {
	list, err := weeks.Make(drill.Shipped())
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
