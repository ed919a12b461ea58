package track

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"maestrale/core/field"
	"maestrale/core/misread"
)

// ErrTooLarge is returned while reading a file over MaxBytes.
var ErrTooLarge = &misread.Error{What: msgFileTooLarge, Expected: msgWantOneFlight}

// SemicolonsError says that the columns are separated by semicolons. The
// upload form asks whether to read them so; the command line says what to
// change.
type SemicolonsError struct{ Mistake *misread.Error }

// Error is the mistake in words.
func (e SemicolonsError) Error() string { return e.Mistake.Error() }

// Unwrap makes the error one of the ordinary reading errors.
func (e SemicolonsError) Unwrap() error { return e.Mistake }

// CSVOptions says how to read a CSV file; the zero value reads the field form.
type CSVOptions struct {
	Plane      *field.Plane      // for the geographic form
	Rename     map[string]string // the file's column name → ours
	Semicolons bool              // semicolons between columns, commas in numbers
}

// limited fails once more than MaxBytes have been read.
type limited struct {
	r    io.Reader
	left int64
}

// Read reads on until the limit; beyond it, it is ErrTooLarge.
func (l *limited) Read(p []byte) (int, error) {
	n, err := l.r.Read(p)
	if l.left -= int64(n); l.left < 0 {
		return 0, ErrTooLarge
	}
	return n, err
}

// open skips a byte-order mark and refuses what is not text.
func open(r io.Reader) (*bufio.Reader, error) {
	b := bufio.NewReaderSize(&limited{r, MaxBytes}, 64<<10)
	head, err := b.Peek(4096)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	if len(bytes.TrimSpace(head)) == 0 && err != nil {
		return nil, misread.At(0, "a CSV file with a header line", "the file is empty")
	}
	if bytes.HasPrefix(head, []byte{0xEF, 0xBB, 0xBF}) {
		_, _ = b.Discard(3)
		head = head[3:]
	}
	valid := head
	for i := 0; i < utf8.UTFMax && len(valid) > 0 && !utf8.Valid(valid); i++ {
		valid = valid[:len(valid)-1] // a letter may be cut at the end
	}
	if bytes.IndexByte(head, 0) >= 0 || !utf8.Valid(valid) {
		return nil, misread.At(0, "a text file in UTF-8 with a header line", "the file is not text, whatever its name says")
	}
	return b, nil
}

// Header returns the column names and the first rows of a CSV file, for a
// preview; semicolons tells that they separate the columns.
func Header(r io.Reader, rows int) (names []string, first [][]string, semicolons bool, err error) {
	b, err := open(r)
	if err != nil {
		return nil, nil, false, err
	}
	head, _ := b.Peek(4096)
	line, _, _ := bytes.Cut(head, []byte("\n"))
	semicolons = !bytes.ContainsRune(line, ',') && bytes.ContainsRune(line, ';')
	c := csv.NewReader(b)
	c.FieldsPerRecord = -1
	if semicolons {
		c.Comma = ';'
	}
	for range rows + 1 {
		rec, err := c.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, semicolons, csvError(err)
		}
		if len(rec) > MaxColumns {
			return nil, nil, semicolons, tooWide(len(rec))
		}
		if names == nil {
			names = trimmed(rec)
			continue
		}
		first = append(first, rec)
	}
	return names, first, semicolons, nil
}

// tooWide is the error of a file with too many columns.
func tooWide(columns int) error {
	return misread.At(1, fmt.Sprintf("%d at most", MaxColumns), "there are %d columns", columns)
}

// trimmed is a row without the spaces around its values.
func trimmed(rec []string) []string {
	out := make([]string, len(rec))
	for i, s := range rec {
		out[i] = strings.TrimSpace(s)
	}
	return out
}

// csvError is an error of the CSV reader with its line.
func csvError(err error) error {
	var p *csv.ParseError
	if errors.As(err, &p) {
		return misread.At(p.Line, "RFC 4180 CSV, with as many values in every row as in the header", "%v", p.Err)
	}
	return err
}

// ReadCSV reads a track in field or geographic form, and notes on what it left
// out. A wrong file is one error with its line; nothing of it is returned.
func ReadCSV(r io.Reader, o CSVOptions) (*Track, []string, error) {
	size := sizeOf(r)
	b, err := open(r)
	if err != nil {
		return nil, nil, err
	}
	return readCSV(sized{b, size}, o)
}

// readCSV reads a track: the plain reader tries first, which is quick, and what
// it does not take is read by the general one, which says what is wrong.
func readCSV(r sized, o CSVOptions) (*Track, []string, error) {
	data, whole, again := readAll(r)
	if whole {
		if t, notes, ok := readPlainCSV(data, o); ok {
			return t, notes, nil
		}
	}
	return readAnyCSV(again(), o)
}

