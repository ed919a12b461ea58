// Package bare has the loops that the readers of tracks and the scorer are held to: the least that anybody has to do
// with the same data, with nothing asked of it. Benchmarks of core run them beside what they measure (make bench-all).
package bare

import (
	"bytes"
	"math"
)

// tens are the powers of ten that a double has exactly, up to the most decimals of a track.
var tens = [...]float64{1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15}

// CSV parses every value of a table of plain decimals exactly, in one pass over the bytes, into columns with room for
// so many rows. The first line is its heading.
func CSV(data []byte, columns, rows int) [][]float64 {
	out := make([][]float64, columns)
	for i := range out {
		out[i] = make([]float64, 0, rows)
	}
	column, m, frac, negative := 0, uint64(0), -1, false
	for _, c := range data[bytes.IndexByte(data, '\n')+1:] {
		switch {
		case c >= '0' && c <= '9':
			m = m*10 + uint64(c-'0')
			if frac >= 0 {
				frac++
			}
		case c == '.':
			frac = 0
		case c == '-':
			negative = true
		default:
			v := float64(m) / tens[max(0, frac)]
			if negative {
				v = -v
			}
			out[column] = append(out[column], v)
			if column++; c == '\n' {
				column = 0
			}
			m, frac, negative = 0, -1, false
		}
	}
	return out
}

// Elements counts the elements of an XML document, in one pass over the bytes.
func Elements(data []byte) (n int) {
	for _, c := range data {
		if c == '<' {
			n++
		}
	}
	return n
}

// Columns counts the samples within a metre of a place 6 m away, half a metre of a height of 1.5 m, and 0.3 rad of a
// heading of 0, in one pass over the columns of a track in SI units.
func Columns[A ~float64](x, y, z []float64, heading []A) (in int) {
	for i := range x {
		dx, dy, dz := x[i], y[i]-6, z[i]-1.5
		if dx*dx+dy*dy <= 1 && dz*dz <= 0.25 && math.Abs(float64(heading[i])) < 0.3 {
			in++
		}
	}
	return in
}
