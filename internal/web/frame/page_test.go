package frame

import (
	"strings"
	"testing"
)

func TestAMarginIsSaidInWords(t *testing.T) {
	for margin, want := range map[float64]string{0.4: "left 40 %", 0: "left 0 %", -0.3: "was 30 % over",
		-5.61: "was 6.6 times"} {
		if got := marginSays(&margin); !strings.Contains(got, want) {
			t.Errorf("%v: %q; expected %q", margin, got, want)
		}
	}
	if got := marginSays(nil); got != "" {
		t.Errorf("a margin that was not measured: %q", got)
	}
}