// readAnyCSV reads what RFC 4180 allows, and says what is wrong with what it does not.
func readAnyCSV(r io.Reader, o CSVOptions) (*Track, []string, error) {
	c := csv.NewReader(r)
	c.ReuseRecord = true
	if o.Semicolons {
		c.Comma = ';'
	}
	head, err := c.Read()
	if err != nil {
		return nil, nil, csvError(err)
	}
	if len(head) == 1 && strings.Contains(head[0], ";") && !o.Semicolons {
		return nil, nil, SemicolonsError{misread.At(1,
			"commas between columns and points in numbers; save it so, or upload it and confirm", "the columns are separated "+
				"by semicolons")}
	}
	if len(head) > MaxColumns {
		return nil, nil, tooWide(len(head))
	}
	f, notes, wrong := newForm(trimmed(head), o)
	if wrong != nil {
		return nil, nil, wrong
	}
	t := &Track{}
	for {
		rec, err := c.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, csvError(err)
		}
		if t.Len() >= MaxSamples {
			line, _ := c.FieldPos(0)
			return nil, nil, misread.At(line, "one flight; split longer logs", "there are more than %d rows", MaxSamples)
		}
		if err := f.row(t, rec); err != nil {
			line, _ := c.FieldPos(0)
			err.Line = line
			return nil, nil, err
		}
	}
	if t.Len() == 0 {
		return nil, nil, misread.At(1, "one row at least", "there is a header and no rows")
	}
	return t, notes, nil
}

// form is how the columns of one file are read.
type form struct {
	cols         []column
	geo          bool
	lat, lon     int
	alt, heading int
	clock        int // the column time, −1 where t_s is used
	plane        *field.Plane
	decimalComma bool
	calls, armed int
}

// column is one column of the file that is read: its name, its place, and where
// its values go.
type column struct {
	name  string
	index int
	number
	text func(*Track) *[]string
}

// newForm finds out from the header which columns there are, and whether places
// are metres or degrees. It returns notes on columns that are not read.
func newForm(head []string, o CSVOptions) (*form, []string, *misread.Error) {
	f := &form{plane: o.Plane, decimalComma: o.Semicolons, lat: -1, lon: -1, alt: -1, heading: -1, clock: -1, calls: -1,
		armed: -1}
	at := map[string]int{}
	for i, name := range head {
		if to, ok := o.Rename[name]; ok {
			name = to
		}
		if name == "" {
			continue
		}
		if _, twice := at[name]; twice {
			return nil, nil, misread.At(1, "each column once", "column %q stands here twice", name)
		}
		at[name] = i
	}
	has := func(names ...string) bool {
		return !slices.ContainsFunc(names, func(n string) bool { _, ok := at[n]; return !ok })
	}
	switch _, clock := at["time"]; {
	case has("t_s", "x_m", "y_m", "z_m"):
	case has("lat_deg", "lon_deg", "alt_m") && (clock || has("t_s")):
		f.geo = true
		if o.Plane == nil {
			return nil, nil, misread.At(1, "--origin LAT,LON,ALT and --away DEG, or a course with an origin",
				"the track is in degrees of latitude and longitude, and nothing says where the field is")
		}
	default:
		return nil, nil, missing(head, at)
	}
	var notes []string
	for name, i := range at {
		if !f.use(name, i) {
			notes = append(notes, fmt.Sprintf(msgColumnNotRead, name))
		}
	}
	slices.Sort(notes)
	slices.SortFunc(f.cols, func(a, b column) int { return a.index - b.index })
	return f, notes, nil
}

// missing is the error of a header that lacks a column which is needed.
func missing(head []string, at map[string]int) *misread.Error {
	need := []string{"t_s", "x_m", "y_m", "z_m"}
	_, lat := at["lat_deg"]
	_, lon := at["lon_deg"]
	if lat || lon {
		need = []string{"time", "lat_deg", "lon_deg", "alt_m"}
	}
	var gone []string
	for _, n := range need {
		if _, ok := at[n]; !ok {
			gone = append(gone, n)
		}
	}
	shown := strings.Join(head, ", ")
	if len(shown) > 120 {
		shown = shown[:120] + "…"
	}
	return misread.At(1, strings.Join(need, ", "), "no column %s among %s", strings.Join(gone, ", "), shown)
}

