package units

import "strings"

// What stands in a sentence is found by hand and not by regular expressions,
// whose package a phone would have to fetch with the marking pad.

// quantity is where a quantity stands in a text: one number or several ("0.5 to
// 1.2 m", "3 × 4 m"), a space, the unit, and what may stand behind it in
// brackets: the same in feet or knots.
type quantity struct{ begin, space, unit, behind, end int }

const (
	noBreak     = "\u00a0"
	narrowBreak = "\u202f"
)

// nextQuantity finds the first length in metres or speed in metres per second
// that begins at a byte or after it.
func nextQuantity(text string, from int) (quantity, bool) {
	for i := from; i < len(text); i++ {
		if q, ok := quantityAt(text, i); ok {
			return q, true
		}
	}
	return quantity{}, false
}

// quantityAt finds a number with its unit that begins at a byte of a text.
func quantityAt(text string, i int) (q quantity, ok bool) {
	q.begin, q.space = i, numbersEnd(text, i)
	if q.space < 0 {
		return q, false
	}
	q.unit = q.space + spaceAt(text[q.space:])
	if q.unit == q.space {
		return q, false
	}
	for _, unit := range [...]string{"m/s", "m"} {
		q.behind = q.unit + len(unit)
		if strings.HasPrefix(text[q.unit:], unit) && !wordAt(text, q.behind) {
			q.end = q.behind + alsoEnd(text[q.behind:])
			return q, true
		}
	}
	return q, false
}

// numbersEnd is where one number or several end that begin at a byte; −1 where
// none begins.
func numbersEnd(text string, i int) int {
	end := numberEnd(text, i+signAt(text[i:]))
	for at := end; at >= 0; {
		at = betweenEnd(text, at)
		if at < 0 {
			break
		}
		if at = numberEnd(text, at+signAt(text[at:])); at >= 0 {
			end = at
		}
	}
	return end
}

// betweenEnd is where what stands between two numbers ends; −1 where something
// else stands there.
func betweenEnd(text string, i int) int {
	if strings.HasPrefix(text[i:], ", ") {
		return i + 2
	}
	i += spaceAt(text[i:])
	for _, word := range [...]string{"to", "and", "or", "of", "by", "–", "×", "±", "/"} {
		if strings.HasPrefix(text[i:], word) {
			i += len(word)
			return i + spaceAt(text[i:])
		}
	}
	return -1
}

// signAt is how long the sign is that a text begins with.
func signAt(text string) int {
	for _, sign := range [...]string{"-", "+", "−"} {
		if strings.HasPrefix(text, sign) {
			return len(sign)
		}
	}
	return 0
}

// spaceAt is how long the space is that a text begins with.
func spaceAt(text string) int {
	for _, space := range [...]string{" ", noBreak, narrowBreak} {
		if strings.HasPrefix(text, space) {
			return len(space)
		}
	}
	return 0
}

// numberEnd is where the digits end that begin at a byte, with their decimals;
// −1 where there is none.
func numberEnd(text string, i int) int {
	end := digitsEnd(text, i)
	if end == i {
		return -1
	}
	if end < len(text) && text[end] == '.' {
		if d := digitsEnd(text, end+1); d > end+1 {
			return d
		}
	}
	return end
}

// digitsEnd is where the digits from a byte of a text end.
func digitsEnd(text string, i int) int {
	for i < len(text) && text[i] >= '0' && text[i] <= '9' {
		i++
	}
	return i
}

// wordAt tells whether a letter, a digit or an underscore stands at a byte.
func wordAt(text string, i int) bool {
	if i < 0 || i >= len(text) {
		return false
	}
	c := text[i]
	return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '_'
}

// alsoEnd is how long the brackets are that say the same in feet or knots, with
// the space before them; 0 for none.
func alsoEnd(text string) int {
	i := len(" ")
	if strings.HasPrefix(text, noBreak) {
		i = len(noBreak)
	} else if !strings.HasPrefix(text, " ") {
		return 0
	}
	if !strings.HasPrefix(text[i:], "(") {
		return 0
	}
	i = numberEnd(text, i+1)
	if i < 0 {
		return 0
	}
	for _, unit := range [...]string{" ft)", " kn)", " feet)", " knots)"} {
		if strings.HasPrefix(text[i:], unit) {
			return i + len(unit)
		}
	}
	return 0
}

// nextGusts finds the numbers of the next gust, which goes without a unit of
// its own: "4.2 m/s, gusts 6.1".
func nextGusts(text string, from int) (begin, end int, ok bool) {
	const word = "gusts "
	for {
		i := strings.Index(text[from:], word)
		if i < 0 {
			return 0, 0, false
		}
		begin = from + i + len(word)
		if end = numbersEnd(text, begin); end >= 0 && !wordAt(text, from+i-1) {
			return begin, end, true
		}
		from += i + 1
	}
}

// FirstNumber is where the first number of a text stands, without its sign; ok
// is false where there is none.
func FirstNumber(text string) (begin, end int, ok bool) {
	for i := range len(text) {
		if end := numberEnd(text, i); end >= 0 {
			return i, end, true
		}
	}
	return 0, 0, false
}

// eachNumber says every number of a text anew.
func eachNumber(text string, anew func(string) string) string {
	var b strings.Builder
	for {
		begin, end, ok := FirstNumber(text)
		if !ok {
			b.WriteString(text)
			return b.String()
		}
		b.WriteString(text[:begin] + anew(text[begin:end]))
		text = text[end:]
	}
}
