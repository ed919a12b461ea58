// Command siege tries whether what was acknowledged is ever lost or doubled. It runs servers and a PostgreSQL of its
// own on loopback, lets clients mark, sync, fly and upload, and meanwhile kills, cuts, freezes and fills up what they
// stand on. Afterwards it compares what the clients were told with what is stored, and verifies every chain.
package main

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"os/signal"
)

func main() {
	if os.Getenv(asServer) != "" {
		if err := serve(); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		return
	}
	o := plan{}
	flag.IntVar(&o.Faults, "faults", 100, "how many faults are made")
	flag.Uint64Var(&o.Seed, "seed", 1, "where the order of the faults begins")
	flag.IntVar(&o.Clients, "clients", 8, "how many clients work at once")
	flag.StringVar(&o.Only, "only", "", "one kind of fault alone")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	o.Say = func(format string, args ...any) { fmt.Fprintf(os.Stderr, format+"\n", args...) }
	report, err := besiege(ctx, o)
	if err != nil {
		fmt.Fprintln(os.Stderr, "siege:", err)
		os.Exit(1)
	}
	out := json.NewEncoder(os.Stdout)
	out.SetIndent("", "  ")
	_ = out.Encode(report) // standard output has gone if this fails
	if len(report.Wrong) > 0 {
		os.Exit(1)
	}
}
