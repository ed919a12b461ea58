package track

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"
	"time"

	"maestrale/bench/bare"
	"maestrale/core/field"
	"maestrale/core/misread"
)

func read(s string, o CSVOptions) (*Track, []string, error) {
	return ReadCSV(strings.NewReader(s), o)
}

func TestReadFieldForm(t *testing.T) {
	tr, notes, err := read("z_m,heading_deg,t_s,y_m,x_m,call,armed,rotor2_rps,altimeter\r\n0,90,0,8,1,,true,-80,3\r\n"+
		"0.5,450,0.02,8,1,away,1,-81,3\r\n", CSVOptions{})
	if err != nil {
		t.Fatal(err)
	}
	if tr.Len() != 2 || tr.X[0] != 1 || tr.Y[1] != 8 || tr.Z[1] != 0.5 || math.Abs(tr.Heading[0].Deg()-90) > 1e-9 {
		t.Errorf("read %+v", tr)
	}
	if len(tr.Calls) != 1 || tr.Calls[0] != (Call{0.02, "away"}) || !tr.Armed[1] || tr.Rotors[0] != nil ||
		tr.Rotors[1][1] != -81 {
		t.Errorf("calls %v armed %v rotors %v", tr.Calls, tr.Armed, tr.Rotors)
	}
	if len(notes) != 1 || !strings.Contains(notes[0], "altimeter") {
		t.Errorf("notes %q", notes)
	}
}

func TestBadFilesSayWhatWhereAndWhatWasExpected(t *testing.T) {
	const head = "t_s,x_m,y_m,z_m\n"
	for _, c := range []struct {
		name, data string
		line       int
		want       string
	}{
		{"empty", "", 0, "empty"},
		{"blank", " \n\n", 0, "empty"},
		{"no rows", head, 1, "no rows"},
		{"missing column", "t_s,x_m,y_m\n0,0,0\n", 1, "no column z_m"},
		{"half geographic", "t_s,lat_deg\n0,0\n", 1, "lon_deg"},
		{"geographic without a field", "t_s,lat_deg,lon_deg,alt_m\n0,0,0,0\n", 1, "--origin"},
		{"time goes back", head + "0,0,0,0\n1,0,0,0\n0.5,0,0,0\n", 4, "from 1 s to 0.5 s"},
		{"time stands", head + "0,0,0,0\n0,0,0,0\n", 3, "rise"},
		{"not a number", head + "0,0,0,0\n1,NaN,0,0\n", 3, `x_m is "NaN"`},
		{"infinite", head + "0,0,0,Inf\n", 2, "z_m"},
		{"huge", head + "0,1e308,0,0\n", 2, "1e308"},
		{"text", head + "0,here,0,0\n", 2, `"here"`},
		{"blank cell", head + "0,,0,0\n", 2, `""`},
		{"short row", head + "0,0,0\n", 2, "as many values"},
		{"bare quote", head + "0,0\",0,0\n", 2, "RFC 4180"},
		{"twice", "t_s,x_m,x_m,y_m,z_m\n0,0,0,0,0\n", 1, "twice"},
		{"another kind of file", "\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR", 0, "not text"},
		{"UTF-16", "\xff\xfet\x00_\x00s\x00", 0, "not text"},
		{"semicolons", "t_s;x_m;y_m;z_m\n0;0;0;0\n", 1, "semicolons"},
		{"stick too far", "t_s,x_m,y_m,z_m,yaw\n0,0,0,0,1.5\n", 2, "-1 to 1"},
		{"armed maybe", "t_s,x_m,y_m,z_m,armed\n0,0,0,0,perhaps\n", 2, "armed"},
	} {
		tr, _, err := read(c.data, CSVOptions{})
		var m *misread.Error
		if tr != nil || !errors.As(err, &m) {
			t.Errorf("%s: track %v, error %v", c.name, tr != nil, err)
			continue
		}
		if m.Line != c.line || !strings.Contains(m.Error(), c.want) {
			t.Errorf("%s: %q at line %d, want %q at %d", c.name, m, m.Line, c.want, c.line)
		}
	}
}

// endless is a file that never ends; it counts how much of it was taken.
type endless struct{ taken int64 }

func (e *endless) Read(p []byte) (int, error) {
	if e.taken == 0 {
		n := copy(p, "t_s,x_m,y_m,z_m\n")
		e.taken += int64(n)
		return n, nil
	}
	row := []byte("1,2,3,4\n")
	for i := range p {
		p[i] = row[(e.taken+int64(i))%8]
	}
	e.taken += int64(len(p))
	return len(p), nil
}

