package intake

import (
	"fmt"
	"strings"
	"testing"
	"time"
	"unicode/utf16"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
)

var catalogue = drill.Shipped()

func known() Known {
	return Known{Catalogue: catalogue, Zone: time.UTC, Today: time.Date(2026, 3, 20, 0, 0, 0, 0, time.UTC),
		Students: []Person{{"1", "Ada Testa", "poiana"}, {"2", "Bo Prova", "gheppio"}, {"3", "Bo Prova", "gheppio"}},
		Craft:    []string{"Uno"}, Packs: []string{"P1"}}
}

// read reads a table of a kind whose headings are matched by themselves.
func read(t *testing.T, k Kind, text string) (Batch, []Mistake) {
	t.Helper()
	table, err := ReadTable([]byte(text))
	if err != nil {
		t.Fatalf("%q: %v", text, err)
	}
	return Read(k, table, Match(k, table.Headings), known())
}

// The same table, however a spreadsheet writes it, reads the same.
func TestEncodingsAndSeparators(t *testing.T) {
	plainText := "name,goal\nZoë Ångström,\"one, and two\"\n"
	wide := func(order func(uint16) []byte, mark []byte) []byte {
		out := mark
		for _, u := range utf16.Encode([]rune(plainText)) {
			out = append(out, order(u)...)
		}
		return out
	}
	for what, data := range map[string][]byte{
		"UTF-8":        []byte(plainText),
		"with a mark":  []byte("\xef\xbb\xbf" + plainText),
		"CRLF":         []byte(strings.ReplaceAll(plainText, "\n", "\r\n")),
		"Windows-1252": []byte("name,goal\nZo\xeb \xc5ngstr\xf6m,\"one, and two\"\n"),
		"semicolons":   []byte("name;goal\nZoë Ångström;one, and two\n"),
		"tabs":         []byte("name\tgoal\nZoë Ångström\tone, and two\n"),
		"UTF-16 LE":    wide(func(u uint16) []byte { return []byte{byte(u), byte(u >> 8)} }, []byte{0xff, 0xfe}),
		"UTF-16 BE":    wide(func(u uint16) []byte { return []byte{byte(u >> 8), byte(u)} }, []byte{0xfe, 0xff}),
		"sep=;":        []byte("sep=;\r\nname;goal\r\nZoë Ångström;one, and two\r\n"),
		"more commas":  []byte("name,goal\nZoë Ångström,\"one, and two\",,,\n"),
		"empty lines":  []byte("\n\nname,goal\n\n,\nZoë Ångström,\"one, and two\"\n\n"),
	} {
		table, err := ReadTable(data)
		if err != nil || len(table.Rows) != 1 || table.Rows[0][0] != "Zoë Ångström" || table.Rows[0][1] != "one, and two" {
			t.Errorf("%s: %+v, %v", what, table, err)
		}
	}
}

func TestWhatIsNoTable(t *testing.T) {
	for want, data := range map[string]string{
		"looks like a picture":  "\xff\xd8\xff\xe0JFIF",
		"no text":               "PK\x03\x04 a workbook",
		"the file is empty":     " \n\n",
		"headings and no rows":  "name,goal\n",
		"stands twice":          "name,Name \nA,B\n",
		"quotation mark":        "name,goal\n\"A,B\n",
		"at most 8 MB":          strings.Repeat("a", MostBytes+1),
		"there are more rows":   "name\n" + strings.Repeat("a\n", MostRows+1),
		"a table saved as CSV":  "name\n\x00\x01",
		"closed at its end":     "name\n\"A\"B\n",
		"a line of headings":    "",
		"looks like a picture ": "\x89PNG\r\n\x1a\n",
	} {
		if _, err := ReadTable([]byte(data)); err == nil || !strings.Contains(err.Error(), strings.TrimSpace(want)) {
			t.Errorf("%.20q: %v, want %q", data, err, want)
		}
	}
}

func TestHeadingsAreMatched(t *testing.T) {
	m := Match(Passes, []string{"When", "Pilot", "Exercise", "Seen by", "Remarks", "SIDE"})
	for key, at := range map[string]int{"date": 0, "student": 1, "drill": 2, "by": 3, "side": 5} {
		if m[key] != at {
			t.Errorf("%s is column %d, want %d", key, m[key], at)
		}
	}
	for _, k := range Kinds {
		table, err := ReadTable(append(k.Template(), []byte("x\n")...))
		if err != nil {
			t.Fatal(err)
		}
		if m := Match(k, table.Headings); len(m) != len(k.Columns()) || len(m.Missing(k)) > 0 {
			t.Errorf("%s: its own template matches %v", k, m)
		}
		if got := Guess(table.Headings); got != k {
			t.Errorf("the template of %s is taken for %s", k, got)
		}
		if k.Words() == "" {
			t.Errorf("%s has no words", k)
		}
	}
	if _, mistakes := read(t, Students, "surname\nTesta\n"); len(mistakes) != 1 || !strings.Contains(mistakes[0].What,
		"no column") {
		t.Errorf("%v", mistakes)
	}
}

