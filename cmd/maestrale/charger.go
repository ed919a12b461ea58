package main

import (
	"context"
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"maestrale/core/pack"
	"maestrale/internal/demo"
	"maestrale/internal/standin"
	"maestrale/internal/store"
)

func chargerCommand() *cobra.Command {
	var addr string
	var chargers []string
	var speed, rate float64
	c := &cobra.Command{
		Use:   "charger",
		Short: "Chargers: a line of JSON a slot and second over TCP, told which pack is put in (docs/formats.md)",
		Args:  cobra.NoArgs,
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:10112", "loopback address to serve on")
	c.Flags().StringSliceVar(&chargers, "charger", []string{"C1=4", "C2=4"}, "NAME=SLOTS of each charger")
	c.Flags().Float64Var(&speed, "speed", 1, "times real time")
	c.Flags().Float64Var(&rate, "rate", 1, "current in C, over the capacity")
	c.RunE = func(c *cobra.Command, _ []string) error {
		if !(speed > 0 && speed <= 1000) {
			return fmt.Errorf("--speed is %v; expected over 0 and 1000 at most", speed)
		}
		if !(rate > 0 && rate <= 10) {
			return fmt.Errorf("--rate is %v; expected over 0 and 10 at most", rate)
		}
		k := standin.Charger{Every: time.Second, Speed: speed, Log: func(t string) { fmt.Fprintln(c.ErrOrStderr(), t) }}
		for _, t := range chargers {
			name, slots, ok := strings.Cut(t, "=")
			n, err := strconv.Atoi(slots)
			if !ok || err != nil || name == "" || n < 1 || n > 50 {
				return fmt.Errorf("--charger is %q; expected NAME=SLOTS with 1 to 50 slots, as C1=4", t)
			}
			k.Chargers = append(k.Chargers, pack.NewSlots(name, n, rate))
		}
		l, err := onLoopback(addr)
		if err != nil {
			return err
		}
		ctx, stop := untilSignal(c)
		defer stop()
		fmt.Fprintf(c.OutOrStdout(), "chargers serve on %s\n", l.Addr())
		return k.Serve(ctx, l)
	}
	return c
}

// standInCharger starts the sample school's stand-in chargers, and points the school at
// them.
func standInCharger(ctx context.Context, st *store.Store) (stop func(), err error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, fmt.Errorf("stand-in chargers: %w", err)
	}
	if err := demo.ListenToChargers(ctx, st, l.Addr().String()); err != nil {
		_ = l.Close()
		return nil, err
	}
	k := standin.Charger{Every: time.Second, Speed: 1, Log: func(string) {}, Chargers: []*pack.Slots{pack.NewSlots("C1", 4,
		1), pack.NewSlots("C2", 2, 1)}}
	return beside(ctx, func(own context.Context) { _ = k.Serve(own, l) }), nil
}

// beside runs a stand-in beside the server until it is stopped.
func beside(ctx context.Context, device func(context.Context)) (stop func()) {
	own, cancel := context.WithCancel(context.WithoutCancel(ctx))
	ended := make(chan struct{})
	go func() {
		defer close(ended)
		device(own)
	}()
	return func() { cancel(); <-ended }
}
