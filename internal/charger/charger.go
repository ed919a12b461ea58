// Package charger listens to the schools' chargers: a line of JSON for each slot over TCP
// (core/pack Told). What a charger says is noted in the packs' logs, and a charger is told
// which pack was put in or taken out.
package charger

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/pack"
	"maestrale/internal/device"
	"maestrale/internal/store"
)

const (
	keepEvery = 3 * time.Second  // what the slots say
	tellEvery = 30 * time.Second // the boards, of how far the packs are
	silence   = 30 * time.Second // after which the line is taken for dead
	mostSlots = 256              // of one stream
)

// Listener listens to every school's chargers.
type Listener struct {
	Store *store.Store
	Craft craft.Catalogue
	Log   *slog.Logger
}

// Run listens until the context ends.
func (l Listener) Run(ctx context.Context) {
	device.Watch(ctx, l.Log, "charger", l.Store.Chargers, func(k store.ChargersOf) (string, func(context.Context) error) {
		return k.Addr, func(ctx context.Context) error { return l.listen(ctx, k) }
	})
}

// slot names a slot of a stream.
type slot struct {
	charger string
	n       int
}

// listen hears one stream until it breaks. Every few seconds the newest of each slot is
// kept, so that a stream that floods writes no more than one that does not.
func (l Listener) listen(ctx context.Context, k store.ChargersOf) error {
	conn, err := device.Dial(ctx, k.Addr)
	if err != nil {
		return err
	}
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	defer stop()
	defer func() { _ = conn.Close() }()
	in := bufio.NewReaderSize(conn, 2*pack.MaxTold)
	heard, kept, told := map[slot]pack.Told{}, time.Now().Add(time.Second-keepEvery), time.Time{}
	for {
		_ = conn.SetReadDeadline(time.Now().Add(silence))
		line, err := device.ReadLine(in, pack.MaxTold)
		if err != nil && !errors.Is(err, device.ErrLong) {
			return fmt.Errorf("read: %w", err)
		}
		if err == nil {
			t, rerr := pack.ReadTold(string(line))
			if err = rerr; err == nil && (len(heard) < mostSlots || heard[slot{t.Charger, t.Slot}].Charger != "") {
				heard[slot{t.Charger, t.Slot}] = t
			}
		}
		if err != nil {
			l.Log.InfoContext(ctx, "charger", "addr", k.Addr, "dropped", err.Error())
		}
		now := time.Now()
		if now.Sub(kept) < keepEvery || len(heard) == 0 {
			continue
		}
		tell := now.Sub(told) >= tellEvery
		orders, err := l.keep(ctx, k, heard, now, tell)
		if err != nil {
			return err
		}
		kept = now
		if tell {
			told = now
		}
		_ = conn.SetWriteDeadline(now.Add(5 * time.Second))
		for _, o := range orders {
			if _, err := io.WriteString(conn, o.Line()); err != nil {
				return fmt.Errorf("write: %w", err)
			}
		}
	}
}

// keep notes what the slots say, and returns what the chargers are to be told.
func (l Listener) keep(ctx context.Context, k store.ChargersOf, heard map[slot]pack.Told, now time.Time,
	tell bool) (orders []pack.Order, err error) {
	err = l.Store.InSchool(ctx, k.School, func(tx store.Tx) error {
		if has, err := tx.HasChargers(ctx, k); err != nil || !has {
			return err
		}
		packs, err := tx.Packs(ctx)
		if err != nil {
			return err
		}
		logs, err := tx.PackLogs(ctx, nil)
		if err != nil {
			return err
		}
		in, chargers, noted := map[string]bool{}, map[string]bool{}, false
		byName := map[string]store.Pack{}
		for _, p := range packs {
			byName[p.Name] = p
		}
		for _, t := range heard {
			chargers[t.Charger] = true
			if err := tx.SetCharger(ctx, now, t); err != nil {
				return err
			}
			p, ok := byName[t.Pack]
			if !ok {
				continue // free, or a pack of somebody else
			}
			in[t.Pack] = true
			st := pack.StateOf(p.Record, logs[p.ID], now)
			e, note, gone := t.Follows(&st, newest(logs[p.ID]), now)
			if gone {
				orders = append(orders, pack.Order{Do: "take", Charger: t.Charger, Pack: t.Pack})
			}
			if !note {
				continue
			}
			if e.Mah > 1.3*p.CapacityMah {
				e.Mah = 0 // no pack takes that
			}
			if err := tx.AddPackEvent(ctx, store.NewID(), p.ID, uuid.Nil, e); err != nil {
				return err
			}
			noted = true
		}
		// What a person said is on one of these chargers, and is in none of its slots.
		for _, p := range packs {
			st := pack.StateOf(p.Record, logs[p.ID], now)
			if st.OnCharger != "" && chargers[st.OnCharger] && !in[p.Name] {
				f := l.filling(p, &st)
				orders = append(orders, pack.Order{Do: "put", Charger: st.OnCharger, Pack: p.Name, Filling: f})
			}
		}
		if noted || tell {
			return tx.Changed(ctx)
		}
		return nil
	})
	return orders, err
}

// filling is a pack as it is put on a charger; what is not known of it is taken as it lands.
func (l Listener) filling(p store.Pack, st *pack.State) pack.Filling {
	f := pack.Filling{Chemistry: p.Chemistry, Cells: p.Cells, CapacityMah: p.CapacityMah, Charge: pack.Reserve}
	f.OhmPerCell, _ = st.OhmOf(p.Record, l.Craft[p.Type])
	if st.Known {
		f.Charge = st.Charge
	}
	return f
}

// newest is when a log was last written in.
func newest(log []pack.Event) (at time.Time) {
	for _, e := range log {
		if e.At.After(at) {
			at = e.At
		}
	}
	return at
}
