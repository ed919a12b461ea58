package daylogs

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/rehearse"
	"maestrale/core/score"
	"maestrale/core/track"
)

// made is a field day that was made up, and the truth of each of its files.
type made struct {
	day   Day
	logs  []Log
	truth []truth
	cat   *drill.Catalogue
	files []madeFile
	o     track.Options
}

type madeFile struct {
	name string
	data []byte
}

type truth struct {
	flight string  // empty for a stray
	clock  float64 // what its recorder's clock is behind by
	copy   bool
	cells  []drill.Cell
}

var tails = []string{"alba-1", "alba-2", "brina-1"}

var flown = []string{"hover-tail-in", "landing-pad", "nose-in-hover", "off-tail-90", "yaw-quarter"}

func layOf(cat *drill.Catalogue) Lay {
	return func(c drill.Cell, _ string) (drill.Task, error) {
		d, err := cat.Drill(c.Drill)
		if err != nil {
			return drill.Task{}, err
		}
		return d.Lay(c.Side, c.Level, craft.Light, nil)
	}
}

func cellOf(cat *drill.Catalogue, key string) drill.Cell {
	d := cat.Drills[key]
	return drill.Cell{Drill: key, Side: d.Sides()[0], Aids: "position-hold", Level: 1}
}

// standS is how long a log of a made-up day lasts at least, s.
var standS = 0.0

// naming is what the names of the files tell of the craft.
type naming int

const (
	byCraft   naming = iota // each is named after it
	inFolders               // those of each lie in a folder of their own
	inAHeap                 // nothing
)

// makeDay flies a day: three craft, each with a clock of its own, a few drills in each flight, some of them marked.
func makeDay(t testing.TB, seed uint64, flights int, clocks [3]float64, named naming) *made {
	t.Helper()
	r := rand.New(rand.NewPCG(seed, 7))
	m := &made{cat: drill.Shipped()}
	zone := time.FixedZone("field", 2*3600)
	m.day.Starts = time.Date(2026, 5, 9, 9, 0, 0, 0, zone)
	lay := layOf(m.cat)
	plane, err := field.NewPlane(field.Geo{LatDeg: 44.1, LonDeg: 9.8, AltM: 30}, 20)
	if err != nil {
		t.Fatal(err)
	}
	free := [3]float64{}
	for n := range flights {
		c := n % 3
		from := free[c] + 120 + 500*r.Float64()
		f := Flight{ID: fmt.Sprint("flight-", n), Student: fmt.Sprint("student-", r.IntN(8)), Craft: "alba", Tail: tails[c],
			From: m.after(from)}
		f.Name = "Student " + f.Student[8:]
		whole := &track.Track{Start: m.after(from + 20*r.Float64() - clocks[c])}
		true0 := whole.Start.Sub(m.day.Starts).Seconds() + clocks[c]
		at := 5 + 20*r.Float64()
		tr := truth{flight: f.ID, clock: clocks[c]}
		for k := range 1 + r.IntN(3) {
			cell := cellOf(m.cat, flown[r.IntN(len(flown))])
			task, err := lay(cell, "alba")
			if err != nil {
				t.Fatal(err)
			}
			one := rehearse.Receiver{White: 0.02}.Log(rehearse.Of(task, rehearse.Usual(), rehearse.Error{}), 10, r.Uint64())
			join(whole, one, at)
			begin, end := at, at+one.Duration()
			at = end + 10 + 30*r.Float64()
			if k == 0 {
				f.Drills = append(f.Drills, cell)
			}
			tr.cells = append(tr.cells, cell)
			if r.Float64() < 0.6 { // a hand begins and ends a mark within two seconds or so
				v := score.Pass
				if r.Float64() < 0.2 {
					v = score.Fail
				}
				m.day.Marks = append(m.day.Marks, Mark{ID: fmt.Sprint("mark-", len(m.day.Marks)), Student: f.Student,
					Craft: "alba", Cell: cell, From: m.after(true0 + begin + 1 + 2*r.Float64()),
					To: m.after(true0 + end - 1 + r.Float64()), Verdict: v, By: "an instructor"})
			}
		}
		for _, key := range flown {
			f.Drills = append(f.Drills, cellOf(m.cat, key))
		}
		if standS > 0 { // it stands until the log is so long
			for s := whole.T[whole.Len()-1] + 0.1; s < standS; s += 0.1 {
				join(whole, &track.Track{T: []float64{0}, X: []float64{0}, Y: []float64{6}, Z: []float64{0},
					Heading: []field.Angle{0}}, s)
			}
		}
		f.To = m.after(true0 + at + 60*r.Float64())
		free[c] = true0 + at + 60
		m.day.Flights = append(m.day.Flights, f)
		m.add(t, whole, plane, fmt.Sprintf("%s %03d", tails[c], n), named, r, tr)
	}
	m.day.Ends = m.after(max(free[0], free[1], free[2]) + 600)
	return m
}

func (m *made) after(s float64) time.Time {
	return m.day.Starts.Add(time.Duration(s * float64(time.Second)))
}

// join puts a flight into a log, at a time.
func join(whole, one *track.Track, at float64) {
	for i := range one.T {
		whole.T = append(whole.T, one.T[i]-one.T[0]+at)
		whole.X, whole.Y, whole.Z = append(whole.X, one.X[i]), append(whole.Y, one.Y[i]), append(whole.Z, one.Z[i])
		whole.Heading = append(whole.Heading, one.Heading[i])
	}
}

// add writes a log in one of the formats that have times, now and then twice.
func (m *made) add(t testing.TB, whole *track.Track, p *field.Plane, name string, named naming, r *rand.Rand,
	tr truth) {
	t.Helper()
	switch named {
	case inFolders:
		name = "recorder of " + name[:3] + name[len(name)-5:len(name)-4] + "/" + name[len(name)-3:]
	case inAHeap:
		name = "log " + name[len(name)-3:]
	}
	o := track.Options{CSVOptions: track.CSVOptions{Plane: p}, Heights: track.AboveSea}
	write := func(f track.Format) []byte {
		var b bytes.Buffer
		if _, err := track.Write(&b, whole, f, p); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	formats := []track.Format{track.GeoCSV, track.GeoCSV, track.GPX, track.KML, track.GeoJSON}
	f := formats[r.IntN(len(formats))]
	data := write(f)
	m.files, m.o = append(m.files, madeFile{name, data}), o
	m.logs, m.truth = append(m.logs, Read(name+"."+string(f), data, o)), append(m.truth, tr)
	if r.IntN(6) == 0 {
		m.logs = append(m.logs, Read(name+" copy."+string(f), data, o))
		m.truth = append(m.truth, truth{copy: true})
	}
}
