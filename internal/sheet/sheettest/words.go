// Package sheettest reads printed sheets again, for tests.
package sheettest

import (
	"bytes"
	"compress/zlib"
	"io"
	"regexp"
	"strings"
)

// shown is a text that a stream of a PDF shows.
var shown = regexp.MustCompile(`\(((?:[^()\\]|\\.)*)\) ?Tj`)

// Words are the texts that the streams of a PDF show, a line each.
func Words(pdf []byte) string {
	var out strings.Builder
	for _, part := range bytes.Split(pdf, []byte("stream\n"))[1:] {
		z, err := zlib.NewReader(bytes.NewReader(part))
		if err != nil {
			continue
		}
		data, _ := io.ReadAll(z) // what is cut short shows in what is missing
		for _, m := range shown.FindAllSubmatch(data, -1) {
			units := unescape(m[1])
			for i := 0; i+1 < len(units); i += 2 {
				out.WriteRune(rune(units[i])<<8 | rune(units[i+1]))
			}
			out.WriteByte('\n')
		}
	}
	return out.String()
}

// unescape undoes the escapes of a PDF string.
func unescape(b []byte) []byte {
	return []byte(strings.NewReplacer(`\\`, `\`, `\(`, "(", `\)`, ")", `\r`, "\r").Replace(string(b)))
}
