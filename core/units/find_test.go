package units

import (
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
)

// What find.go finds, as regular expressions.
const (
	oneNumber = `[-+−]?\d+(?:\.\d+)?`
	anySpace  = `[ \x{a0}\x{202f}]`
	several   = `(?:` + oneNumber + `(?:` + anySpace + `?(?:to|and|or|of|by|–|×|±|/)` + anySpace + `?|, ))*` + oneNumber
)

var (
	asQuantity = regexp.MustCompile(`(` + several + `)(` + anySpace + `)(m/s|m)(?:\b|$)` +
		`((?:[ \x{a0}])\(\d+(?:\.\d+)? (?:ft|kn|feet|knots)\))?`)
	asGusts  = regexp.MustCompile(`\bgusts (` + several + `)`)
	asNumber = regexp.MustCompile(`\d+(?:\.\d+)?`)
)

func checkFound(t *testing.T, text string) {
	t.Helper()
	want := asQuantity.FindAllStringSubmatchIndex(text, -1)
	at := 0
	for _, w := range want {
		q, ok := nextQuantity(text, at)
		if !ok || q != (quantity{w[2], w[3], w[6], w[7], w[1]}) {
			t.Fatalf("%q: %+v, %t; expected %v", text, q, ok, w)
		}
		at = q.end
	}
	if q, ok := nextQuantity(text, at); ok {
		t.Fatalf("%q: also %+v", text, q)
	}
	at = 0
	for _, w := range asGusts.FindAllStringSubmatchIndex(text, -1) {
		begin, end, ok := nextGusts(text, at)
		if !ok || begin != w[2] || end != w[3] {
			t.Fatalf("%q: gusts %d, %d, %t; expected %v", text, begin, end, ok, w)
		}
		at = end
	}
	if _, _, ok := nextGusts(text, at); ok {
		t.Fatalf("%q: more gusts", text)
	}
	star := func(string) string { return "*" }
	if got, want := eachNumber(text, star), asNumber.ReplaceAllStringFunc(text, star); got != want {
		t.Fatalf("%q: numbers %q; expected %q", text, got, want)
	}
}

// Of sentences made up of what matters, all is found that the regular expressions find, and nothing else.
func TestFoundAsByRegularExpressions(t *testing.T) {
	parts := []string{"3", "12", "0.5", "1.", ".5", "-", "−", "+", " ", " ", " ", "\u00a0", "\u202f", "m", "m/s", "m/se",
		"mm", "to", "and", "or", "of", "by", "–", "×", "±", "/", ", ", "(", "10 ft)", "10 kn)", " (66 feet)",
		" (2.5 knots)", "gusts ", "xgusts ", "gust", "a", "²", "_", "é", " m", " m/s", "3 m", "4 to 5 m", "gusts 3"}
	r := rand.New(rand.NewPCG(22, 5))
	for range 60_000 {
		var b strings.Builder
		for range 1 + r.IntN(9) {
			b.WriteString(parts[r.IntN(len(parts))])
		}
		checkFound(t, b.String())
	}
}

func FuzzFound(f *testing.F) {
	f.Add("4.2 of 9 m/s (17 kn), gusts 6.2 of 8.0")
	f.Fuzz(func(t *testing.T, text string) { checkFound(t, text) })
}
