package windmeter

import (
	"context"
	"errors"
	"io"
	"log/slog"
	"net"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/air"
	"maestrale/core/field"
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

// device is a meter at an address of loopback that says what it is told to, over and over.
func meterThat(t *testing.T, addr string, say func(n int) string) net.Listener {
	t.Helper()
	l, err := net.Listen("tcp", addr)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = l.Close() })
	go func() {
		for {
			conn, err := l.Accept()
			if err != nil {
				return
			}
			go func() {
				defer func() { _ = conn.Close() }()
				for n := 0; ; n++ {
					if _, err := io.WriteString(conn, say(n)); err != nil {
						return
					}
					time.Sleep(20 * time.Millisecond)
				}
			}()
		}
	}()
	return l
}

// listening is a school whose meter stands at an address.
type listening struct{ id, chief uuid.UUID }

func school(t *testing.T) listening {
	t.Helper()
	s := listening{store.NewID(), store.NewID()}
	if err := store.AddSchool(bg, ownerURL, s.id, "A school", "Europe/Rome"); err != nil {
		t.Fatal(err)
	}
	err := db.InSchool(bg, s.id, func(tx store.Tx) error {
		return tx.AddAccount(bg, store.Account{ID: s.chief, Email: s.chief.String() + "@x.example", Name: "The chief",
			Role: store.Chief, PasswordHash: "none"})
	})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func (s listening) meter(t *testing.T, addr string) {
	t.Helper()
	err := db.InSchool(bg, s.id, func(tx store.Tx) error {
		return tx.KeepSettings(bg, store.Settings{CompassKind: "every-day", CompassKm: 50, CompassDays: 30,
			SessionFrom: "08:30", SessionTo: "12:30", MeterAddr: addr, MeterZeroDeg: 10})
	})
	if err != nil {
		t.Fatal(err)
	}
}

func (s listening) person(t *testing.T) store.Person {
	t.Helper()
	p, err := db.ByAccount(bg, s.chief)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func (s listening) now(t *testing.T) (w store.WindNow) {
	t.Helper()
	err := db.InSchool(bg, s.id, func(tx store.Tx) (err error) {
		w, err = tx.WindNow(bg)
		return err
	})
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		t.Fatal(err)
	}
	return w
}

// Each school hears its own meter and no other. A meter that talks nonsense gives
// no wind and does not stop another; one that is taken away falls silent; one that
// ends its line is asked again.
func TestSchoolsHearTheirOwnMeters(t *testing.T) {
	sound := meterThat(t, "127.0.0.1:0", func(n int) string {
		if n%4 == 3 {
			return "$IIMWV,090,T,99.0,N,A*00\r\n" // a check sum that is wrong
		}
		return air.WriteMWV(air.Heard{Mps: 6, From: field.Degrees(200)})
	})
	liar := meterThat(t, "127.0.0.1:0", func(int) string { return "GET / HTTP/1.1\r\n\x00\xff$$$,*\r\n" })
	free, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	_ = free.Close() // nobody is there yet
	good, bad, late := school(t), school(t), school(t)
	good.meter(t, sound.Addr().String())
	bad.meter(t, liar.Addr().String())
	late.meter(t, free.Addr().String())

	ctx, cancel := context.WithCancel(bg)
	ended := make(chan struct{})
	go func() {
		Listener{Store: db, Log: slog.New(slog.NewTextHandler(io.Discard, nil))}.Run(ctx)
		close(ended)
	}()
	storetest.Until(t, "the good meter is heard", func() bool { return good.person(t).WindMps != nil })
	p := good.person(t)
	if *p.WindMps < 5.94 || *p.WindMps > 6.06 || !p.Metered || p.WindAt == nil || time.Since(*p.WindAt) > 20*time.Second {
		t.Errorf("%+v", p)
	}
	storetest.Until(t, "the nonsense is counted", func() bool { return bad.now(t).Dropped > 0 })
	if w := bad.now(t); !w.At.IsZero() || w.Sound != 0 || w.Why == "" {
		t.Errorf("%+v", w)
	}
	if w := good.now(t); w.Sound == 0 || w.Dropped == 0 || w.From < 209 || w.From > 211 {
		t.Errorf("%+v", w)
	}
	if p := bad.person(t); p.WindMps != nil || p.WindAt != nil {
		t.Errorf("a wind out of nonsense: %+v", p)
	}
	if p := late.person(t); p.WindMps != nil {
		t.Errorf("a wind from nobody: %+v", p)
	}

	// The late one comes up at its address, and is found by itself.
	meterThat(t, free.Addr().String(), func(int) string {
		return air.WriteMWV(air.Heard{Mps: 3,
			From: field.Degrees(90)})
	})
	storetest.Until(t, "the late meter is heard", func() bool {
		p := late.person(t)
		return p.WindMps != nil &&
			*p.WindMps > 2.9
	})

	// Taken away, the wind grows old.
	good.meter(t, "")
	var last time.Time
	storetest.Until(t, "the meter that was taken away is heard no more", func() bool {
		was := last
		last = good.now(t).At
		time.Sleep(2 * writeEvery)
		return was.Equal(last)
	})
	cancel()
	select {
	case <-ended:
	case <-time.After(20 * time.Second):
		t.Error("the listener does not end")
	}
}

// Between the form that takes a meter away and the end of its listener a wind may
// be typed: what the meter goes on to say does not take its place.
func TestMeterTakenAwayIsNotKept(t *testing.T) {
	s := school(t)
	const addr = "127.0.0.1:9"
	s.meter(t, addr)
	l, h := Listener{Store: db}, &hearing{meter: &air.Meter{}}
	m := store.MeterOf{School: s.id, Addr: addr, ZeroDeg: 10}
	says := func(at time.Time, mps float64) {
		t.Helper()
		h.hear(air.WriteMWV(air.Heard{Mps: mps}), nil, at)
		if err := l.keep(bg, m, h, at); err != nil {
			t.Fatal(err)
		}
	}
	at := time.Now().Add(-5 * time.Second)
	says(at, 7)
	if w := s.now(t); w.Mps < 6.9 {
		t.Fatalf("it was not heard: %+v", w)
	}
	s.meter(t, "")
	says(at.Add(time.Second), 8)
	if w := s.now(t); w.Mps > 7.1 || w.At.After(at.Add(time.Millisecond)) {
		t.Errorf("heard after it was taken away: %+v", w)
	}
}
