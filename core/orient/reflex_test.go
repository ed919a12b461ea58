package orient

import (
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"maestrale/core/field"
)

// The E-factor of SM-2 after one answer of each quality, as Wozniak's formula gives it from
// 2.5, and the intervals 1, 6, 15, 37.5.
func TestSM2(t *testing.T) {
	at := time.Date(2026, 1, 1, 20, 0, 0, 0, time.UTC)
	for q, want := range map[int]float64{5: 2.6, 4: 2.5, 3: 2.36, 2: 2.18, 1: 1.96, 0: 1.7} {
		if m := Fresh().After(q, at); math.Abs(m.Ease-want) > 1e-9 || (q < 3) != (m.Reps == 0) {
			t.Errorf("quality %d: %+v, want %v", q, m, want)
		}
	}
	m := Fresh()
	for i, want := range []float64{1, 6, 15, 37.5} {
		if m = m.After(4, at); math.Abs(m.Interval-want) > 1e-9 ||
			!m.Due.Equal(at.Add(time.Duration(want*24*float64(time.Hour)))) {
			t.Errorf("interval %d is %v, want %v", i+1, m.Interval, want)
		}
	}
	if m = m.After(1, at); m.Reps != 0 || m.Interval != 0 || m.Due.After(at) {
		t.Errorf("forgotten: %+v", m)
	}
	for range 20 {
		m = m.After(0, at)
	}
	if m.Ease != 1.3 {
		t.Errorf("the ease falls to %v", m.Ease)
	}
}

// The right first movement by hand: what every instructor says at the field.
func TestFirstMovements(t *testing.T) {
	up, down, left, right := First{Pitch: 1}, First{Pitch: -1}, First{Roll: -1}, First{Roll: 1}
	for _, c := range []struct {
		task   Task
		sector int
		right  []First
		wrong  []First
	}{
		{BringLeft, 0, []First{left}, []First{right, up, down, {Yaw: -1}}},
		{BringLeft, 8, []First{right}, []First{left, up}},  // nose-in
		{BringLeft, 4, []First{down}, []First{left, up}},   // nose right
		{BringLeft, 12, []First{up}, []First{left, right}}, // nose left
		{StopRight, 8, []First{right}, []First{left}},      // nose-in: push toward the side it drifts to
		{StopRight, 0, []First{left}, []First{right}},
		{BringNearer, 8, []First{up}, []First{down}},
		{BringLeft, 2, []First{left, down}, []First{right, up}}, // at 45° both keys
		{TurnTail, 4, []First{{Yaw: -1}}, []First{{Yaw: 1}, left}},
		{TurnTail, 8, []First{{Yaw: -1}, {Yaw: 1}}, []First{up}},
	} {
		i := Item{c.task, c.sector}
		for _, f := range c.right {
			if !i.Right(f) {
				t.Errorf("%s with %+v is wrong", i.Key(), f)
			}
		}
		for _, f := range c.wrong {
			if i.Right(f) {
				t.Errorf("%s with %+v is right", i.Key(), f)
			}
		}
		if back, err := ItemOf(i.Key()); err != nil || back != i {
			t.Errorf("%s is read as %+v, %v", i.Key(), back, err)
		}
	}
	for _, key := range []string{"", "bring-left", "bring-left/16", "bring-left/-1", "dance/3", "turn-tail/0"} {
		if _, err := ItemOf(key); err == nil {
			t.Errorf("%q was taken", key)
		}
	}
}

// A student who is weak nose-right is found within 60 items, and nobody else is.
func TestTheTrainerFindsAWeakSector(t *testing.T) {
	names := [field.Sectors]string{}
	found, falsely := 0, 0
	const students = 200
	for seed := range uint64(students) {
		r := rand.New(rand.NewPCG(seed, 6))
		fly := func(weak func(int) bool) (out [field.Sectors]SectorReflex) {
			x := &Reflexes{memory: map[Item]Memory{}}
			at := time.Date(2026, 1, 1, 20, 0, 0, 0, time.UTC)
			for range 60 {
				it := x.Next(at, r)
				p := 0.95
				if weak(it.Sector) {
					p = 0.2
				}
				x.Add(Answer{it, at, 0.9, r.Float64() < p})
				at = at.Add(2 * time.Second)
			}
			if x.Advice(names)[0] == "" {
				t.Fatal("no advice")
			}
			return x.Sectors()
		}
		for i, s := range fly(func(i int) bool { return i >= 3 && i <= 5 }) {
			if s.Weak && i == 4 {
				found++
			}
		}
		for _, s := range fly(func(int) bool { return false }) {
			if s.Weak {
				falsely++
				break
			}
		}
	}
	t.Logf("found in %d of %d; something found where nothing is in %d", found, students, falsely)
	if found < students*95/100 || falsely > students/5 {
		t.Errorf("found in %d of %d; something found where nothing is in %d", found, students, falsely)
	}
}

// What is due comes before what is not, and the same is never asked twice in a row.
func TestWhatIsAskedNext(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 6))
	x := &Reflexes{memory: map[Item]Memory{}}
	at := time.Date(2026, 1, 1, 20, 0, 0, 0, time.UTC)
	again, last := 0, Item{}
	seen := map[Item]bool{}
	for i := range len(Items()) {
		it := x.Next(at, r)
		if i > 0 && it == last {
			t.Fatal("the same twice in a row")
		}
		if seen[it] {
			again++
		}
		seen[it], last = true, it
		x.Add(Answer{it, at, 0.7, true})
	}
	if again > len(Items())/2 {
		t.Errorf("%d of %d were asked again though they were not due", again, len(Items()))
	}
}
