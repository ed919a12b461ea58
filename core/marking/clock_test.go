package marking

import (
	"math/rand/v2"
	"testing"
	"time"
)

// aDevice is a device with a true time, whose clock is set and whose pages are opened and killed.
type aDevice struct {
	truth, wall, mono float64 // ms
	list              []Stretch
}

func (d *aDevice) begin(cut string) {
	d.list = append(d.list, Stretch{ID: string(rune('a' + len(d.list))), Cut: cut, WallMs: d.wall - d.mono})
}

func (d *aDevice) pass(ms float64)  { d.truth += ms; d.wall += ms; d.mono += ms }
func (d *aDevice) sleep(ms float64) { d.truth += ms; d.wall += ms; d.begin(CutSlept) }
func (d *aDevice) set(ms float64)   { d.wall += ms; d.begin(CutSet) }
func (d *aDevice) open(closedMs float64) {
	d.truth += closedMs
	d.wall += closedMs
	d.mono = 0
	d.begin(CutOpened)
}

func (d *aDevice) contact(roundMs, skewMs float64) {
	off := d.truth - d.mono + skewMs // the answer tells it to half of the way at best
	d.list[len(d.list)-1].ServerMs, d.list[len(d.list)-1].RoundMs = &off, roundMs
}

// Whatever is done to a device's clock while its page is open, and however often it is closed and sleeps, the moments
// of its marks are told to half of the quickest answer.
func TestDateOfIsTheTruth(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 18))
	for range 3000 {
		d := &aDevice{truth: 1.8e12, wall: 1.8e12 + r.NormFloat64()*1e8}
		d.begin(CutOpened)
		d.contact(300, 0)
		type seen struct {
			id          string
			mono, truth float64
		}
		var all []seen
		for range 4 + r.IntN(25) {
			d.pass(r.Float64() * 4e5)
			switch r.IntN(7) {
			case 0:
				d.set(r.NormFloat64() * 1e8)
			case 1:
				d.sleep(r.Float64() * 3e6)
			case 2:
				d.open(r.Float64() * 3e6)
			case 6: // a lid that is closed: nothing says so, but the server is met before and after
				d.contact(100, 0)
				ms := 1e4 + r.Float64()*3e6
				d.truth, d.wall = d.truth+ms, d.wall+ms
				d.begin(CutSet)
				d.contact(100, 0)
			case 3:
				round := 20 + r.Float64()*1500
				d.contact(round, (r.Float64()-0.5)*round)
			default:
				all = append(all, seen{d.list[len(d.list)-1].ID, d.mono, d.truth})
			}
		}
		d.contact(200, 40)
		for _, s := range all {
			m, ok := DateOf(d.list, s.id, s.mono)
			if off := m.At.Sub(moment(s.truth)).Abs(); !ok || !m.Known || off > 1100*time.Millisecond {
				t.Fatalf("%v off, %+v, %v", off, m, d.list)
			}
		}
	}
}

// A clock that was set while the page was closed leaves a guess where the page after it was closed again without a
// contact, and says so; it never says that it knows.
func TestDateOfSaysThatItGuesses(t *testing.T) {
	for _, first := range []bool{true, false} {
		d := &aDevice{truth: 1.8e12, wall: 1.8e12}
		d.begin(CutOpened)
		d.contact(100, 0)
		if first {
			d.wall -= 864e5
		}
		d.open(1000)
		d.pass(60_000)
		id, mono := d.list[1].ID, d.mono
		if !first {
			d.wall -= 864e5
		}
		d.open(1000)
		d.contact(100, 0)
		if m, ok := DateOf(d.list, id, mono); !ok || m.Known {
			t.Errorf("set before: %v: %+v", first, m)
		}
	}
	d := &aDevice{truth: 1.8e12, wall: 1.8e12 + 864e5} // no contact at all: only what its clock says
	d.begin(CutOpened)
	if m, ok := DateOf(d.list, "a", 5000); !ok || m.Known || !m.At.Equal(moment(1.8e12+864e5+5000)) {
		t.Errorf("%+v", m)
	}
	if _, ok := DateOf(d.list, "z", 5000); ok {
		t.Error("a stretch that was not handed over")
	}
}
