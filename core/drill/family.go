package drill

import (
	"bytes"
	"fmt"
	"maps"
	"slices"
	"strings"

	"maestrale/core/yamldoc"
)

// Many drills differ in one place only: hover tail-in, nose-left, nose-in. A
// family says the common part once: `vary` lists what differs, and <name> stands
// for it in the rest of the file. Every member becomes a drill of its own, whose
// text is the file with the member's values filled in, line for line.

// varyBlock returns where the block of vary stands in a file, from its first
// byte to after its last, with the lines that belong to it. ok is false for a
// file without one. It is looked for as text, since the rest of the file is no
// YAML of a drill before it is filled in.
func varyBlock(data []byte) (from, to int, ok bool) {
	for !bytes.HasPrefix(data[from:], []byte("vary:")) {
		line := bytes.IndexByte(data[from:], '\n')
		if line < 0 {
			return 0, 0, false
		}
		from += line + 1
	}
	for to = from; ; {
		line := bytes.IndexByte(data[to:], '\n')
		// The block ends before the first line that is neither indented, empty
		// nor a comment.
		if line < 0 || to > from && line > 0 && !bytes.ContainsRune([]byte(" \t#"), rune(data[to])) {
			return from, to, to > from
		}
		to += line + 1
	}
}

// filled returns a text with every <name> in it replaced by its value; anything
// else between < and > stays.
func filled(text string, value func(name string) string) string {
	var b strings.Builder
	for {
		before, after, ok := strings.Cut(text, "<")
		b.WriteString(before)
		if !ok {
			return b.String()
		}
		name, rest, closed := strings.Cut(after, ">")
		if !closed || name == "" || strings.Trim(name, "abcdefghijklmnopqrstuvwxyz_") != "" {
			b.WriteString("<")
			text = after
			continue
		}
		b.WriteString(value(name))
		text = rest
	}
}

// mostMembers is how many drills one file may hold.
const mostMembers = 64

// expand returns the drills of a file, one text for each; a file that holds no
// family is returned as it is. A member that leaves a blank open, or fills one
// that is not there, is an error.
func expand(data []byte) ([][]byte, error) {
	from, to, ok := varyBlock(data)
	if !ok {
		return [][]byte{data}, nil
	}
	doc, top := yamldoc.Read(data)
	m := top.Map()
	vary := m.Get("vary")
	members := vary.List()
	if len(members) == 0 || len(members) > mostMembers {
		vary.Fail(fmt.Sprintf("%d members", len(members)), fmt.Sprintf(msgWantMembers, mostMembers))
	}
	// The block leaves its lines behind, so that errors name the line of the file.
	rest := append(append([]byte{}, data[:from]...), bytes.Repeat([]byte("\n"), bytes.Count(data[from:to],
		[]byte("\n")))...)
	rest = append(rest, data[to:]...)
	var out [][]byte
	for _, n := range members {
		// values are what the member fills in, by blank.
		values := map[string]string{}
		mm := n.Map()
		for _, key := range mm.Keys() {
			values[key] = mm.Get(key).Scalar()
		}
		used := map[string]bool{}
		missing := ""
		one := filled(string(rest), func(key string) string {
			v, ok := values[key]
			if !ok {
				missing = key
			}
			used[key] = true
			return v
		})
		if missing != "" {
			n.Fail(fmt.Sprintf("a member says nothing for <%s>", missing), msgWantEveryBlank)
		}
		for key := range values {
			if !used[key] {
				n.Fail(fmt.Sprintf(msgNoSuchBlank, key), "<"+key+"> somewhere")
			}
		}
		out = append(out, []byte(one))
	}
	if doc.Err() != nil {
		return nil, doc.Err()
	}
	return out, nil
}

// Documents returns all texts that are read where files are laid over a
// catalogue: the files by name and, after each, the members of its family. What
// cannot be read is left to whoever reads it.
func Documents(files map[string][]byte) (out [][]byte) {
	for _, name := range slices.Sorted(maps.Keys(files)) {
		out = append(out, files[name])
		if format, err := formatOf(files[name]); err == nil && format == "maestrale-drill/1" {
			members, err := expand(files[name])
			if err == nil && !bytes.Equal(members[0], files[name]) {
				out = append(out, members...)
			}
		}
	}
	return out
}

// FamilyTitle is the key of a family as people read it: "first-hours" is "First
// hours".
func FamilyTitle(key string) string {
	t := strings.ReplaceAll(key, "-", " ")
	if t == "" {
		return ""
	}
	return strings.ToUpper(t[:1]) + t[1:]
}
