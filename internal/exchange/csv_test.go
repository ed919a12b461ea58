package exchange

import "testing"

// A cell never begins a formula.
func TestPlainCell(t *testing.T) {
	for text, want := range map[string]string{"-1.3": "-1.3", "+4": "+4", "-1e-7": "-1e-7", "-1+1": "'-1+1", "-": "'-",
		"-inf": "'-inf", "@SUM(A1)": "'@SUM(A1)", "": ""} {
		if got := PlainCell(text); got != want {
			t.Errorf("the cell %q is written %q", text, got)
		}
	}
	if PlainCell("=1+1") != "'=1+1" || PlainCell("ok") != "ok" {
		t.Error("a formula is written as one")
	}
}
