package fieldday

import (
	"slices"
	"strings"
	"testing"

	"github.com/google/uuid"

	"maestrale/internal/store"
)

func boardOf(names ...string) *Board {
	b := &Board{Students: map[uuid.UUID]store.Student{}}
	for _, n := range names {
		st := store.Student{ID: store.NewID(), Name: n}
		b.Students[st.ID] = st
	}
	return b
}

// Students who are said by name fly as often as is said, and once where nothing is; whoever is not found, or is said
// twice, is named with the line, and then nobody is added.
func TestOthersFlyByName(t *testing.T) {
	for text, want := range map[string]string{
		"Ada Rossi\n  ada   BIANCHI , 3 \r\n\n": "Ada Bianchi 3, Ada Rossi 1",
		"Zeno 4":                                "Zeno 4 1",
		"zeno 4, 2":                             "Zeno 4 2",
		"":                                      "",
		"Nobody K":                              `line 1 of the others who fly: no student in training is called "Nobody K"`,
		"Ada Rossi\nAda Rossi, 2":               "line 2 of the others who fly: Ada Rossi flies already",
		"Leo Verdi":                             `2 students are called "Leo Verdi"`,
		"\nAda Rossi, 21":                       `line 2 of the others who fly says "21" flights; expected 1 to 20`,
		"Ada Rossi, 0":                          `says "0" flights`,
		"Ada Rossi, twice":                      `says "twice" flights`,
		"Ada Rossi,":                            `says "" flights`,
		", 4":                                   `line 1 of the others who fly is ", 4"; expected a name`,
	} {
		b := boardOf("Ada Rossi", "Ada Bianchi", "Leo Verdi", "Leo  Verdi", "Zeno 4")
		list, err := ReadOthers(text)
		if err == nil {
			err = b.AddOthers(list)
		}
		var fly []string
		for _, x := range b.Source.People {
			fly = append(fly, b.Students[x.Student].Name+" "+string(rune('0'+x.Flights)))
			if x.Minutes <= 0 || x.Rest <= 0 {
				t.Errorf("%q: %+v has no minutes", text, x)
			}
		}
		switch {
		case err != nil && (want == "" || !strings.Contains(err.Error(), want) || len(fly) > 0):
			t.Errorf("%q: %v, with %v; want %q", text, err, fly, want)
		case err == nil:
			slices.Sort(fly)
			if got := strings.Join(fly, ", "); got != want {
				t.Errorf("%q: %q fly, want %q", text, got, want)
			}
		}
	}
}

// Whatever is typed, a name is found as it is written, and no number of flights is out of bounds.
func FuzzReadOthers(f *testing.F) {
	f.Add("Ada Rossi, 2\nLeo")
	f.Add("3,\n-1\n\x00, 9")
	f.Fuzz(func(t *testing.T, text string) {
		list, err := ReadOthers(text)
		if err != nil && len(list) > 0 {
			t.Error("a part of a wrong list is taken")
		}
		for _, o := range list {
			if o.Name == "" || o.Flights < 1 || o.Flights > mostFlights {
				t.Errorf("%q gives %+v", text, o)
			}
		}
	})
}