func TestRowsAreRead(t *testing.T) {
	b, mistakes := read(t, Students, "name,programme,craft type,started on\nCleo Nuova,Hands first,Poiana,2.3.2026\n")
	if len(mistakes) > 0 || len(b.Students) != 1 || b.Students[0].Programme != "hands-first" ||
		b.Students[0].CraftType != "poiana" || b.Students[0].StartedOn.Day() != 2 {
		t.Errorf("%+v, %v", b, mistakes)
	}
	b, mistakes = read(t, Packs, "label;type;capacity mAh;bought\nP7;poiana;3.300,5;31/12/2025\n")
	if len(mistakes) > 0 || b.Packs[0].CapacityMah != 3300.5 || b.Packs[0].Chemistry != craft.LiHV ||
		b.Packs[0].BoughtOn.Month() != 12 {
		t.Errorf("%+v, %v", b, mistakes)
	}
	b, mistakes = read(t, Passes, "student,date,drill,side,aids,vouched for by\n"+
		"ada testa,2026-03-02 10:30,Yaw-quarter,L,Position hold,Old Hand\n")
	if len(mistakes) > 0 || len(b.Passes) != 1 || b.Passes[0].Side != field.LeftSide || b.Passes[0].StudentID != "1" ||
		b.Passes[0].Aids != craft.PositionHold || b.Passes[0].At.Hour() != 12 {
		t.Errorf("%+v, %v", b, mistakes)
	}
}

func TestWrongRowsAreSaid(t *testing.T) {
	for _, c := range []struct {
		kind Kind
		text string
		want string // line: what
	}{
		{Students, "name\nAda Testa\n", "line 2: Ada Testa is in the school already"},
		{Students, "name\nX\nx\n", "line 3: x stands in line 2 too"},
		{Students, "name\nA,B\n", "line 2: 2 fields, and 1 headings"},
		{Students, "name,programme\nX,juggling\n", `line 2: the programme "juggling" is not known`},
		{Students, "name,started on\nX,03/04/2025\n", "could be 3 April 2025 or 4 March 2025"},
		{Students, "name,started on\nX,2030-01-01\n", "is not a day that has been"},
		{Students, "name,started on\nX,soon\n", `"soon" is no day`},
		{Students, "name,craft\nX,biplane\n", `the craft type "biplane" is not known`},
		{Craft, "name,type\nUno,poiana\n", "Uno is in the school already"},
		{Packs, "name,type,cells\nP2,poiana,3\n", "4 cells in series"},
		{Packs, "name,type,chemistry\nP2,poiana,NiMH\n", `the chemistry "NiMH"`},
		{Packs, "name,type,capacity\nP2,poiana,big\n", `the capacity "big"`},
		{Passes, "student,date,drill,by\nNobody,2026-03-02,hover-tail-in,H\n", `there is no student "Nobody"`},
		{Passes, "student,date,drill,by\nAda Testa,2026-03-02,hover-tail-in,H\nada testa,2.3.2026,Tail-in hover,I\n",
			"line 3: the same pass stands in line 2 too"},
		{Passes, "student,date,drill,by\nBo Prova,2026-03-02,hover-tail-in,H\n", "there are 2 students"},
		{Passes, "student,date,drill,by\nAda Testa,2026-03-02,loop,H\n", `the drill "loop" is not known`},
		{Passes, "student,date,drill,by\nAda Testa,2026-03-02,yaw-quarter,H\n", "no side is said"},
		{Passes, "student,date,drill,side,by\nAda Testa,2026-03-02,hover-tail-in,left,H\n", "has no sides"},
		{Passes, "student,date,drill,aids,by\nAda Testa,2026-03-02,hover-tail-in,rate,H\n", "does not fly with"},
		{Passes, "student,date,drill,level,by\nAda Testa,2026-03-02,hover-tail-in,99,H\n", `the level "99"`},
		{Passes, "student,date,drill,by\nAda Testa,2026-03-02,hover-tail-in,\n", "the person who vouches has no name"},
	} {
		b, mistakes := read(t, c.kind, c.text)
		said := fmt.Sprint(mistakes)
		if len(mistakes) == 0 || !strings.Contains(said, c.want) {
			t.Errorf("%q: %v, want %q", c.text, mistakes, c.want)
		}
		if b.Count() > strings.Count(c.text, "\n")-2 {
			t.Errorf("%q: a wrong row is in the batch", c.text)
		}
	}
}

// Ten thousand rows are read, and each wrong one among them is found.
func TestManyRows(t *testing.T) {
	var text strings.Builder
	text.WriteString("name,craft\n")
	for i := range 10_000 {
		kind := "poiana"
		if i%1000 == 7 {
			kind = "balloon"
		}
		fmt.Fprintf(&text, "Student %d,%s\n", i, kind)
	}
	b, mistakes := read(t, Students, text.String())
	if len(mistakes) != 10 || b.Count() != 9990 || mistakes[1].Line != 1009 {
		t.Errorf("%d mistakes, %d rows, %v", len(mistakes), b.Count(), mistakes[:2])
	}
}

func FuzzReadTable(f *testing.F) {
	for _, s := range []string{"name,goal\nA,B\n", "name;type\nP;poiana\n", "\xff\xfea\x00", "\"a\"\"b\",c\n1,2",
		"a\tb\n\t\n"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		table, err := ReadTable(data)
		if err != nil {
			return
		}
		if len(table.Rows) == 0 || len(table.Rows) != len(table.Lines) {
			t.Fatalf("%d rows, %d lines", len(table.Rows), len(table.Lines))
		}
		for _, k := range Kinds {
			b, mistakes := Read(k, table, Match(k, table.Headings), known())
			if len(mistakes) == 0 && b.Count() != len(table.Rows) {
				t.Fatalf("%s: %d of %d rows and no mistake", k, b.Count(), len(table.Rows))
			}
		}
	})
}
