package record

import (
	"bytes"
	"encoding/json"
	"unicode/utf8"
)

// A record of many attempts is cut into its parts here and not by
// encoding/json, which looks at each byte twice for every list that it cuts;
// the parts are decoded by it, on all processors.

// membersOf are the members of a document. A text that is not JSON is its error.
func membersOf(data []byte) (map[string]json.RawMessage, error) {
	if out := cutMembers(data); out != nil && json.Valid(data) {
		return out, nil
	}
	var out map[string]json.RawMessage
	return out, json.Unmarshal(data, &out)
}

// cutMembers cuts an object that is valid JSON. It is nil for another text, and
// where a name is written with escapes or is no UTF-8.
func cutMembers(data []byte) map[string]json.RawMessage {
	i := next(data, 0)
	if i >= len(data) || data[i] != '{' {
		return nil
	}
	out := map[string]json.RawMessage{}
	for i = next(data, i+1); i < len(data) && data[i] == '"'; {
		end := valueEnd(data, i)
		name := data[i+1 : max(end-1, i+1)]
		colon := next(data, end)
		if bytes.IndexByte(name, '\\') >= 0 || !utf8.Valid(name) || colon >= len(data) {
			return nil
		}
		from := next(data, colon+1)
		end = valueEnd(data, from)
		out[string(name)] = data[from:end]
		if i = next(data, end); i < len(data) && data[i] == ',' {
			i = next(data, i+1)
		}
	}
	return out
}

// elementsOf are the elements of a list that is a part of a document that was
// read; what is no list is an error.
func elementsOf(data []byte) (out []json.RawMessage, err error) {
	i := next(data, 0)
	if i >= len(data) || data[i] != '[' {
		return nil, json.Unmarshal(data, &out)
	}
	for i = next(data, i+1); i < len(data) && data[i] != ']'; {
		end := valueEnd(data, i)
		out = append(out, data[i:end])
		if i = next(data, end); i < len(data) && data[i] == ',' {
			i = next(data, i+1)
		}
	}
	return out, nil
}

// next is the first byte from a place on that is no white space.
func next(data []byte, i int) int {
	for i < len(data) && (data[i] == ' ' || data[i] == '\n' || data[i] == '\t' || data[i] == '\r') {
		i++
	}
	return i
}

// valueEnd is where the value ends that begins at a place. It always goes on,
// whatever the text is.
func valueEnd(data []byte, i int) int {
	depth := 0
	for ; i < len(data); i++ {
		switch data[i] {
		case '"':
			if i = stringEnd(data, i); depth == 0 {
				return min(i+1, len(data))
			}
		case '{', '[':
			depth++
		case '}', ']':
			if depth--; depth <= 0 {
				return i + 1
			}
		case ',', ' ', '\n', '\t', '\r':
			if depth == 0 {
				return i
			}
		}
		// A bare word or number ends before what follows it.
		if depth == 0 && i+1 < len(data) && (data[i+1] == '}' || data[i+1] == ']') {
			return i + 1
		}
	}
	return len(data)
}

// stringEnd is the place of the quote that closes the string whose first quote
// stands at a place.
func stringEnd(data []byte, i int) int {
	for from := i + 1; ; {
		quote := bytes.IndexByte(data[from:], '"')
		if quote < 0 {
			return len(data)
		}
		quote += from
		back := quote
		for back > i+1 && data[back-1] == '\\' {
			back--
		}
		if (quote-back)%2 == 0 {
			return quote
		}
		from = quote + 1
	}
}
