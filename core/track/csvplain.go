package track

import (
	"bytes"
	"slices"
	"strings"
	"unsafe"
)

// readPlainCSV reads a file without quotes in one pass. It is not ok for any
// other, and for a wrong one.
func readPlainCSV(data []byte, o CSVOptions) (*Track, []string, bool) {
	if bytes.IndexByte(data, '"') >= 0 {
		return nil, nil, false
	}
	comma := byte(',')
	if o.Semicolons {
		comma = ';'
	}
	line, text := cutLine(unsafe.String(unsafe.SliceData(data), len(data))) // nothing of it is kept
	head := strings.Split(line, string(comma))
	if line == "" || len(head) > MaxColumns || (len(head) == 1 && strings.Contains(line, ";")) {
		return nil, nil, false
	}
	f, notes, wrong := newForm(trimmed(head), o)
	if wrong != nil {
		return nil, nil, false
	}
	t := &Track{}
	f.reserve(t, strings.Count(text, "\n")+1)
	rec := make([]string, len(head))
	for text != "" {
		if line, text = cutLine(text); line == "" {
			continue
		}
		last := len(rec) - 1
		for i := range last {
			n := strings.IndexByte(line, comma)
			if n < 0 {
				return nil, nil, false
			}
			rec[i], line = line[:n], line[n+1:]
		}
		rec[last] = line
		if strings.IndexByte(line, comma) >= 0 || t.Len() >= MaxSamples || f.row(t, rec) != nil {
			return nil, nil, false
		}
	}
	return t, notes, t.Len() > 0
}

// cutLine cuts the first line off a text, without its end.
func cutLine(text string) (line, rest string) {
	line, rest, _ = strings.Cut(text, "\n")
	return strings.TrimSuffix(line, "\r"), rest
}

// reserve makes room for the rows of a file in the columns that every track has.
func (f *form) reserve(t *Track, rows int) {
	rows = min(rows, MaxSamples)
	t.T, t.X, t.Y, t.Z = slices.Grow(t.T, rows), slices.Grow(t.X, rows), slices.Grow(t.Y, rows), slices.Grow(t.Z, rows)
	for i := range f.cols {
		if grow := f.cols[i].grow; grow != nil {
			grow(t, rows)
		}
	}
}
