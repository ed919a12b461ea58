package windmeter

import (
	"bufio"
	"context"
	"net"
	"testing"
	"testing/synctest"
	"time"

	"maestrale/core/air"
	"maestrale/core/field"
	"maestrale/internal/device"
	"maestrale/internal/standin"
)

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
			line, err := device.ReadLine(in, air.MaxSentence)
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
