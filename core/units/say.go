package units

import (
	"strconv"
	"strings"
)

// Say returns a text that holds lengths in metres and speeds in metres per
// second with them said in the chosen units. A value keeps its decimals. Where
// the text says both units already, they change places. With Metric it is the
// text.
func (s System) Say(text string) string {
	if s == Metric || !strings.Contains(text, "m") {
		return text
	}
	var b strings.Builder
	rest := 0
	for at := 0; ; {
		q, ok := nextQuantity(text, at)
		if !ok {
			break
		}
		at = q.end
		kind, unit := Length, text[q.unit:q.behind]
		if unit == "m/s" {
			kind = Speed
		}
		u := s.Of(kind)
		if u == Metre || u == MetrePerSec || otherUnit(text[q.behind:]) || joined(text[:q.begin]) {
			continue
		}
		numbers := text[q.begin:q.space]
		b.WriteString(text[rest:q.begin] + eachNumber(numbers, u.Again) + text[q.space:q.unit] + string(u))
		if q.end > q.behind {
			b.WriteString(" (" + numbers + " " + unit + ")")
		}
		rest = q.end
	}
	b.WriteString(text[rest:])
	return s.sayGusts(b.String())
}

// sayGusts says gusts that have no unit of their own in the chosen unit of
// speed. Those that have one were said before.
func (s System) sayGusts(text string) string {
	u := s.Of(Speed)
	if u == MetrePerSec || !strings.Contains(text, "gusts ") {
		return text
	}
	var b strings.Builder
	rest := 0
	for at := 0; ; {
		begin, end, ok := nextGusts(text, at)
		if !ok {
			break
		}
		at = end
		if after := text[end:]; strings.HasPrefix(after, " "+string(u)) || strings.HasPrefix(after, "\u00a0"+string(u)) {
			continue
		}
		b.WriteString(text[rest:begin] + eachNumber(text[begin:end], u.Again))
		rest = end
	}
	b.WriteString(text[rest:])
	return b.String()
}

// otherUnit tells that what looked like metres goes on to be another unit: m²,
// m/s², m/min.
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

// Again says a number of metres or metres per second in the unit, with as many
// decimals as it had; a text that is no number stays as it is.
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
