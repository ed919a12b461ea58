package drill

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"

	"maestrale/core/yamldoc"
)

// A file may hold a family of drills: `vary` lists what differs, and <name> stands
// for it in the rest of the file. Every member becomes a drill of its own, whose text
// is the file with the member's values filled in, line for line.

var (
	varyBlock = regexp.MustCompile(`(?m)^vary:.*\n(?:(?:[ \t].*|#.*)?\n)*`)
	blank     = regexp.MustCompile(`<([a-z_]+)>`)
)

// mostMembers is how many drills one file may hold.
const mostMembers = 64

// expand returns the drills of a file, one text each.
func expand(data []byte) ([][]byte, error) {
	at := varyBlock.FindIndex(data)
	if at == nil {
		return [][]byte{data}, nil
	}
	doc, top := yamldoc.Read(data)
	m := top.Map()
	vary := m.Get("vary")
	members := vary.List()
	if len(members) == 0 || len(members) > mostMembers {
		vary.Fail(fmt.Sprintf("%d members", len(members)), fmt.Sprintf(msgListOfTo, mostMembers))
	}
	// The block leaves its lines behind, so that errors name the line of the file.
	rest := append(append([]byte{}, data[:at[0]]...), bytes.Repeat([]byte("\n"), bytes.Count(data[at[0]:at[1]],
		[]byte("\n")))...)
	rest = append(rest, data[at[1]:]...)
	var out [][]byte
	for _, n := range members {
		values := map[string]string{}
		mm := n.Map()
		for _, key := range mm.Keys() {
			values[key] = mm.Get(key).Scalar()
		}
		used := map[string]bool{}
		missing := ""
		one := blank.ReplaceAllStringFunc(string(rest), func(token string) string {
			key := strings.Trim(token, "<>")
			v, ok := values[key]
			if !ok {
				missing = key
			}
			used[key] = true
			return v
		})
		if missing != "" {
			n.Fail(fmt.Sprintf("a member says nothing for <%s>", missing), msgEveryBlankFile)
		}
		for key := range values {
			if !used[key] {
				n.Fail(fmt.Sprintf(msgNoBlankFile, key), "<"+key+"> somewhere")
			}
		}
		out = append(out, []byte(one))
	}
	if doc.Err() != nil {
		return nil, doc.Err()
	}
	return out, nil
}

// FamilyTitle is the key of a family as people read it: "first-hours" is "First hours".
func FamilyTitle(key string) string {
	t := strings.ReplaceAll(key, "-", " ")
	if t == "" {
		return ""
	}
	return strings.ToUpper(t[:1]) + t[1:]
}