func TestTooLargeIsRefusedWhileReading(t *testing.T) {
	e := &endless{}
	// The header says columns by other names, so that only the size can end it.
	c := csv.NewReader(&limited{e, MaxBytes})
	c.ReuseRecord = true
	var err error
	for err == nil {
		_, err = c.Read()
	}
	if !errors.Is(err, ErrTooLarge) || e.taken > MaxBytes+1<<20 {
		t.Errorf("%v after %d bytes", err, e.taken)
	}
	if _, _, err := ReadCSV(io.MultiReader(strings.NewReader("t_s,x_m,y_m,z_m\n0,0,0,0\n\"1"),
		bytes.NewReader(make([]byte, MaxBytes))), CSVOptions{}); err == nil {
		t.Error("a quoted value of 64 MB was read")
	}
}

func TestSemicolonsAndDecimalCommasAfterConfirmation(t *testing.T) {
	data := "\xef\xbb\xbft_s;x_m;y_m;z_m\n0;1,5;8;0\n0,02;1,25;8;0\n"
	_, _, err := read(data, CSVOptions{})
	var semi SemicolonsError
	if !errors.As(err, &semi) {
		t.Fatalf("%v is no SemicolonsError", err)
	}
	tr, _, err := read(data, CSVOptions{Semicolons: true})
	if err != nil || tr.X[1] != 1.25 || tr.T[1] != 0.02 {
		t.Errorf("%+v, %v", tr, err)
	}
	names, rows, semicolons, err := Header(strings.NewReader(data), 5)
	if err != nil || !semicolons || len(names) != 4 || names[0] != "t_s" || len(rows) != 2 {
		t.Errorf("header %v %v %v %v", names, rows, semicolons, err)
	}
}

func TestRename(t *testing.T) {
	tr, notes, err := read("seconds,x_m,north,z_m\n0,1,2,3\n", CSVOptions{Rename: map[string]string{"seconds": "t_s",
		"north": "y_m"}})
	if err != nil || tr.Y[0] != 2 || len(notes) != 0 {
		t.Errorf("%+v %v %v", tr, notes, err)
	}
}

// randomTrack has every column that a log can have.
func randomTrack(r *rand.Rand, n int) *Track {
	t := &Track{Start: time.Date(2026, 3, 2, 9, 14, 0, 0, time.UTC), Rotors: make([][]float64, 4)}
	for i := range n {
		t.T = append(t.T, float64(i)*0.02)
		t.X, t.Y, t.Z = append(t.X, r.NormFloat64()*20), append(t.Y, r.NormFloat64()*20), append(t.Z, r.Float64()*30)
		t.Heading = append(t.Heading, field.Angle(r.Float64()*6-3))
		t.Roll, t.Pitch = append(t.Roll, field.Angle(r.Float64())), append(t.Pitch, field.Angle(r.Float64()))
		t.VX, t.VY, t.VZ = append(t.VX, r.NormFloat64()), append(t.VY, r.NormFloat64()), append(t.VZ, r.NormFloat64())
		t.StickYaw, t.PackV = append(t.StickYaw, r.Float64()*2-1), append(t.PackV, 15)
		t.Aids, t.Armed = append(t.Aids, "rate"), append(t.Armed, i%2 == 0)
		for k := range t.Rotors {
			t.Rotors[k] = append(t.Rotors[k], r.Float64()*100)
		}
	}
	t.Calls = []Call{{t.T[n/2], "away, up"}}
	return t
}

func TestRoundTrips(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for range 30 {
		want := randomTrack(r, 50)
		var buf bytes.Buffer
		if err := WriteCSV(&buf, want); err != nil {
			t.Fatal(err)
		}
		got, notes, err := ReadCSV(&buf, CSVOptions{})
		if err != nil || len(notes) > 0 {
			t.Fatal(err, notes)
		}
		same(t, got, want, 1e-9)
		if got.Rotors[3][7] != rounded(want.Rotors[3][7]) || got.Aids[3] != "rate" || got.Armed[0] != true ||
			len(got.Calls) != 1 || got.Calls[0] != want.Calls[0] {
			t.Fatalf("columns came back changed: %+v", got.Calls)
		}
		p, _ := field.NewPlane(field.Geo{LatDeg: r.Float64()*120 - 60, LonDeg: 179.9999, AltM: 12}, r.Float64()*360)
		buf.Reset()
		if err := WriteGeoCSV(&buf, want, p); err != nil {
			t.Fatal(err)
		}
		got, _, err = ReadCSV(&buf, CSVOptions{Plane: p})
		if err != nil {
			t.Fatal(err)
		}
		same(t, got, want, 1e-4) // well inside 1 cm
		if !got.Start.Equal(want.Start) {
			t.Fatalf("starts at %v, want %v", got.Start, want.Start)
		}
	}
}

