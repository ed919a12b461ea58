// Package jsondoc reads the JSON documents of the product: every value of the kind
// that was asked for, an error says where by its path (students[2].minutes), what
// stands there and what was expected, and a key that nobody asked for is noted.
//
// A reader asks for what it knows, one object after another. The first thing that is
// wrong is kept and everything after it answers with zero values, so that a reader
// checks Err once, at its end.
package jsondoc

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"time"

	"maestrale/core/misread"
)

// MaxBytes is the largest document that is read.
const MaxBytes = 64 << 20

// Doc is one document being read.
type Doc struct {
	err   error
	notes []string
}

// Err returns the first mistake found so far.
func (d *Doc) Err() error { return d.err }

// Notes are the keys that nobody asked for, in order.
func (d *Doc) Notes() []string {
	slices.Sort(d.notes)
	return d.notes
}

// Fail records a mistake at a path.
func (d *Doc) Fail(path, expected, what string, args ...any) {
	if d.err == nil {
		if path != "" {
			what = path + " " + what
		}
		d.err = misread.At(0, expected, what, args...)
	}
}

// Object is an object of the document; the zero Object stands for one that is absent.
type Object struct {
	Path string
	doc  *Doc
	keys map[string]json.RawMessage
}

// Read reads a document of a format, which its top object names.
func Read(r io.Reader, format string) (*Doc, Object) {
	d := &Doc{}
	data, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	switch {
	case err != nil:
		d.err = fmt.Errorf("read the document: %w", err)
		return d, Object{doc: d}
	case len(data) > MaxBytes:
		d.Fail("", msgWantOneDay, msgFileTooLarge)
		return d, Object{doc: d}
	}
	top := Object{doc: d}
	if err := json.Unmarshal(data, &top.keys); err != nil {
		line := 1
		var s *json.SyntaxError
		if errors.As(err, &s) {
			line += bytes.Count(data[:min(int(s.Offset), len(data))], []byte("\n"))
		}
		d.err = misread.At(line, "a JSON object", "%v", err)
		return d, top
	}
	if got := top.text("format", true); got != format {
		d.Fail("", fmt.Sprintf("%q", format), "format is %q", got)
	}
	return d, top
}

// at is the path of a key, as an error names it.
func (o Object) at(key string) string {
	if o.Path == "" {
		return key
	}
	return o.Path + "." + key
}

// Has tells whether the key is there and not null.
func (o Object) Has(key string) bool {
	raw, ok := o.keys[key]
	return ok && string(raw) != "null"
}

// take reads a key into a value of the kind that is meant.
func (o Object) take(key string, needed bool, kind string, into any) bool {
	if o.doc == nil || o.doc.err != nil {
		return false
	}
	if !o.Has(key) {
		if needed {
			o.doc.Fail("", kind, "%s is missing", o.at(key))
		}
		return false
	}
	if err := json.Unmarshal(o.keys[key], into); err != nil {
		o.doc.Fail("", kind, "%s is %.60s", o.at(key), o.keys[key])
		return false
	}
	return true
}

// text reads a text; needed is whether it has to be there.
func (o Object) text(key string, needed bool) (s string) {
	o.take(key, needed, "text", &s)
	return s
}

// Text is the text of a key that has to be there.
func (o Object) Text(key string) string {
	s := o.text(key, true)
	if o.doc != nil && o.doc.err == nil && s == "" {
		o.doc.Fail("", "some text", "%s is empty", o.at(key))
	}
	return s
}

// TextOr is the text of a key, or another where it is absent.
func (o Object) TextOr(key, or string) string {
	if !o.Has(key) {
		return or
	}
	return o.text(key, true)
}

// Texts is a list of texts; absent is none.
func (o Object) Texts(key string) (list []string) {
	o.take(key, false, msgWantTexts, &list)
	return list
}

// Number is a number in [low, high].
func (o Object) Number(key string, low, high float64) float64 {
	var v float64
	if o.take(key, true, fmt.Sprintf(msgWantNumber, low, high), &v) && !(v >= low && v <= high) {
		o.doc.Fail("", fmt.Sprintf(msgWantNumber, low, high), "%s is %g", o.at(key), v)
	}
	return v
}

// NumberOr is Number, or another where it is absent.
func (o Object) NumberOr(key string, low, high, or float64) float64 {
	if !o.Has(key) {
		return or
	}
	return o.Number(key, low, high)
}

// Int is a whole number in [low, high].
func (o Object) Int(key string, low, high int) int {
	v := o.Number(key, float64(low), float64(high))
	if v != math.Trunc(v) {
		o.doc.Fail("", fmt.Sprintf(msgWantWhole, low, high), "%s is %g", o.at(key), v)
	}
	return int(v)
}

// IntOr is Int, or another where it is absent.
func (o Object) IntOr(key string, low, high, or int) int {
	if !o.Has(key) {
		return or
	}
	return o.Int(key, low, high)
}

// Bool is true or false; absent is false.
func (o Object) Bool(key string) (b bool) {
	o.take(key, false, msgWantBool, &b)
	return b
}

// Time is a moment as 2026-05-01T09:00:00+02:00.
func (o Object) Time(key string) time.Time {
	const kind = "a time as 2026-05-01T09:00:00+02:00"
	var s string
	if !o.take(key, true, kind, &s) {
		return time.Time{}
	}
	t, err := time.Parse(time.RFC3339, s)
	if err != nil {
		o.doc.Fail("", kind, "%s is %.60q", o.at(key), s)
	}
	return t
}

// TimeOr is Time, or another where it is absent.
func (o Object) TimeOr(key string, or time.Time) time.Time {
	if !o.Has(key) {
		return or
	}
	return o.Time(key)
}

// IsNumber tells whether the key is written as a number.
func (o Object) IsNumber(key string) bool {
	var v float64
	return o.Has(key) && json.Unmarshal(o.keys[key], &v) == nil
}

// List is a list of objects of at most so many; absent is none.
func (o Object) List(key string, most int) []Object {
	var raw []json.RawMessage
	if !o.take(key, false, "a list", &raw) {
		return nil
	}
	if len(raw) > most {
		o.doc.Fail("", fmt.Sprintf("%d at most", most), "%s has %d entries", o.at(key), len(raw))
		return nil
	}
	out := make([]Object, len(raw))
	for i, r := range raw {
		out[i] = Object{Path: fmt.Sprintf("%s[%d]", o.at(key), i), doc: o.doc}
		if err := json.Unmarshal(r, &out[i].keys); err != nil || out[i].keys == nil {
			o.doc.Fail("", "an object", "%s is %.60s", out[i].Path, r)
			return nil
		}
	}
	return out
}

// Done notes every key that is not among those that were asked for.
func (o Object) Done(known ...string) {
	for k := range o.keys {
		if !slices.Contains(known, k) {
			o.doc.notes = append(o.doc.notes, fmt.Sprintf(msgNotRead, o.at(k)))
		}
	}
}
