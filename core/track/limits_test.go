package track

import (
	"strconv"
	"strings"
	"testing"
)

// A file with far too many columns or rows is refused at once, in a few words.
func TestFilesThatAreTooWideOrTooLong(t *testing.T) {
	wide := "t_s,x_m,y_m,z_m"
	for i := range 20_000 {
		wide += ",c" + strings.Repeat("x", i%7)
	}
	for _, c := range []struct{ text, want string }{
		{wide + "\n0,0,0,2" + strings.Repeat(",1", 20_000) + "\n", "256 at most"},
		{"t_s,x_m,y_m,z_m\n" + "0,0,0,2\n", ""},
	} {
		_, notes, err := ReadCSV(strings.NewReader(c.text), CSVOptions{})
		if c.want == "" && err != nil || c.want != "" && (err == nil || !strings.Contains(err.Error(), c.want)) {
			t.Errorf("%v", err)
		}
		if len(notes) > 0 {
			t.Errorf("%d notes", len(notes))
		}
		if _, _, _, err := Header(strings.NewReader(c.text), 5); (err != nil) != (c.want != "") {
			t.Errorf("its head: %v", err)
		}
	}
	var long strings.Builder
	long.WriteString("t_s,x_m,y_m,z_m\n")
	for i := range MaxSamples + 1 {
		long.WriteString(strconv.Itoa(i) + ",0,0,2\n")
	}
	_, _, err := ReadCSV(strings.NewReader(long.String()), CSVOptions{})
	if err == nil || !strings.Contains(err.Error(), "split longer logs") {
		t.Errorf("%v", err)
	}
}
