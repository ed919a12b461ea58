// Command padtrees writes down the shipped catalogue as it was parsed, so that the marking pad of a phone need not
// parse it at every use.
package main

import (
	"fmt"
	"os"

	"maestrale/core/drill"
	"maestrale/core/yamldoc"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: padtrees FILE")
		os.Exit(2)
	}
	docs, err := drill.ShippedDocuments()
	if err == nil {
		err = os.WriteFile(os.Args[1], yamldoc.PackedTreesOf(docs...), 0o644) //nolint:gosec // a part of the program
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}
