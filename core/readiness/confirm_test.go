package readiness

import (
	"errors"
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
