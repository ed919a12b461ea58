package orient

import (
	"strings"
	"testing"
)

func TestReadRows(t *testing.T) {
	rows, notes, err := ReadRows(strings.NewReader("Speed, input,seconds,saw,mood\nslow,forward,2,left,calm\n" +
		",yaw-left,0.5,none,\n"))
	if err != nil || len(rows) != 2 || rows[0] != (Row{Forward, 2, SlowLeft}) || rows[1] != (Row{YawLeft, 0.5, None}) ||
		len(notes) != 1 {
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

func TestReadCalls(t *testing.T) {
	calls, notes, err := ReadCalls(strings.NewReader("Light,distance_m,right,who\n,20,yes,a\ndusk, 45.5,NO,b\n"))
	if err != nil || len(notes) != 1 || len(calls) != 2 || calls[0] != (Call{DistanceM: 20, Right: true}) ||
		calls[1] != (Call{DistanceM: 45.5, Light: Dusk}) {
		t.Fatalf("%+v %q %v", calls, notes, err)
	}
	for text, want := range map[string]string{
		"":                                   "the file is empty",
		"distance_m\n":                       `no column "right"`,
		"distance_m,right\n2000,yes\n":       "1 to 1000",
		"distance_m,right\nNaN,yes\n":        "1 to 1000",
		"distance_m,right\n20,perhaps\n":     "yes or no",
		"distance_m,right,light\n9,no,moon":  "day, overcast or dusk",
		"distance_m,right,right\n":           "stands there twice",
		"distance_m,right\n20\n":             "comma-separated",
		"distance_m,right\n\"20,yes\n30,no ": "comma-separated",
	} {
		if _, _, err := ReadCalls(strings.NewReader(text)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", text, err, want)
		}
	}
}

func FuzzReadCalls(f *testing.F) {
	f.Add("distance_m,right,light\n20,yes,day\n40,no,dusk\n")
	f.Add("\ufeffright,distance_m\nno,9\n")
	f.Fuzz(func(t *testing.T, text string) {
		calls, _, err := ReadCalls(strings.NewReader(text))
		if err != nil {
			return
		}
		x, err := SightOf(0.2, 1, Day, calls[:min(20, len(calls))])
		if err != nil || !(x.TellM >= 0 && x.TellM <= 1000) {
			t.Fatalf("%+v, %v", x, err)
		}
	})
}
