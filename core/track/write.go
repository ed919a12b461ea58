package track

import (
	"encoding/csv"
	"fmt"
	"io"
	"math"
	"strconv"
	"time"

	"maestrale/core/field"
)

// WriteCSV writes every column that the track has, in the field form.
func WriteCSV(w io.Writer, t *Track) error {
	var names []string
	var get []func(int) string
	calls := t.callsBySample()
	for _, name := range fieldOrder {
		if g := t.cell(name, calls); g != nil {
			names, get = append(names, name), append(get, g)
		}
	}
	names, get = t.rotorCells(names, get)
	return writeRows(w, names, get, t.Len())
}

// WriteGeoCSV writes the track in the geographic form, with a clock where the
// track has one. Columns that only the field frame has are left out.
func WriteGeoCSV(w io.Writer, t *Track, p *field.Plane) error {
	geo := make([]field.Geo, t.Len())
	for i := range geo {
		geo[i] = p.ToGeo(field.Point{X: t.X[i], Y: t.Y[i]}, t.Z[i])
	}
	names := []string{"t_s", "lat_deg", "lon_deg", "alt_m"}
	get := []func(int) string{
		func(i int) string { return format(t.T[i]) },
		func(i int) string { return strconv.FormatFloat(geo[i].LatDeg, 'f', 10, 64) },
		func(i int) string { return strconv.FormatFloat(geo[i].LonDeg, 'f', 10, 64) },
		func(i int) string { return format(geo[i].AltM) },
	}
	if !t.Start.IsZero() {
		names[0] = "time"
		get[0] = func(i int) string {
			return t.Start.Add(time.Duration(math.Round(t.T[i] * 1e9))).UTC().Format(time.RFC3339Nano)
		}
	}
	if t.Heading != nil {
		names = append(names, "heading_true_deg")
		get = append(get, func(i int) string { return format(p.ToTrueHeading(t.Heading[i]).Compass()) })
	}
	calls := t.callsBySample()
	for _, name := range fieldOrder[5:] {
		if name == "vx_mps" || name == "vy_mps" {
			continue // they would need turning; speed follows from the places
		}
		if g := t.cell(name, calls); g != nil {
			names, get = append(names, name), append(get, g)
		}
	}
	names, get = t.rotorCells(names, get)
	return writeRows(w, names, get, t.Len())
}

// writeRows writes a CSV of so many rows: names is its header, and get gives
// the cells of each column.
func writeRows(w io.Writer, names []string, get []func(int) string, rows int) error {
	c := csv.NewWriter(w)
	_ = c.Write(names) // a bytes error shows at Flush
	rec := make([]string, len(names))
	for i := range rows {
		for k, g := range get {
			rec[k] = g(i)
		}
		_ = c.Write(rec)
	}
	c.Flush()
	if err := c.Error(); err != nil {
		return fmt.Errorf("write track: %w", err)
	}
	return nil
}

// format writes a number with the digits that it has after rounding.
func format(v float64) string { return strconv.FormatFloat(rounded(v), 'f', -1, 64) }

// callsBySample are the calls by the sample at or before them; of several at
// one sample the last.
func (t *Track) callsBySample() map[int]string {
	m := map[int]string{}
	for _, c := range t.Calls {
		m[max(0, t.At(c.T))] = c.Text
	}
	return m
}

// cell returns how to write a column, nil where the track does not have it.
func (t *Track) cell(name string, calls map[int]string) func(int) string {
	switch name {
	case "aids", "frame":
		col := t.Aids
		if name == "frame" {
			col = t.Frame
		}
		if col == nil {
			return nil
		}
		return func(i int) string { return col[i] }
	case "armed":
		if t.Armed == nil {
			return nil
		}
		return func(i int) string { return strconv.FormatBool(t.Armed[i]) }
	case "call":
		if len(calls) == 0 {
			return nil
		}
		return func(i int) string { return calls[i] }
	}
	n := numbers[name]
	if t.Len() == 0 {
		return nil
	}
	if _, ok := n.get(t, 0); !ok {
		return nil
	}
	return func(i int) string { v, _ := n.get(t, i); return format(v) }
}

// rotorCells adds the columns of the rotors that the track has.
func (t *Track) rotorCells(names []string, get []func(int) string) ([]string, []func(int) string) {
	for i, r := range t.Rotors {
		if r != nil {
			names = append(names, fmt.Sprintf("rotor%d_rps", i+1))
			get = append(get, func(i int) string { return format(r[i]) })
		}
	}
	return names, get
}