func same(t *testing.T, got, want *Track, tol float64) {
	t.Helper()
	for i := range want.T {
		if math.Abs(got.T[i]-want.T[i]) > 1e-6 || math.Abs(got.X[i]-want.X[i]) > tol || math.Abs(got.Y[i]-want.Y[i]) > tol ||
			math.Abs(got.Z[i]-want.Z[i]) > tol || math.Abs(float64((got.Heading[i]-want.Heading[i]).Wrap())) > 1e-9 {
			t.Fatalf("sample %d came back as %v %v %v %v", i, got.T[i], got.X[i], got.Y[i], got.Z[i])
		}
	}
}

func FuzzReadCSV(f *testing.F) {
	f.Add("t_s,x_m,y_m,z_m,heading_deg,call\n0,1,2,3,4,\n1,1,2,3,4,hold\n", false)
	f.Add("time,lat_deg,lon_deg,alt_m\n2026-03-02T09:14:00Z,45,12,1\n", false)
	f.Add("t_s;x_m;y_m;z_m\n0;1,5;2;3\n", true)
	p, _ := field.NewPlane(field.Geo{LatDeg: 45, LonDeg: 12}, 30)
	f.Fuzz(func(t *testing.T, data string, semicolons bool) {
		tr, _, err := read(data, CSVOptions{Plane: p, Semicolons: semicolons})
		if (tr == nil) == (err == nil) {
			t.Fatal("a track or an error, not both")
		}
		if tr == nil {
			return
		}
		for i := range tr.T {
			if i > 0 && !(tr.T[i] > tr.T[i-1]) {
				t.Fatal("times do not rise")
			}
			if math.IsNaN(tr.X[i]) || math.IsInf(tr.Z[i], 0) {
				t.Fatal("a value is not finite")
			}
		}
		if err := WriteCSV(io.Discard, tr); err != nil {
			t.Fatal(err)
		}
	})
}

// tenMinutes is a log of 10 minutes at 50 Hz with the columns of a real one.
func tenMinutes() []byte {
	var b bytes.Buffer
	b.WriteString("t_s,x_m,y_m,z_m,heading_deg,roll_deg,pitch_deg\n")
	r := rand.New(rand.NewPCG(2, 2))
	for i := range 30000 {
		fmt.Fprintf(&b, "%.2f,%.3f,%.3f,%.3f,%.1f,%.1f,%.1f\n", float64(i)*0.02, r.NormFloat64(), 6+r.NormFloat64(), 1.5,
			r.Float64()*20, r.Float64(), r.Float64())
	}
	return b.Bytes()
}

func BenchmarkReadCSV(b *testing.B) {
	data := tenMinutes()
	b.SetBytes(int64(len(data)))
	for b.Loop() {
		if _, _, err := ReadCSV(bytes.NewReader(data), CSVOptions{}); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkBareCSV is what ReadCSV is measured against: encoding/csv with its
// record reused, and every value parsed.
func BenchmarkBareCSV(b *testing.B) {
	data := tenMinutes()
	b.SetBytes(int64(len(data)))
	sum := 0.0
	for b.Loop() {
		c := csv.NewReader(bytes.NewReader(data))
		c.ReuseRecord = true
		_, _ = c.Read()
		for {
			rec, err := c.Read()
			if err != nil {
				break
			}
			for _, s := range rec {
				v, _ := strconv.ParseFloat(s, 64)
				sum += v
			}
		}
	}
	_ = sum
}

// BenchmarkOnePassCSV is what ReadCSV is held to: every value parsed exactly in one pass over the bytes in memory, and
// nothing asked of it.
func BenchmarkOnePassCSV(b *testing.B) {
	data := tenMinutes()
	b.SetBytes(int64(len(data)))
	for b.Loop() {
		columns := bare.CSV(data, 7, 30_000)
		if len(columns[6]) != 30_000 {
			b.Fatal(len(columns[6]))
		}
	}
}
