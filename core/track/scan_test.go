package track

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"math"
	"math/rand/v2"
	"strconv"
	"testing"
	"time"
)

// slowly reads a file without any reading in one pass: by encoding/csv and encoding/xml alone.
func slowly(data []byte, o Options) (*Track, []string, error) {
	b, err := open(bytes.NewReader(data))
	if err != nil {
		return nil, nil, err
	}
	head, _ := b.Peek(4096)
	points := map[Format]func(*xmlTokens) (*fixes, error){GPX: gpxPoints, KML: kmlPoints}[Sniff(head)]
	if points == nil {
		return readAnyCSV(b, o.CSVOptions)
	}
	return readFixes(sized{b, 0}, o, func(r sized) (*fixes, error) {
		d := xml.NewDecoder(r)
		d.Strict = true
		return points(&xmlTokens{Decoder: d, what: map[Format]string{GPX: "GPX 1.1", KML: msgWantKMLTrack}[Sniff(head)]})
	})
}

// readsAlike holds what is read in one pass to what is read slowly: the same track to the bit, notes and mistakes.
func readsAlike(t *testing.T, data []byte, o Options) {
	t.Helper()
	head := data[:min(len(data), 4096)]
	if f := Sniff(head); f != GPX && f != KML && f != CSV {
		return
	}
	a, notes, err := Read(bytes.NewReader(data), o)
	b, notesB, errB := slowly(data, o)
	if got, want := said(a, notes, err), said(b, notesB, errB); got != want {
		t.Fatalf("read in one pass:\n%.300s\nread slowly:\n%.300s\nof\n%.500q", got, want, data)
	}
}

func said(t *Track, notes []string, err error) string {
	if t == nil {
		return fmt.Sprint(err)
	}
	bits := func(list []float64) (out []uint64) {
		for _, v := range list {
			out = append(out, math.Float64bits(v))
		}
		return out
	}
	return fmt.Sprint(notes, err, t.Start.UnixNano(), bits(t.T), bits(t.X), bits(t.Y), bits(t.Z), t.Heading, t.Roll,
		t.Aids, t.Calls, t.Armed, t.Rotors)
}

// samples are files of the formats that are read in one pass, and some that are nearly plain.
func samples(t testing.TB) (files [][]byte, o Options) {
	o.Plane = planeAt(t, 44.95, 13.05, 2, 30)
	tr := wandering(rand.New(rand.NewPCG(7, 1)), 5, time.Date(2026, 2, 27, 4, 5, 6, 0, time.UTC))
	for _, f := range []Format{CSV, GeoCSV, GPX, KML} {
		var file bytes.Buffer
		if _, err := Write(&file, tr, f, o.Plane); err != nil {
			t.Fatal(err)
		}
		files = append(files, file.Bytes())
	}
	for _, text := range []string{
		"t_s,x_m,y_m,z_m,aids,call,armed\r\n0,1,2,3,x,go,1\r\n\r\n1, 1.5 ,-2e-1,+3,x,,true\r",
		"t_s,x_m,y_m,z_m\n0,\"1\",2,3\n1,0,0,0\n", "\nt_s,x_m,y_m,z_m\n0,0,0,0", "t_s;x_m;y_m;z_m\n0;0;0;0\n",
		"t_s,x_m,y_m,z_m\n0,0,0\n", "t_s,x_m,y_m,z_m\n0,0,0,0,0\n", "t_s,x_m,y_m,z_m\n0,1_0,0x1,0\n",
		"t_s,x_m,y_m,z_m\n0,9007199254740993,0.30000000000000004,1e3\n1,inf,0,0\n",
		`<?xml version='1.0'?><gpx><trkpt lat='45' lon="13"><time> 2026-02-28T23:59:59.5Z </time></trkpt></gpx>`,
		`<gpx><trkpt lat="45" lon="13" lat="44"><ele>1<x/>2</ele><time>2026-02-29T00:00:00Z</time></trkpt></gpx>`,
		`<gpx><a:b c:d="&lt;"/><trkpt lat="45" lon="13"><time>2026-12-31T23:59:60Z</time></trkpt></gpx>`,
		`<gpx><!-- <trkpt lat="1" lon="1"> --><trkpt lat="45" lon="13"><time>2026-02-01T00:00:00+02:00</time></trkpt></gpx>`,
		"<gpx><name>\u00e9 \uFFFE</name></gpx>", "<gpx></kml>", "<gpx", "<gpx>]]></gpx>", "<gpx a=b></gpx>", "<gpx a></gpx>",
		"<gpx a = \"b\" ></gpx >", "<gpx a=\"b\"c=\"d\"/>", "<1/>", "<a:1/>", "<:a/>", "<a:/>", "<a:b:c/>", "<gpx/></gpx>",
	} {
		files = append(files, []byte(text))
	}
	return files, o
}

