package orient

import (
	"strings"
	"testing"
)

func TestReadRows(t *testing.T) {
	rows, notes, err := ReadRows(strings.NewReader("Speed, input,seconds,saw,mood\nslow,forward,2,left,calm\n,yaw-left,0.5,none,\n"))
	if err != nil || len(rows) != 2 || rows[0] != (Row{Forward, 2, SlowLeft}) || rows[1] != (Row{YawLeft, 0.5, None}) || len(notes) != 1 {
		t.Fatalf("%+v %q %v", rows, notes, err)
	}
	for text, want := range map[string]string{
		"":                                            "the file is empty",
		"input,seconds\nforward,2\n":                  `no column "saw"`,
		"input,seconds,saw,saw\n":                     "stands there twice",
		"input,seconds,saw,speed\n":                   "no row",
		"input,seconds,saw,speed\nup,2,none,\n":       "forward, back, yaw-left or yaw-right",
		"input,seconds,saw,speed\nback,x,none,\n":     "over 0 and 60",
		"input,seconds,saw,speed\nback,NaN,none,\n":   "over 0 and 60",
		"input,seconds,saw,speed\nback,2,none,slow\n": "no speed where nothing moved",
		"input,seconds,saw,speed\nback,2,left,\n":     "slow or full",
		"input,seconds,saw,speed\nback,2,up,slow\n":   "left, right or none",
		"input,seconds,saw,speed\nback,2\n":           "comma-separated",
	} {
		if _, _, err := ReadRows(strings.NewReader(text)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", text, err, want)
		}
	}
}

func FuzzReadRows(f *testing.F) {
	f.Add("input,seconds,saw,speed\nforward,2,left,slow\nyaw-right,0.5,none,\n")
	f.Add("\ufeffinput,seconds,saw\nback,1,none\n")
	f.Fuzz(func(t *testing.T, text string) {
		rows, _, err := ReadRows(strings.NewReader(text))
		if err != nil {
			return
		}
		if len(rows) > 20 {
			rows = rows[:20]
		}
		for _, p := range Follow(Usual(), rows).After {
			sum := 0.0
			for _, v := range p {
				if !(v >= 0 && v <= 1) {
					t.Fatalf("a probability of %v", v)
				}
				sum += v
			}
			if sum < 0.999 || sum > 1.001 {
				t.Fatalf("it sums to %v", sum)
			}
		}
	})
}
