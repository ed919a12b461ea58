package drill

import (
	"errors"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
	"testing/fstest"

	"maestrale/core/yamldoc"
)

// member is the sample as a family: the aspect, the turn and the name vary.
var member = strings.NewReplacer(
	"key: sample\n", "vary:\n  - {name: one, by: 90}\n  # the other way about\n  - {name: two, by: -45}\nkey: "+
		"sample-<name>\n",
	"by_deg: 90", "by_deg: <by>").Replace(sample)

func TestFamilyHoldsOneDrillPerMember(t *testing.T) {
	texts, err := expand([]byte(member))
	if err != nil || len(texts) != 2 {
		t.Fatalf("%d texts, %v", len(texts), err)
	}
	for i, want := range []struct {
		key string
		by  float64
	}{{"sample-one", 90}, {"sample-two", -45}} {
		d, err := Parse(texts[i])
		if err != nil {
			t.Fatal(err)
		}
		if d.Key != want.key || d.Steps[2].ByDeg != want.by {
			t.Errorf("member %d is %s, turned by %v", i, d.Key, d.Steps[2].ByDeg)
		}
		if n := strings.Count(string(texts[i]), "\n"); n != strings.Count(member, "\n") {
			t.Errorf("%d lines of %d", n, strings.Count(member, "\n"))
		}
	}
	if texts, err := expand([]byte(sample)); err != nil || len(texts) != 1 || string(texts[0]) != sample {
		t.Errorf("a single drill is not left as it is: %v", err)
	}
}

// What is wrong with a family is said with the file's own line.
func TestFamilyRefusesWithTheLine(t *testing.T) {
	for _, c := range []struct {
		from, to string
		line     int
		want     string
	}{
		{"by: -45", "", 5, "<by>"},
		{"by: -45", "by: -45, spare: 1", 5, `"spare" has no blank`},
		{"by: -45", "by: [1]", 5, ""},
		{"by: -45", "by: 5", 21, "too small"},
		{"  - {name: one, by: 90}\n  # the other way about\n  - {name: two, by: -45}\n", "  {}\n", 3, "list"},
	} {
		files := fstest.MapFS{"family.yaml": {Data: []byte(strings.Replace(member, c.from, c.to, 1))}}
		cat := Shipped()
		before := len(cat.Drills)
		err := cat.Add(files)
		var e *yamldoc.Error
		if !errors.As(err, &e) || e.Line != c.line || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v; want line %d and %q", c.to, err, c.line, c.want)
		}
		if len(cat.Drills) != before {
			t.Errorf("%s: %d drills were kept of a refused file", c.to, len(cat.Drills)-before)
		}
	}
}

func FuzzExpand(f *testing.F) {
	f.Add([]byte(sample))
	f.Add([]byte(member))
	f.Add([]byte("vary:\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		texts, err := expand(data)
		if err != nil {
			return
		}
		for _, one := range texts {
			_, _ = Parse(one)
		}
	})
}

// What is found by hand is what regular expressions find, in texts made up of what matters.
func TestFoundAsByRegularExpressions(t *testing.T) {
	key, block, blank := regexp.MustCompile(`^[a-z0-9]+(-[a-z0-9]+)*$`),
		regexp.MustCompile(`(?m)^vary:.*\n(?:(?:[ \t].*|#.*)?\n)*`), regexp.MustCompile(`<([a-z_]+)>`)
	parts := []string{"vary:", "vary", "\n", "\n", " ", "\t", "#", "a", "key-0", "-", "B", "<", ">", "<a_b>", "<a b>", "é"}
	r := rand.New(rand.NewPCG(22, 6))
	for range 60_000 {
		var b strings.Builder
		for range r.IntN(10) {
			b.WriteString(parts[r.IntN(len(parts))])
		}
		text := b.String()
		if got, want := isKey(text), key.MatchString(text); got != want {
			t.Fatalf("%q is a key: %t; expected %t", text, got, want)
		}
		from, to, ok := varyBlock([]byte(text))
		if want := block.FindStringIndex(text); ok != (want != nil) || ok && (from != want[0] || to != want[1]) {
			t.Fatalf("%q varies at %d to %d, %t; expected %v", text, from, to, ok, want)
		}
		if got, want := filled(text, func(name string) string { return "[" + name + "]" }),
			blank.ReplaceAllString(text, "[$1]"); got != want {
			t.Fatalf("%q is filled in as %q; expected %q", text, got, want)
		}
	}
}
