package main

import (
	"context"
	"fmt"
	"net"
	"time"

	"github.com/spf13/cobra"

	"maestrale/core/drill"
	"maestrale/core/misread"
	"maestrale/core/track"
	"maestrale/internal/demo"
	"maestrale/internal/standin"
	"maestrale/internal/store"
)

func standinCommand() *cobra.Command {
	c := &cobra.Command{
		Use:   "standin wind|charger|position",
		Short: "Devices that stand in for real ones",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			return fmt.Errorf("standin names no device; expected wind, charger or position")
		},
	}
	c.AddCommand(standinWind(), chargerCommand(), positionCommand())
	return c
}

func standinWind() *cobra.Command {
	var addr, at string
	var seed uint64
	var hz float64
	c := &cobra.Command{
		Use:   "wind",
		Short: "A wind meter: NMEA 0183 MWV sentences over TCP, a sea breeze that rises after eleven",
		Args:  cobra.NoArgs,
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:10110", "loopback address to serve on")
	c.Flags().Uint64Var(&seed, "seed", 1, "another seed, other gusts")
	c.Flags().Float64Var(&hz, "hz", 2, "sentences a second")
	c.Flags().StringVar(&at, "at", "", "time of day HH:MM that it begins at (default now)")
	c.RunE = func(c *cobra.Command, _ []string) error {
		if !(hz > 0 && hz <= 20) {
			return fmt.Errorf("--hz is %v; expected over 0 and 20 at most", hz)
		}
		now, err := clockFrom(at, time.Local)
		if err != nil {
			return fmt.Errorf("--at %w", err)
		}
		l, err := onLoopback(addr)
		if err != nil {
			return err
		}
		ctx, stop := untilSignal(c)
		defer stop()
		fmt.Fprintf(c.OutOrStdout(), "wind meter serves on %s\n", l.Addr())
		return standin.Wind{Seed: seed, Every: time.Duration(float64(time.Second) / hz), Now: now}.Serve(ctx, l)
	}
	return c
}

// onLoopback listens on an address of this machine alone.
func onLoopback(addr string) (net.Listener, error) {
	host, _, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		return nil, fmt.Errorf("--addr is %q; expected a loopback address as 127.0.0.1:10110", addr)
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("cannot serve on %s: %w; choose another with --addr", addr, err)
	}
	return l, nil
}

func positionCommand() *cobra.Command {
	var addr string
	var speed float64
	var loop bool
	var at place
	c := &cobra.Command{
		Use:   "position --origin LAT,LON,ALT --away DEG TRACK",
		Short: "A craft's position stream: NMEA 0183 RMC, HDT and GGA sentences over TCP, from a track",
		Args:  cobra.ExactArgs(1),
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:10111", "loopback address to serve on")
	c.Flags().Float64Var(&speed, "speed", 1, "times real time")
	c.Flags().BoolVar(&loop, "loop", false, "fly it again and again")
	at.flags(c)
	c.RunE = func(c *cobra.Command, args []string) error {
		if !(speed > 0 && speed <= 100) {
			return fmt.Errorf("--speed is %v; expected over 0 and 100 at most", speed)
		}
		_, plane, err := at.read(c)
		if err != nil {
			return err
		}
		if plane == nil {
			return fmt.Errorf("a position is in degrees; expected --origin and --away, or a --course that lies on the earth")
		}
		in, err := input(c, args[0])
		if err != nil {
			return err
		}
		defer func() { _ = in.Close() }()
		t, said, err := track.Read(in, track.Options{CSVOptions: track.CSVOptions{Plane: plane}})
		if err != nil {
			return misread.InFile(args[0], err)
		}
		notes(c, args[0], said)
		l, err := onLoopback(addr)
		if err != nil {
			return err
		}
		ctx, stop := untilSignal(c)
		defer stop()
		fmt.Fprintf(c.OutOrStdout(), "position stream serves on %s\n", l.Addr())
		return standin.Position{Track: t, Plane: plane, Speed: speed, Loop: loop, Now: time.Now}.Serve(ctx, l)
	}
	return c
}

// clockFrom is a clock that begins at a time of day, as 14:30, and goes on from there; the true one where none is
// named.
func clockFrom(at string, zone *time.Location) (func() time.Time, error) {
	if at == "" {
		return func() time.Time { return time.Now().In(zone) }, nil
	}
	t, err := time.Parse("15:04", at)
	if err != nil {
		return nil, fmt.Errorf("is %q; expected a time as 14:30", at)
	}
	real := time.Now()
	y, m, d := real.In(zone).Date()
	begin := time.Date(y, m, d, t.Hour(), t.Minute(), 0, 0, zone)
	return func() time.Time { return begin.Add(time.Since(real)) }, nil
}

// standInWind starts a stand-in wind meter for the sample school, its day beginning at a time where one is named, and
// points the school at it.
func standInWind(ctx context.Context, st *store.Store, at string) (stop func(), err error) {
	zone, err := time.LoadLocation(demo.Zone)
	if err != nil {
		return nil, fmt.Errorf("time zone: %w", err)
	}
	now, err := clockFrom(at, zone)
	if err != nil {
		return nil, fmt.Errorf("--wind-at %w", err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, fmt.Errorf("stand-in wind meter: %w", err)
	}
	if err := demo.Listen(ctx, st, l.Addr().String()); err != nil {
		_ = l.Close()
		return nil, err
	}
	wind := standin.Wind{Seed: 1, Every: 500 * time.Millisecond, Now: now}
	return beside(ctx, func(own context.Context) { _ = wind.Serve(own, l) }), nil
}

// standInPosition starts a stand-in position stream for the sample school, and points the
// school at it.
func standInPosition(ctx context.Context, st *store.Store, cat *drill.Catalogue) (stop func(), err error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, fmt.Errorf("stand-in position stream: %w", err)
	}
	flown, plane, err := demo.Follow(ctx, st, cat, l.Addr().String())
	if err != nil || flown == nil {
		_ = l.Close()
		return func() {}, err
	}
	stream := standin.Position{Track: flown, Plane: plane, Speed: 1, Loop: true, Now: time.Now}
	return beside(ctx, func(own context.Context) { _ = stream.Serve(own, l) }), nil
}
