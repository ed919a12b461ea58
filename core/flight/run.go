package flight

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"math"
)

const (
	hashEvery   = 50 // ticks
	sampleEvery = 10 // ticks: a track at 50 Hz
	readEvery   = 0.01
)

// Outcome is how a flight ended.
type Outcome struct {
	Ticks   int64
	Hash    string // SHA-256 over the states, hexadecimal
	Ended   string // landed, airborne, crashed or flat-pack
	Cause   string
	Refused []Refused
}

// Session flies reading by reading of the sticks, every 10 ms, and sums up the
// states as it goes.
type Session struct {
	*Flight
	// Visit, where it is not nil, is given a sample at 50 Hz.
	Visit    func(Sample)
	sum      hash.Hash
	perStick int64
	calls    int
}

// NewSession begins a session on a flight that has not been flown yet.
func NewSession(f *Flight) *Session {
	return &Session{Flight: f, sum: sha256.New(), perStick: int64(math.Floor(readEvery/f.dt + 0.5))}
}

// Read lets the events happen and flies until the next reading of the sticks, or
// to a tick at most where it is not negative.
func (s *Session) Read(k Sticks, events []Event, last int64) {
	for _, e := range events {
		if e.Kind == CallOut {
			s.calls++
		}
		s.Happen(e, k)
	}
	for range s.perStick {
		if s.State.Crashed || (last >= 0 && s.State.Tick >= last) {
			return
		}
		if s.Visit != nil && s.State.every(sampleEvery) {
			s.visit(k)
		}
		if s.State.every(hashEvery) {
			s.State.hash(s.sum, s.mix.N)
		}
		s.Step(k)
	}
}

// visit shows the state and the sticks to whoever follows the session, with the
// calls since the last time.
func (s *Session) visit(k Sticks) {
	x := s.Sample(k)
	x.Calls, s.calls = s.calls, 0
	s.Visit(x)
}

// End closes the session with the last state and says how the flight ended.
func (s *Session) End(k Sticks) Outcome {
	s.State.hash(s.sum, s.mix.N)
	if s.Visit != nil {
		s.visit(k)
	}
	out := Outcome{Ticks: s.State.Tick, Hash: hex.EncodeToString(s.sum.Sum(nil)), Ended: "airborne", Cause: s.State.Cause,
		Refused: s.Refused}
	switch {
	case s.State.Flat:
		out.Ended = "flat-pack"
		if out.Cause == "" {
			out.Cause = msgPackWasEmpty
		}
	case s.State.Crashed:
		out.Ended = "crashed"
	case s.State.onGround:
		out.Ended = "landed"
	}
	return out
}

// Run flies a stick trace. A row holds until the next; the last holds to the end.
// Sticks are read every 10 ms: a row counts from the first reading at or after its
// time. visit, where it is not nil, is given a sample at 50 Hz.
func (f *Flight) Run(rows []Row, seconds float64, visit func(Sample)) (Outcome, error) {
	if !(seconds > 0 && seconds <= LongestFlight) {
		return Outcome{}, fmt.Errorf("a flight of %v s; expected over 0 and %d at most", seconds, LongestFlight)
	}
	if len(rows) == 0 {
		return Outcome{}, errors.New("no sticks; expected one row at least")
	}
	s := NewSession(f)
	s.Visit = visit
	ticks := int64(math.Floor(seconds/f.dt + 0.5))
	k := rows[0].Sticks
	next := 0
	for f.State.Tick < ticks && !f.State.Crashed {
		now := f.Now()
		var events []Event
		for next < len(rows) && rows[next].T <= now+1e-9 {
			k = rows[next].Sticks
			if len(events) == 0 {
				events = rows[next].Events
			} else {
				events = append(events[:len(events):len(events)], rows[next].Events...)
			}
			next++
		}
		s.Read(k, events, ticks)
	}
	return s.End(k), nil
}

// hash adds what moves to a sum: place, speed, attitude, rates, rotors, pack, air
// and sensors, as little-endian floats.
func (s *State) hash(sum hash.Hash, rotors int) {
	var b [8 * (19 + MostRotors)]byte
	n := 0
	put := func(v float64) {
		binary.LittleEndian.PutUint64(b[8*n:], math.Float64bits(v))
		n++
	}
	for _, v := range [...]Vec{s.Pos, s.Vel, s.Rate, s.air} {
		put(v.X)
		put(v.Y)
		put(v.Z)
	}
	put(s.Att.W)
	put(s.Att.X)
	put(s.Att.Y)
	put(s.Att.Z)
	put(s.Charge)
	put(s.sensors.wanderX)
	put(s.sensors.wanderY)
	for i := range rotors {
		put(s.Rotor[i])
	}
	sum.Write(b[:8*n])
}