// Whatever is changed of a file, it is read in one pass as it is read slowly: the same track, or the same mistake.
func TestOnePassReadsAsTheSlowReaders(t *testing.T) {
	files, o := samples(t)
	rounds := 12_000
	if testing.Short() {
		rounds = 2_000
	}
	r := rand.New(rand.NewPCG(22, 3))
	signs := []byte("<>/\"'=:;,.-+ \n\r\t&!?]0159eExgTZ\x00\x80\xc3")
	for _, f := range files {
		readsAlike(t, f, o)
	}
	for range rounds {
		data := bytes.Clone(files[r.IntN(len(files))])
		for range 1 + r.IntN(3) {
			at := r.IntN(len(data) + 1)
			switch r.IntN(4) {
			case 0:
				data = append(data[:at:at], append([]byte{signs[r.IntN(len(signs))]}, data[at:]...)...)
			case 1:
				if at < len(data) {
					data[at] = signs[r.IntN(len(signs))]
				}
			case 2:
				to := min(len(data), at+1+r.IntN(12))
				data = append(data[:at:at], data[to:]...)
			default:
				from := r.IntN(len(data) + 1)
				part := bytes.Clone(data[from:min(len(data), from+r.IntN(30))])
				data = append(data[:at:at], append(part, data[at:]...)...)
			}
		}
		readsAlike(t, data, o)
	}
}

func FuzzOnePass(f *testing.F) {
	files, o := samples(f)
	for _, data := range files {
		f.Add(data)
	}
	f.Fuzz(func(t *testing.T, data []byte) { readsAlike(t, data, o) })
}

// Numbers are read to the bit as strconv reads them, or not at all.
func TestDecimalsAreExact(t *testing.T) {
	r := rand.New(rand.NewPCG(22, 4))
	for i := range 200_000 {
		s := strconv.FormatFloat(math.Ldexp(r.Float64()-0.5, r.IntN(40)-10), 'f', r.IntN(20), 64)
		if i%5 == 0 {
			s = strconv.FormatInt(1e17+r.Int64N(1e17), 10)[:1+r.IntN(17)]
		}
		v, ok := decimal(s)
		want, err := strconv.ParseFloat(s, 64)
		if ok && (err != nil || math.Float64bits(v) != math.Float64bits(want)) {
			t.Fatalf("%s is %v, expected %v %v", s, v, want, err)
		}
	}
	for _, s := range []string{"", "-", "+", ".", "1e3", "0x1", "1_0", "inf", "NaN", "1.2.3", " 1", "9007199254740993"} {
		if v, ok := decimal(s); ok {
			t.Errorf("%q is read as %v", s, v)
		}
	}
	for _, s := range []string{"-0", "+1", "1.", ".5", "-0.0", "0000000000000001"} {
		v, ok := decimal(s)
		if want, _ := strconv.ParseFloat(s, 64); !ok || math.Float64bits(v) != math.Float64bits(want) {
			t.Errorf("%q is %v %v", s, v, ok)
		}
	}
}

// The allocations of a file do not grow with its points.
func TestAllocationsDoNotGrowWithTheFile(t *testing.T) {
	p := planeAt(t, 44.95, 13.05, 2, 30)
	for _, form := range []Format{CSV, GPX, KML} {
		allocs := func(n int) float64 {
			var file bytes.Buffer
			if _, err := Write(&file, wandering(rand.New(rand.NewPCG(1, 2)), n, time.Date(2026, 2, 3, 4, 5, 6, 0, time.UTC)),
				form, p); err != nil {
				t.Fatal(err)
			}
			return testing.AllocsPerRun(3, func() {
				if _, _, err := Read(bytes.NewReader(file.Bytes()), Options{CSVOptions: CSVOptions{Plane: p}}); err != nil {
					t.Fatal(err)
				}
			})
		}
		if few, many := allocs(300), allocs(3000); many > few+4 {
			t.Errorf("%s: %.0f allocations for 300 points, %.0f for 3,000", form, few, many)
		}
	}
}
