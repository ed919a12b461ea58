package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"maestrale/core/course"
	"maestrale/core/drill"
	"maestrale/internal/demo"
	"maestrale/internal/localpg"
	"maestrale/internal/password"
	"maestrale/internal/reach"
	"maestrale/internal/store"
	"slices"
	"time"

	"github.com/spf13/cobra"
)

func demoCommand() *cobra.Command {
	var addr, data, files, windAt, light string
	var reset bool
	c := &cobra.Command{
		Use:   "demo",
		Short: "Starts a private PostgreSQL on loopback, the sample school and the server",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			ctx, stop := untilSignal(c)
			defer stop()
			if data == "" {
				data = localpg.DataFolder()
			}
			front, err := reach.Listen(reach.Options{Addr: addr})
			if err != nil {
				return err
			}
			defer front.Close()
			return onOwnServer(ctx, data, func(url, data string) error {
				return runDemo(ctx, c, site{url: url, front: front, cat: drill.Shipped(), demo: true, data: data, files: files,
					windAt: windAt, light: course.Lit(light)}, reset)
			})
		},
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8080", "address to serve on")
	c.Flags().StringVar(&data, "data", "",
		"data folder (default .maestrale here; for root a folder under /var/lib/maestrale)")
	c.Flags().StringVar(&windAt, "wind-at", "", "time of day HH:MM at which the stand-in wind begins (default now)")
	c.Flags().StringVar(&light, "light", "",
		"in which light the sample school flies: sun (over its site) or day (default sun, and day when it is dark there)")
	c.Flags().BoolVar(&reset, "reset", false, "make the sample school anew")
	c.Flags().StringVar(&files, "interface", "", "folder of templates and dist, read at every request; for make dev")
	return c
}

func runDemo(ctx context.Context, c *cobra.Command, s site, reset bool) error {
	other, err := store.OtherSchool(ctx, s.url, demo.SchoolName)
	if err != nil {
		return err
	}
	if other != "" {
		return fmt.Errorf("this database holds the school %q; the demo touches none but its own sample. Use maestrale "+
			"serve, "+
			"or another database", other)
	}
	if reset {
		if err := store.Reset(ctx, s.url); err != nil {
			return err
		}
	}
	if err := store.Migrate(ctx, s.url); err != nil {
		return err
	}
	there, err := store.HasSchools(ctx, s.url)
	if err != nil {
		return err
	}
	if !there {
		st, err := store.Open(ctx, s.url, nil)
		if err != nil {
			return err
		}
		if s.light == "" {
			if s.light = demo.LightFor("", time.Now()); s.light == course.LitDay {
				fmt.Fprintln(c.OutOrStdout(), "It is dark over the sample school's field: it flies under floodlights.")
			}
		}
		breeze, err := breezeAt(s.windAt)
		if err == nil {
			err = s.light.Check()
		}
		if err == nil {
			err = demo.Load(ctx, s.url, st, s.cat, demo.At{Now: time.Now(), Breeze: breeze, Light: s.light}, password.Hash)
		}
		if err == nil {
			err = demo.FieldDay{Store: st, Cat: s.cat, Now: time.Now}.SampleDay(ctx, demo.SignIns()[0].Email)
		}
		st.Close()
		if err != nil {
			// A school that was loaded by half would be taken for whole.
			return errors.Join(fmt.Errorf("load the sample school: %w", err), store.Reset(context.WithoutCancel(ctx), s.url))
		}
	}
	return serve(ctx, c, s)
}

// breezeAt is when the stand-in wind begins.
func breezeAt(at string) (time.Time, error) {
	zone, err := time.LoadLocation(demo.Zone)
	if err != nil {
		return time.Time{}, fmt.Errorf("time zone: %w", err)
	}
	now, err := clockFrom(at, zone)
	if err != nil {
		return time.Time{}, fmt.Errorf("--wind-at %w", err)
	}
	return now(), nil
}

// standIns starts what a demo has in the place of devices: a wind meter, a craft that says where it is, and a charger.
// What it returns stops those that were started, and is there with an error too.
func standIns(ctx context.Context, st *store.Store, cat *drill.Catalogue, windAt string) (stop func(), err error) {
	var stops []func()
	stop = func() {
		for _, end := range slices.Backward(stops) {
			end()
		}
	}
	for _, start := range []func() (func(), error){
		func() (func(), error) { return standInWind(ctx, st, windAt) },
		func() (func(), error) { return standInPosition(ctx, st, cat) },
		func() (func(), error) { return standInCharger(ctx, st) },
	} {
		end, err := start()
		if err != nil {
			return stop, err
		}
		stops = append(stops, end)
	}
	return stop, nil
}

// greet prints who can sign in to the sample school, and where its data are.
func greet(out io.Writer, data string) {
	fmt.Fprintf(out, "\n%s. Sign in with the password  %s  as\n", demo.SchoolName, demo.Password)
	for _, w := range demo.SignIns() {
		fmt.Fprintf(out, "  %-12s %s\n", w.Role, w.Email)
	}
	where := ""
	if data != "" {
		where = " in " + data
	}
	fmt.Fprintf(out, "\nCtrl-C stops it; the data stay%s.\n", where)
}