// use takes a column into the form; it tells whether the column is known.
func (f *form) use(name string, i int) bool {
	if f.geo {
		switch name {
		case "x_m", "y_m", "z_m", "heading_deg":
			return false
		case "lat_deg":
			f.lat = i
			return true
		case "lon_deg":
			f.lon = i
			return true
		case "alt_m":
			f.alt = i
			return true
		case "heading_true_deg":
			f.heading = i
			return true
		case "time":
			f.clock = i
			return true
		}
	}
	switch name {
	case "call":
		f.calls = i
		return true
	case "armed":
		f.armed = i
		return true
	case "aids", "frame":
		at := func(t *Track) *[]string { return &t.Aids }
		if name == "frame" {
			at = func(t *Track) *[]string { return &t.Frame }
		}
		f.cols = append(f.cols, column{name: name, index: i, text: at})
		return true
	}
	n, ok := numbers[name]
	if r, rotor := rotorOf(name); rotor {
		n, ok = rotorColumn(r), true
	}
	if ok {
		f.cols = append(f.cols, column{name: name, index: i, number: n})
	}
	return ok
}

// number reads a value between low and high; with semicolons between the
// values, a comma is a decimal point.
func (f *form) number(rec []string, i int, name string, low, high float64) (float64, *misread.Error) {
	s := strings.TrimSpace(rec[i])
	if f.decimalComma {
		s = strings.Replace(s, ",", ".", 1)
	}
	v, err := parseNumber(s)
	if err != nil || !(v >= low && v <= high) {
		if len(s) > 40 {
			s = s[:40] + "…"
		}
		return 0, misread.At(0, fmt.Sprintf("a number from %v to %v", low, high), "%s is %q", name, s)
	}
	return v, nil
}

// row appends one row to the track.
func (f *form) row(t *Track, rec []string) *misread.Error {
	for i := range f.cols {
		c := &f.cols[i]
		if c.text != nil {
			p := c.text(t)
			*p = append(*p, internWord(*p, rec[c.index]))
			continue
		}
		if f.clock >= 0 && c.name == "t_s" {
			continue // the clock counts
		}
		v, err := f.number(rec, c.index, c.name, c.low, c.high)
		if err != nil {
			return err
		}
		c.put(t, v)
	}
	if f.geo {
		if err := f.geoRow(t, rec); err != nil {
			return err
		}
	}
	n := len(t.T)
	if n > 1 && !(t.T[n-1] > t.T[n-2]) {
		return misread.At(0, "times that rise from row to row", "the time goes from %v s to %v s", t.T[n-2], t.T[n-1])
	}
	if f.calls >= 0 && strings.TrimSpace(rec[f.calls]) != "" {
		t.Calls = append(t.Calls, Call{t.T[n-1], strings.Clone(strings.TrimSpace(rec[f.calls]))})
	}
	if f.armed >= 0 {
		switch strings.TrimSpace(rec[f.armed]) {
		case "1", "true":
			t.Armed = append(t.Armed, true)
		case "0", "false", "":
			t.Armed = append(t.Armed, false)
		default:
			return misread.At(0, "1, 0, true or false", "armed is %q", rec[f.armed])
		}
	}
	return nil
}

// internWord keeps one copy of a word that repeats from row to row, and of
// none of the reader's buffer.
func internWord(before []string, s string) string {
	s = strings.TrimSpace(s)
	if n := len(before); n > 0 && before[n-1] == s {
		return before[n-1]
	}
	return strings.Clone(s)
}

// geoRow reads latitude, longitude, height and heading of a row, and adds the
// place in the plane.
func (f *form) geoRow(t *Track, rec []string) *misread.Error {
	var v [4]float64
	for k, c := range []struct {
		name string
		at   int
	}{{"lat_deg", f.lat}, {"lon_deg", f.lon}, {"alt_m", f.alt}, {"heading_true_deg", f.heading}} {
		if c.at < 0 {
			continue
		}
		lim := geographic[c.name]
		var err *misread.Error
		if v[k], err = f.number(rec, c.at, c.name, lim[0], lim[1]); err != nil {
			return err
		}
	}
	if f.clock >= 0 {
		s := strings.TrimSpace(rec[f.clock])
		when, ok := readTime(s)
		if !ok {
			return misread.At(0, "a time as 2026-03-02T09:14:00.25Z", "time is %.40q", s)
		}
		if len(t.T) == 0 {
			t.Start = when
		}
		if far := when.Sub(t.Start); far > longestLog || far < -longestLog {
			return misread.At(0, longestSaid, "the log goes on to %s after it began on %s", when.UTC().Format(time.DateOnly),
				t.Start.UTC().Format(time.DateOnly))
		}
		t.T = append(t.T, when.Sub(t.Start).Seconds())
	}
	at, z := f.plane.ToField(field.Geo{LatDeg: v[0], LonDeg: v[1], AltM: v[2]})
	t.X, t.Y, t.Z = append(t.X, at.X), append(t.Y, at.Y), append(t.Z, z)
	if d := math.Hypot(at.X, at.Y); d > 1e5 {
		return misread.At(0, "a flight at this field", "the craft is %.0f km from the field's origin", d/1000)
	}
	if f.heading >= 0 {
		t.Heading = append(t.Heading, f.plane.ToFieldHeading(field.Degrees(v[3])))
	}
	return nil
}
