package windmeter

import (
	"bufio"
	"context"
	"errors"
	"io"
	"net"
	"net/netip"
	"strings"
	"testing"
	"testing/synctest"
	"time"

	"maestrale/core/air"
	"maestrale/core/field"
	"maestrale/internal/standin"
)

func TestReadLineThrowsAwayWhatIsTooLong(t *testing.T) {
	in := bufio.NewReaderSize(strings.NewReader("$short*00\r\n"+strings.Repeat("x", 100_000)+"\n"+strings.Repeat("y", 90)+"\n$last\n$cut"), 256)
	if l, err := readLine(in); err != nil || string(l) != "$short*00\r\n" {
		t.Errorf("%q, %v", l, err)
	}
	for range 2 {
		if _, err := readLine(in); !errors.Is(err, errLong) {
			t.Errorf("%v", err)
		}
	}
	if l, err := readLine(in); err != nil || string(l) != "$last\n" {
		t.Errorf("%q, %v", l, err)
	}
	if _, err := readLine(in); !errors.Is(err, io.ErrUnexpectedEOF) {
		t.Errorf("%v", err)
	}
}

// A flood is slowed to so many lines a second and changes nothing of the mean.
func TestFloodIsSlowed(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		h := &hearing{meter: &air.Meter{}}
		line := air.WriteMWV(air.Heard{Mps: 5, From: field.Degrees(40)})
		begun := time.Now()
		for range 5 * mostLines {
			h.hear(line, nil, time.Now())
		}
		if took := time.Since(begun); took < 4*time.Second {
			t.Errorf("%d lines were taken in %v", 5*mostLines, took)
		}
		w, keep, ok := h.now(time.Now())
		if !ok || !keep || w.Mps != 5 || w.Flooded == 0 {
			t.Errorf("%+v, %v", w, keep)
		}
	})
}

func TestZeroMarkTurnsTheDirection(t *testing.T) {
	h := &hearing{meter: &air.Meter{}, zero: field.Degrees(300)}
	if _, _, ok := h.now(time.Now()); ok {
		t.Error("a wind before anything was heard")
	}
	h.hear(air.WriteMWV(air.Heard{Mps: 3, From: field.Degrees(90)}), nil, time.Now())
	h.hear("$rubbish", nil, time.Now())
	if w, _, ok := h.now(time.Now()); !ok || w.From < 29.9 || w.From > 30.1 || w.Dropped != 1 {
		t.Errorf("%+v", w)
	}
}

func TestOnlyTheSchoolsOwnNetwork(t *testing.T) {
	for a, want := range map[string]bool{"127.0.0.1": true, "::1": true, "192.168.4.2": true, "10.0.0.1": true, "169.254.1.1": true, "8.8.8.8": false, "2001:db8::1": false, "::ffff:10.0.0.1": true} {
		if got := Near(netip.MustParseAddr(a)); got != want {
			t.Errorf("%s: %v", a, got)
		}
	}
	for addr, want := range map[string]bool{"127.0.0.1:10110": true, "meter.local:10110": true, "8.8.8.8:80": false, "nonsense": false, ":80": false} {
		if got := CheckAddr(addr) == nil; got != want {
			t.Errorf("%s: %v", addr, got)
		}
	}
	if onlyNear("tcp", "93.184.216.34:80", nil) == nil {
		t.Error("it would connect to anywhere")
	}
}

// The stand-in speaks what the reader reads, to several at a time.
func TestStandInIsRead(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	noon := func() time.Time { return time.Date(2026, 5, 1, 14, 0, 0, 0, time.UTC) }
	go func() { ended <- standin.Wind{Seed: 1, Every: 5 * time.Millisecond, Now: noon}.Serve(ctx, l) }()
	for range 2 {
		conn, err := net.Dial("tcp", l.Addr().String())
		if err != nil {
			t.Fatal(err)
		}
		in := bufio.NewReader(conn)
		for range 20 {
			line, err := readLine(in)
			if err != nil {
				t.Fatal(err)
			}
			if h, err := air.ParseMWV(string(line)); err != nil || h.Mps < 1 {
				t.Errorf("%q: %+v, %v", line, h, err)
			}
		}
		_ = conn.Close()
	}
	cancel()
	if err := <-ended; err != nil {
		t.Error(err)
	}
}
