// Package intake reads what people have before they have Maestrale: tables of
// students, craft, packs and past passes, as spreadsheets write them. It says
// how it read a file, matches the file's own headings, and finds every line
// that is wrong. It stores nothing.
package intake

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
	"unicode/utf16"
	"unicode/utf8"

	"maestrale/core/misread"
)

// UndoFor is how long what a table brought can be withdrawn. The database holds
// to the same (undo_intake).
const UndoFor = time.Hour

// The most that is read.
const (
	MostBytes = 8 << 20
	MostRows  = 20_000
	// MostColumns is far more than any kind of table has.
	MostColumns = 200
)

// Table is a file of rows as it was read.
type Table struct {
	Headings []string
	Rows     [][]string
	Lines    []int    // of each row in the file, counted from 1
	Notes    []string // how it was read, where that was not UTF-8 with commas
	Decimal  rune     // '.' or ',': before the decimals of its numbers
}

// ReadTable reads a table: text with commas, semicolons or tabs between the
// columns, in UTF-8, UTF-16 or Windows-1252. The first line holds the headings.
// Empty lines are passed over.
func ReadTable(data []byte) (*Table, error) {
	if len(data) > MostBytes {
		return nil, misread.At(0, fmt.Sprintf("at most %d MB", MostBytes>>20), "the file has %d MB", len(data)>>20)
	}
	t := &Table{Decimal: '.'}
	text, err := t.decode(data)
	if err != nil {
		return nil, err
	}
	comma, text := separator(text)
	switch comma {
	case ';':
		t.Decimal = ','
		t.Notes = append(t.Notes, msgReadSemicolons)
	case '\t':
		t.Notes = append(t.Notes, msgReadTabs)
	}
	return t, t.readRows(text, comma)
}

// readRows reads the lines of the table.
func (t *Table) readRows(text string, comma rune) error {
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.FieldsPerRecord, r.TrimLeadingSpace = comma, -1, true
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		var p *csv.ParseError
		if errors.As(err, &p) {
			return misread.At(p.Line, "a quotation mark doubled inside a field, and closed at its end", "%v", p.Err)
		}
		if err != nil {
			return err
		}
		if len(row) > MostColumns {
			line, _ := r.FieldPos(0)
			return misread.At(line, fmt.Sprintf("%d columns at most", MostColumns), "there are %d columns", len(row))
		}
		for i := range row {
			row[i] = strings.TrimSpace(row[i])
		}
		if !slices.ContainsFunc(row, func(f string) bool { return f != "" }) {
			continue
		}
		for len(row) > 1 && row[len(row)-1] == "" && t.Headings != nil && len(row) > len(t.Headings) {
			row = row[:len(row)-1] // empty fields behind the last heading
		}
		line, _ := r.FieldPos(0)
		if t.Headings == nil {
			t.Headings = row
			continue
		}
		if len(t.Rows) == MostRows {
			return misread.At(line, fmt.Sprintf("%d rows at most; make two files of it", MostRows), "there are more rows")
		}
		t.Rows, t.Lines = append(t.Rows, row), append(t.Lines, line)
	}
	switch {
	case len(t.Headings) == 0:
		return misread.At(0, "a line of headings and at least one row", "the file is empty")
	case len(t.Rows) == 0:
		return misread.At(0, "at least one row below the headings", "the file has headings and no rows")
	}
	return t.checkHeadings()
}

// checkHeadings refuses a heading that is there twice.
func (t *Table) checkHeadings() error {
	seen := map[string]bool{}
	for _, h := range t.Headings {
		if k := plain(h); k != "" && seen[k] {
			return misread.At(1, "every heading once", "the heading %.40q stands twice", h)
		} else if k != "" {
			seen[k] = true
		}
	}
	return nil
}

// decode turns the bytes of the file into text, and refuses what is no text.
func (t *Table) decode(data []byte) (string, error) {
	switch {
	case bytes.HasPrefix(data, []byte{0xef, 0xbb, 0xbf}):
		data = data[3:]
	case bytes.HasPrefix(data, []byte{0xff, 0xfe}), bytes.HasPrefix(data, []byte{0xfe, 0xff}):
		t.Notes = append(t.Notes, msgReadUTF16)
		return utf16Text(data[2:], data[0] == 0xff), nil
	}
	if bytes.IndexByte(data, 0) >= 0 || pictured(data) {
		return "", misread.At(0, "a table saved as CSV",
			"the file is no text: it looks like a picture or a spreadsheet's own file")
	}
	if utf8.Valid(data) {
		return string(data), nil
	}
	t.Notes = append(t.Notes, msgReadWindows1252)
	var b strings.Builder
	for _, c := range data {
		switch {
		case c >= 0x80 && c < 0xa0:
			b.WriteRune(windows1252[c-0x80])
		default:
			b.WriteRune(rune(c))
		}
	}
	return b.String(), nil
}

// pictured tells whether bytes begin like a picture, an archive (which
// spreadsheets are) or a document.
func pictured(data []byte) bool {
	for _, head := range []string{"\xff\xd8\xff", "\x89PNG", "GIF8", "PK\x03\x04", "%PDF", "\xd0\xcf\x11\xe0", "BM\x00"} {
		if bytes.HasPrefix(data, []byte(head)) {
			return true
		}
	}
	return false
}

// utf16Text is a text of two bytes a letter as UTF-8; half a letter at the end
// is left out.
func utf16Text(data []byte, little bool) string {
	units := make([]uint16, 0, len(data)/2)
	for i := 0; i+1 < len(data); i += 2 {
		a, b := uint16(data[i]), uint16(data[i+1])
		if little {
			a, b = b, a
		}
		units = append(units, a<<8|b)
	}
	return string(utf16.Decode(units))
}

// windows1252 are the characters 0x80 to 0x9f of that code page; those that it
// leaves open are spaces here.
var windows1252 = [32]rune{'€', ' ', '‚', 'ƒ', '„', '…', '†', '‡', 'ˆ', '‰', 'Š', '‹', 'Œ', ' ', 'Ž', ' ', ' ', '‘',
	'’', '“',
	'”', '•', '–', '—', '˜', '™', 'š', '›', 'œ', ' ', 'ž', 'Ÿ'}

// separator is the character that stands most often in the first line, of those
// that stand between columns. Some spreadsheets name it in a line of its own,
// sep=; which is taken off.
func separator(text string) (comma rune, rest string) {
	first, below, _ := strings.Cut(strings.TrimLeft(text, "\r\n"), "\n")
	if named, is := strings.CutPrefix(strings.ToLower(strings.TrimSpace(first)), "sep="); is && len(named) == 1 &&
		strings.Contains(",;\t", named) {
		return rune(named[0]), "\n" + below // the line still counts
	}
	best, most := ',', 0
	for _, c := range []rune{',', ';', '\t'} {
		if n := strings.Count(first, string(c)); n > most {
			best, most = c, n
		}
	}
	return best, text
}

// plain is a heading or a word without capitals, accents of spacing and
// punctuation, for comparing.
func plain(s string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(s), func(r rune) bool {
		return r == ' ' || r == '_' || r == '-' || r == '.' || r == ':' || r == '/' || r == '\u00a0'
	}), " ")
}
