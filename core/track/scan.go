package track

import (
	"bytes"
	"io"
	"unicode/utf8"
)

// What is read in one pass over the bytes is read only where it is plain:
// anything that is not, and anything that is wrong, is left to the slower
// reader, which says what is wrong with it. So both take and refuse the same
// files.

// sized is a reader with about how many bytes it has; 0 where that is not known.
type sized struct {
	io.Reader
	bytes int
}

// sizeOf asks a reader how much it has.
func sizeOf(r io.Reader) int {
	if l, ok := r.(interface{ Len() int }); ok {
		return min(l.Len(), MaxBytes)
	}
	return 0
}

// readAll reads a file into memory, and gives a reader that reads the same
// again, with the same error at its end.
func readAll(r sized) (data []byte, whole bool, again func() io.Reader) {
	var b bytes.Buffer
	b.Grow(r.bytes + bytes.MinRead)
	_, err := b.ReadFrom(r.Reader)
	return b.Bytes(), err == nil, func() io.Reader {
		if err == nil {
			return bytes.NewReader(b.Bytes())
		}
		return io.MultiReader(bytes.NewReader(b.Bytes()), failing{err})
	}
}

// failing is the end of a file that could not be read on.
type failing struct{ err error }

// Read fails.
func (f failing) Read([]byte) (int, error) { return 0, f.err }

// scanner walks through plain XML: elements, attributes and text in letters
// that XML allows, without entities, comments, sections or instructions besides
// the first line.
type scanner struct {
	data  []byte
	at    int
	lines int // line feeds before at that were counted
	upTo  int // of data
	local []byte
	attrs []attribute
	empty bool // an element that ends where it begins has its end still to come
}

// attribute is an attribute of an element, without its prefix.
type attribute struct{ local, value []byte }

// tag is what the scanner found next.
type tag int

const (
	noTag tag = iota // the end of the file
	startTag
	endTag
	notPlain
)

// isPlain tells whether a file can be scanned: what a scanner does not look at
// is looked for at once.
func isPlain(data []byte) bool {
	if bytes.IndexByte(data, '&') >= 0 || bytes.Contains(data, []byte("<!")) || bytes.Contains(data, []byte("]]>")) ||
		!utf8.Valid(data) || bytes.Contains(data, []byte("\uFFFE")) || bytes.Contains(data, []byte("\uFFFF")) {
		return false
	}
	for _, c := range data {
		if c < ' ' && c != '\t' && c != '\n' && c != '\r' {
			return false
		}
	}
	return true
}

// newScanner begins to scan a file behind its first line; nil for one that is
// not plain.
func newScanner(data []byte) *scanner {
	if !isPlain(data) {
		return nil
	}
	s := &scanner{data: data}
	for _, head := range []string{`<?xml version="1.0" encoding="UTF-8"?>`, `<?xml version="1.0" encoding="utf-8"?>`,
		`<?xml version="1.0"?>`} {
		if bytes.HasPrefix(data, []byte(head)) {
			s.at = len(head)
			break
		}
	}
	return s
}

// line is the line that is being read, from 1.
func (s *scanner) line() int {
	s.lines += bytes.Count(s.data[s.upTo:s.at], []byte("\n"))
	s.upTo = s.at
	return s.lines + 1
}

// next finds the next start or end of an element, and hands the text before it to take.
func (s *scanner) next(take func([]byte)) tag {
	if s.empty {
		s.empty = false
		return endTag
	}
	n := bytes.IndexByte(s.data[s.at:], '<')
	if n < 0 {
		take(s.data[s.at:])
		s.at = len(s.data)
		return noTag
	}
	take(s.data[s.at : s.at+n])
	s.at += n + 1
	if s.at < len(s.data) && s.data[s.at] == '/' {
		s.at++
		if !s.name() {
			return notPlain
		}
		s.spaces()
		if s.at >= len(s.data) || s.data[s.at] != '>' {
			return notPlain
		}
		s.at++
		return endTag
	}
	if !s.name() {
		return notPlain
	}
	return s.rest()
}

// rest reads a start from behind its name.
func (s *scanner) rest() tag {
	name := s.local
	s.attrs = s.attrs[:0]
	for {
		spaced := s.spaces()
		if s.at >= len(s.data) {
			return notPlain
		}
		switch s.data[s.at] {
		case '>':
			s.at++
			s.local = name
			return startTag
		case '/':
			if s.at++; s.at >= len(s.data) || s.data[s.at] != '>' {
				return notPlain
			}
			s.at++
			s.local, s.empty = name, true
			return startTag
		}
		if !spaced || !s.name() {
			return notPlain
		}
		of := s.local
		if s.at+1 >= len(s.data) || s.data[s.at] != '=' || (s.data[s.at+1] != '"' && s.data[s.at+1] != '\'') {
			return notPlain
		}
		quote := s.data[s.at+1]
		s.at += 2
		n := bytes.IndexByte(s.data[s.at:], quote)
		if n < 0 || bytes.IndexByte(s.data[s.at:s.at+n], '<') >= 0 || bytes.IndexByte(s.data[s.at:s.at+n], '\r') >= 0 {
			return notPlain
		}
		s.attrs = append(s.attrs, attribute{of, s.data[s.at : s.at+n]})
		s.at += n + 1
	}
}

// name reads a name of plain letters, and keeps what stands behind its prefix.
func (s *scanner) name() bool {
	from, colon := s.at, -1
	for ; s.at < len(s.data); s.at++ {
		c := s.data[s.at]
		switch {
		case c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c == '_':
		case s.at > from && (c >= '0' && c <= '9' || c == '-' || c == '.'):
		case c == ':' && colon < 0 && s.at > from:
			colon = s.at
		case c == ':' || c >= utf8.RuneSelf:
			return false
		default:
			goto end
		}
	}
end:
	if colon == s.at-1 {
		return false
	}
	s.local = s.data[from:s.at]
	if colon >= 0 {
		s.local = s.data[colon+1 : s.at]
		if c := s.local[0]; c >= '0' && c <= '9' || c == '-' || c == '.' {
			return false
		}
	}
	return s.at > from
}

// spaces reads over white space, and tells whether there was any.
func (s *scanner) spaces() bool {
	from := s.at
	for ; s.at < len(s.data); s.at++ {
		if c := s.data[s.at]; c != ' ' && c != '\n' && c != '\t' && c != '\r' {
			break
		}
	}
	return s.at > from
}
