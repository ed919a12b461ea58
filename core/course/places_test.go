package course

import (
	"slices"
	"strings"
	"testing"

	"maestrale/core/field"
)

func TestReadPlaces(t *testing.T) {
	for _, c := range []struct {
		text string
		want []field.Point
		err  string
	}{
		{"-5, 20; 5, 20", []field.Point{pt(-5, 20), pt(5, 20)}, ""},
		{"-5,20\n5,20\n", []field.Point{pt(-5, 20), pt(5, 20)}, ""},
		{" 1.5 , 2 ; ", []field.Point{pt(1.5, 2)}, ""},
		{"", nil, "no places"},
		{" ; ;", nil, "no places"},
		{"here", nil, `the places "here"`},
		{"1, 2, 3", nil, `the places "1, 2, 3"`},
		{"1; 2", nil, "places"},
		{"NaN, 3", nil, "a place stands at [NaN, 3]"},
		{"1e9, 3", nil, "100000 m at most"},
		{strings.Repeat("1, 2;", mostPoints+1), nil, "more places"},
	} {
		got, err := ReadPlaces(c.text)
		if !slices.Equal(got, c.want) || (err == nil) != (c.err == "") || (err != nil && !strings.Contains(err.Error(),
			c.err)) {
			t.Errorf("%.30q: %v, %v", c.text, got, err)
		}
	}
}

func FuzzReadPlaces(f *testing.F) {
	f.Add("-5, 20; 5, 20")
	f.Add("1e9, NaN\n;")
	f.Fuzz(func(t *testing.T, text string) {
		got, err := ReadPlaces(text)
		if (err == nil) != (len(got) > 0) {
			t.Errorf("%q: %v, %v", text, got, err)
		}
		for _, p := range got {
			if err := onField(p, "x"); err != nil {
				t.Errorf("%q: %v", text, err)
			}
		}
	})
}

func TestReadWind(t *testing.T) {
	for text, want := range map[string][2]float64{"4.5@180": {4.5, 180}, "0@0": {}, "3@-90": {3, -90}} {
		if mps, from, err := ReadWind(text); err != nil || mps != want[0] || from != want[1] {
			t.Errorf("%s: %v from %v, %v", text, mps, from, err)
		}
	}
	for _, text := range []string{"", "3", "@", "-1@0", "80@0", "3@361", "NaN@0", "3@NaN", "3@180@2", "many"} {
		if _, _, err := ReadWind(text); err == nil || !strings.Contains(err.Error(), "expected MPS@FROM_DEG") {
			t.Errorf("%q: %v", text, err)
		}
	}
}
