package pack

import (
	"math"
	"strings"
	"testing"
	"time"

	"maestrale/core/craft"
)

var four = Filling{Chemistry: craft.LiPo, Cells: 4, CapacityMah: 1500, OhmPerCell: 0.006, Charge: 0.25}

// The slots charge as long as ChargeTime says, and put in what was missing.
func TestSlotsChargeAsReckoned(t *testing.T) {
	for _, rate := range []float64{0.5, 1, 3} {
		want, err := ChargeTime(four, 1, rate)
		if err != nil {
			t.Fatal(err)
		}
		s := NewSlots("C1", 2, rate)
		if err := s.Put("P1", four); err != nil {
			t.Fatal(err)
		}
		minutes := 0.0
		for ; s.Tell()[0].State == SlotCharging && minutes < 600; minutes += 0.5 {
			before := s.Tell()[0]
			s.Step(30 * time.Second)
			if now := s.Tell()[0]; now.Mah < before.Mah || now.Charge < before.Charge ||
				now.Volts > 4*FullVolts(craft.LiPo)+1e-9 {
				t.Fatalf("from %+v to %+v", before, now)
			}
		}
		got := s.Tell()[0]
		if math.Abs(minutes-want.Minutes) > 1+0.02*want.Minutes || got.State != SlotFull || got.Mah < 0.9*0.75*1500 ||
			got.Mah > 0.75*1500+1 {
			t.Errorf("at %v C: %.1f min, %+v; want %.1f min", rate, minutes, got, want.Minutes)
		}
		if free := s.Tell()[1]; free.State != SlotFree || free.Pack != "" {
			t.Errorf("the other slot: %+v", free)
		}
	}
}

func TestSlotsAreFilledOnce(t *testing.T) {
	s := NewSlots("C1", 1, 1)
	if err := s.Put("P1", four); err != nil {
		t.Fatal(err)
	}
	if err := s.Put("P1", four); err == nil || !strings.Contains(err.Error(), "already") {
		t.Errorf("twice: %v", err)
	}
	if err := s.Put("P2", four); err == nil || !strings.Contains(err.Error(), "taken") {
		t.Errorf("no room: %v", err)
	}
	if s.Take("P2") || s.Take("") || !s.Take("P1") || s.Tell()[0].State != SlotFree {
		t.Errorf("taken out: %+v", s.Tell())
	}
}

func TestWhatFollowsFromACharger(t *testing.T) {
	now := time.Date(2026, 5, 1, 10, 0, 0, 0, time.UTC)
	told := func(state string) Told {
		return Told{Charger: "C1", Slot: 1, State: state, Pack: "P1", Seconds: 600, Mah: 900}
	}
	on, off, full := State{OnCharger: "C1"}, State{}, State{Known: true, Charge: 1}
	for name, c := range map[string]struct {
		told   Told
		of     State
		newest time.Time
		kind   EventKind
		gone   bool
	}{
		"put on since":            {told(SlotCharging), off, now.Add(-time.Hour), Plugged, false},
		"goes on":                 {told(SlotCharging), on, now.Add(-10 * time.Minute), "", false},
		"full":                    {told(SlotFull), on, now.Add(-10 * time.Minute), Charged, false},
		"full and said so":        {told(SlotFull), full, now.Add(-time.Minute), "", false},
		"full, and flown since":   {told(SlotFull), off, now.Add(-time.Minute), "", true},
		"taken off before full":   {told(SlotCharging), off, now.Add(-time.Minute), "", true},
		"stopped":                 {told(SlotFault), on, now.Add(-10 * time.Minute), Damaged, false},
		"free":                    {told(SlotFree), on, now.Add(-10 * time.Minute), "", false},
		"moved to C1 from C2":     {told(SlotCharging), State{OnCharger: "C2"}, now.Add(-time.Hour), Plugged, false},
		"moved on to C2 from C1":  {told(SlotCharging), State{OnCharger: "C2"}, now.Add(-time.Minute), "", true},
		"lies full, said on none": {told(SlotFull), State{}, now.Add(-time.Hour), "", true},
	} {
		e, note, gone := c.told.Follows(&c.of, c.newest, now)
		if e.Kind != c.kind || note != (c.kind != "") || gone != c.gone {
			t.Errorf("%s: %+v, %v, gone %v", name, e, note, gone)
		}
	}
	if e, _, _ := told(SlotCharging).Follows(&off, now.Add(-time.Hour), now); !e.At.Equal(now.Add(-10*time.Minute)) ||
		e.Says != "C1" {
		t.Errorf("put on at %v", e.At)
	}
	if e, _, _ := told(SlotFull).Follows(&on, now.Add(-time.Hour), now); e.Mah != 900 {
		t.Errorf("%+v", e)
	}
}

func TestChargerLinesThatCannotBe(t *testing.T) {
	for line, want := range map[string]string{
		"":                                 "JSON",
		`{"format":"maestrale-charger/2"}`: "maestrale-charger/1",
		`{"format":"maestrale-charger/1"}`: "charger",
		`{"format":"maestrale-charger/1","charger":"C1","slot":0,"state":"free"}`: "slot",
		`{"format":"maestrale-charger/1","charger":"C1",` +
			`"slot":1,"state":"warm"}`: "free, charging, full or fault",
		`{"format":"maestrale-charger/1","charger":"C1","slot":1,"state":"full"}`:                           "label",
		`{"format":"maestrale-charger/1","charger":"C1","slot":1,"state":"full","pack":"P1","charge":7}`:    "charge",
		`{"format":"maestrale-charger/1","charger":"C1","slot":1,"state":"charging","pack":"P1","mah":"x"}`: "mah",
	} {
		if _, err := ReadTold(line); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", line, err)
		}
	}
	for line, want := range map[string]string{
		`{"format":"maestrale-charger/1","do":"eat","charger":"C1",` +
			`"pack":"P1"}`: "put or take",
		`{"format":"maestrale-charger/1","do":"put","charger":"C1","pack":"P1","chemistry":"lead",` +
			`"cells":4,"capacity_mah":1500,"charge":0.2}`: "lipo",
		`{"format":"maestrale-charger/1","do":"put","charger":"C1","pack":"P1","chemistry":"lipo",` +
			`"cells":0,"capacity_mah":1500,"charge":0.2}`: "cells",
	} {
		if _, err := ReadOrder(line); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", line, err)
		}
	}
}

// What is written is read back; whatever is read is written and read the same.
func FuzzChargerLines(f *testing.F) {
	f.Add(Told{Charger: "C1", Slot: 2, State: SlotCharging, Pack: "P7", Seconds: 61.5, Volts: 15.9, Amps: 1.4, Mah: 33,
		Charge: 0.5}.Line())
	f.Add(Told{Charger: "C1", Slot: 2, State: SlotFault, Pack: "P7", Says: "too warm"}.Line())
	f.Add(Order{Do: "put", Charger: "C1", Pack: "P1", Filling: four}.Line())
	f.Add(Order{Do: "take", Charger: "C1", Pack: "P1"}.Line())
	f.Fuzz(func(t *testing.T, line string) {
		if told, err := ReadTold(line); err == nil {
			again, err := ReadTold(told.Line())
			if err != nil || again.Line() != told.Line() {
				t.Errorf("%q became %q: %v", line, told.Line(), err)
			}
		}
		if o, err := ReadOrder(line); err == nil {
			if again, err := ReadOrder(o.Line()); err != nil || again != o {
				t.Errorf("%q became %+v: %v", line, again, err)
			}
		}
	})
}
