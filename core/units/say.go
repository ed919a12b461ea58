package units

import (
	"regexp"
	"strconv"
	"strings"
)

// quantity finds lengths in metres and speeds in metres per second in a sentence: one number or several ("0.5 to 1.2
// m",
// "3 × 4 m"), the unit, and what may stand behind it in brackets: the same in feet or knots.
var quantity = regexp.MustCompile(`(` + numbers + `)(` + space + `)(m/s|m)(\b|$)` +
	`((?:[ \x{a0}])\(\d+(?:\.\d+)? (?:ft|kn|feet|knots)\))?`)

const (
	oneNumber = `[-+−]?\d+(?:\.\d+)?`
	space     = `[ \x{a0}\x{202f}]`
	numbers   = `(?:` + oneNumber + `(?:` + space + `?(?:to|and|or|of|by|–|×|±|/)` + space + `?|, ))*` + oneNumber
)

var number = regexp.MustCompile(`\d+(?:\.\d+)?`)

// Say returns a text that holds lengths in metres and speeds in metres per second with them said in the chosen units. A
// value keeps its decimals. Where the text says both units already, they change places. With Metric it is the text.
func (s System) Say(text string) string {
	if s == Metric || !strings.Contains(text, "m") {
		return text
	}
	var b strings.Builder
	rest := 0
	for _, at := range quantity.FindAllStringSubmatchIndex(text, -1) {
		part := func(i int) string {
			if at[2*i] < 0 {
				return ""
			}
			return text[at[2*i]:at[2*i+1]]
		}
		kind := Length
		if part(3) == "m/s" {
			kind = Speed
		}
		u := s.Of(kind)
		after := text[at[7]:]
		if u == Metre || u == MetrePerSec || otherUnit(after) || joined(text[:at[0]]) {
			continue
		}
		b.WriteString(text[rest:at[0]])
		b.WriteString(number.ReplaceAllStringFunc(part(1), u.Again))
		b.WriteString(part(2) + string(u))
		if part(5) != "" {
			b.WriteString(" (" + part(1) + " " + part(3) + ")")
		}
		rest = at[1]
	}
	b.WriteString(text[rest:])
	return s.sayGusts(b.String())
}

// gusts finds the gust behind a mean wind, which goes without a unit of its own: "4.2 m/s, gusts 6.1".
var gusts = regexp.MustCompile(`\bgusts (` + numbers + `)`)

// sayGusts says gusts that have no unit of their own in the chosen unit of speed. Those that have one were said before.
func (s System) sayGusts(text string) string {
	u := s.Of(Speed)
	if u == MetrePerSec || !strings.Contains(text, "gusts ") {
		return text
	}
	var b strings.Builder
	rest := 0
	for _, at := range gusts.FindAllStringSubmatchIndex(text, -1) {
		if after := text[at[1]:]; strings.HasPrefix(after, " "+string(u)) || strings.HasPrefix(after, "\u00a0"+string(u)) {
			continue
		}
		b.WriteString(text[rest:at[2]])
		b.WriteString(number.ReplaceAllStringFunc(text[at[2]:at[3]], u.Again))
		rest = at[3]
	}
	b.WriteString(text[rest:])
	return b.String()
}

// otherUnit tells that what looked like metres goes on to be another unit: m², m/s², m/min.
func otherUnit(after string) bool {
	return strings.HasPrefix(after, "²") || strings.HasPrefix(after, "³") || strings.HasPrefix(after, "/")
}

// joined tells that a number is the end of a longer word, as in "box-4 m".
func joined(before string) bool {
	if before == "" {
		return false
	}
	c := before[len(before)-1]
	return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '.'
}

// Again says a number of metres or metres per second in the unit, with as many decimals as it had; a text that is no
// number
// stays as it is.
func (u Unit) Again(text string) string {
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return text
	}
	decimals := 0
	if i := strings.IndexByte(text, '.'); i >= 0 {
		decimals = len(text) - i - 1
	}
	return strconv.FormatFloat(u.To(v), 'f', decimals, 64)
}
