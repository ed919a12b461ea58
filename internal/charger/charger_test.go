package charger

import (
	"context"
	"log/slog"
	"net"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/pack"
	"maestrale/internal/standin"
	"maestrale/internal/store"
	"maestrale/internal/storetest"
)

var (
	bg       = context.Background()
	ownerURL string
	db       *store.Store
)

func TestMain(m *testing.M) {
	storetest.Main(m, nil, func(url string, s *store.Store) { ownerURL, db = url, s })
}

type field struct {
	id, chief uuid.UUID
	packs     map[string]uuid.UUID
}

// school is a school with packs that listens to chargers.
func school(t *testing.T, addr string, names ...string) field {
	t.Helper()
	f := field{store.NewID(), store.NewID(), map[string]uuid.UUID{}}
	if err := store.AddSchool(bg, ownerURL, f.id, "A school", "Europe/Rome"); err != nil {
		t.Fatal(err)
	}
	err := db.InSchool(bg, f.id, func(tx store.Tx) error {
		if err := tx.AddAccount(bg, store.Account{ID: f.chief, Email: f.chief.String() + "@x.example", Name: "The chief",
			Role: store.Chief, PasswordHash: "none"}); err != nil {
			return err
		}
		for _, n := range names {
			f.packs[n] = store.NewID()
			if err := tx.AddPack(bg, store.Pack{ID: f.packs[n], Record: pack.Record{Name: n, Type: "gheppio",
				Chemistry: craft.LiPo, Cells: 4, CapacityMah: 1500}}); err != nil {
				return err
			}
		}
		return tx.KeepSettings(bg, store.Settings{CompassKind: "every-day", CompassKm: 50, CompassDays: 30,
			SessionFrom: "08:30", SessionTo: "12:30", ChargerAddr: addr})
	})
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func (f field) note(t *testing.T, name string, e pack.Event) {
	t.Helper()
	e.At = time.Now()
	if err := db.InSchool(bg, f.id, func(tx store.Tx) error {
		return tx.AddPackEvent(bg, store.NewID(), f.packs[name],
			f.chief, e)
	}); err != nil {
		t.Fatal(err)
	}
}

func (f field) log(t *testing.T, name string) (kinds []pack.EventKind, st pack.State) {
	t.Helper()
	err := db.InSchool(bg, f.id, func(tx store.Tx) error {
		p, err := tx.OnePack(bg, f.packs[name])
		if err != nil {
			return err
		}
		logs, err := tx.PackLogs(bg, nil)
		for _, e := range logs[p.ID] {
			kinds = append(kinds, e.Kind)
		}
		st = pack.StateOf(p.Record, logs[p.ID], time.Now())
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return kinds, st
}

// A pack that a person says is on the charger is told to it, charges there and is full by
// itself, with what was put in; one that is put on at the charger is noted too. Two servers
// that listen note it once, and another school hears nothing.
func TestChargingFollowsByItself(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(bg)
	slots := pack.NewSlots("C1", 2, 3)
	if err := slots.Put("P2", pack.Filling{Chemistry: craft.LiPo, Cells: 4, CapacityMah: 1500, OhmPerCell: 0.006,
		Charge: 0.2}); err != nil {
		t.Fatal(err)
	}
	done := make(chan error, 1)
	go func() {
		done <- standin.Charger{Chargers: []*pack.Slots{slots}, Every: 100 * time.Millisecond, Speed: 300,
			Log: func(s string) { t.Log(s) }}.Serve(ctx, l)
	}()
	f, other := school(t, l.Addr().String(), "P1", "P2"), school(t, "", "P1", "P2")
	f.note(t, "P1", pack.Event{Kind: pack.Rested, Volts: []float64{3.7, 3.7, 3.7, 3.7}})
	f.note(t, "P1", pack.Event{Kind: pack.Plugged, Says: "C1"})
	ended := make(chan struct{})
	for range 2 {
		go func() {
			Listener{Store: db, Log: slog.New(slog.DiscardHandler)}.Run(ctx)
			ended <- struct{}{}
		}()
	}
	defer func() {
		cancel()
		<-ended
		<-ended
		if err := <-done; err != nil {
			t.Error(err)
		}
	}()
	storetest.Until(t, "both packs are full", func() bool {
		_, a := f.log(t, "P1")
		_, b := f.log(t, "P2")
		return a.Full() && b.Full()
	})
	kinds, st := f.log(t, "P1")
	if len(kinds) != 3 || kinds[2] != pack.Charged || st.Cycles < 0.3 || st.Cycles > 1 {
		t.Errorf("P1: %v, %.2f cycles", kinds, st.Cycles)
	}
	if kinds, _ := f.log(t, "P2"); len(kinds) > 2 || kinds[len(kinds)-1] != pack.Charged {
		t.Errorf("P2: %v", kinds)
	}
	// It is flown: the charger is told that it was taken out.
	f.note(t, "P1", pack.Event{Kind: pack.Used, Minutes: 6, Mah: 1000})
	storetest.Until(t, "the slot is free", func() bool {
		var now []store.SlotNow
		if err := db.InSchool(bg, f.id, func(tx store.Tx) (err error) {
			now, err = tx.SlotsNow(bg,
				time.Time{})
			return err
		}); err != nil {
			t.Fatal(err)
		}
		for _, s := range now {
			if s.Pack == "P1" {
				return false
			}
		}
		return len(now) == 2
	})
	if kinds, _ := f.log(t, "P1"); len(kinds) != 4 {
		t.Errorf("P1 after its flight: %v", kinds)
	}
	if kinds, _ := other.log(t, "P2"); len(kinds) != 0 {
		t.Errorf("another school heard %v", kinds)
	}
}
