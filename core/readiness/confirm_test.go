package readiness

import (
	"errors"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
)

func TestAConfirmationIsTheStudents(t *testing.T) {
	drawn := "M10 20" + strings.Repeat(" L30 40", 8) + " M50 50" + strings.Repeat(" L60 60", 3)
	for _, c := range []struct {
		typed, strokes string
		refused        string
	}{
		{"Ada Testa", drawn, ""},
		{"  ada   TESTA ", drawn, ""},
		{"Ada Testa", "", ""}, // who cannot draw
		{"", drawn, "types their own name"},
		{"Ada", drawn, "not the one in the record"},
		{"Ada Testa", "M10 10 L11 11", "no more than a dot"},
		{"Ada Testa", "M10 10 L11 11\"/><script>", "could not be read"},
		{"Ada Testa", drawn + " C1 2 3 4", "could not be read"},
		{"Ada Testa", "M10 20" + strings.Repeat(" L30 40", 4000), "could not be read"},
	} {
		err := Confirmation{c.typed, c.strokes}.Check("Ada Testa")
		var no Refusal
		if (err == nil) != (c.refused == "") || err != nil && (!errors.As(err, &no) || !strings.Contains(err.Error(),
			c.refused)) {
			t.Errorf("%q, %.30q: %v", c.typed, c.strokes, err)
		}
	}
	a, b := Confirmation{"Ada Testa", drawn}, Confirmation{"Ada Testa", drawn + " L1 1"}
	if a.SHA256() == b.SHA256() || len(a.SHA256()) != 64 {
		t.Error("two signatures have one hash")
	}
}

// A signature is strokes as the regular expression has them.
func TestStrokesAsByARegularExpression(t *testing.T) {
	as := regexp.MustCompile(`^M\d{1,3} \d{1,3}( [ML]\d{1,3} \d{1,3})*$`)
	parts := []string{"M", "L", "M1", "L22", "333", "4444", " ", " ", " 5", "M1 2", " L3 4", "x", "é"}
	r := rand.New(rand.NewPCG(22, 7))
	for range 60_000 {
		var b strings.Builder
		for range r.IntN(8) {
			b.WriteString(parts[r.IntN(len(parts))])
		}
		if got, want := strokesDrawn(b.String()), as.MatchString(b.String()); got != want {
			t.Fatalf("%q: %t; expected %t", b.String(), got, want)
		}
	}
}
