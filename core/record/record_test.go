package record

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
)

const sample = `{"format": "maestrale-record/1", "school": "S", "time_zone": "Europe/Rome",
 "student": {"id": "1", "name": "A"}, "programme": "hands-first",
 "attempts": [{"id": "a", "at": "2026-03-02T09:14:00Z", "drill": "hover-tail-in", "side": "none",
   "aids": "position-hold", "craft_class": "light", "source": "observed", "verdict": "pass"}],
 "practice": [], "colour": 3}`

func TestReadFillsInTheDefaults(t *testing.T) {
	r, notes, err := Read(strings.NewReader(sample))
	if err != nil {
		t.Fatal(err)
	}
	a := r.Attempts[0]
	if !a.Counts || a.Level != 1 || a.Frame != "nose" || a.Eyes != "craft" || r.Student.Name != "A" {
		t.Errorf("%+v", a)
	}
	if len(notes) != 1 || notes[0] != "colour is not read" {
		t.Errorf("notes %q", notes)
	}
}

func TestReadNamesThePath(t *testing.T) {
	for _, c := range []struct{ from, to, want string }{
		{`"maestrale-record/1"`, `"maestrale-record/9"`, "format"},
		{`"attempts"`, `"tries"`, `no "attempts"`},
		{`"verdict": "pass"`, `"verdict": "good"`, `attempts[0].verdict is "good"; expected pass, fail`},
		{`"side": "none",`, ``, `attempts[0] has no "side"`},
		{`"side": "none"`, `"side": "up"`, "attempts[0].side"},
		{`"id": "a"`, `"id": 7`, "attempts[0].id"},
		{`2026-03-02T09:14:00Z`, `yesterday`, "attempts[0].at"},
		{`"verdict": "pass"`, `"verdict": "pass", "level": 0`, "attempts[0].level is 0"},
		{`"Europe/Rome"`, `"Mars/Base"`, "time_zone"},
		{`"verdict": "pass"}`, `"verdict": "pass"}, {"id": "a", "at": "2026-03-02T09:14:00Z", "drill": "x", ` +
			`"side": "none", "aids": "rate", "craft_class": "light", "source": "sim", ` +
			`"verdict": "pass"}`, "attempts[1].id is that of attempts[0]"},
		{`"colour": 3}`, `"colour": 3`, "JSON"},
	} {
		_, _, err := Read(strings.NewReader(strings.Replace(sample, c.from, c.to, 1)))
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", c.to, err, c.want)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(sample)
	f.Fuzz(func(t *testing.T, data string) {
		if r, _, err := Read(strings.NewReader(data)); (r == nil) == (err == nil) {
			t.Error("a record or an error, not both")
		}
	})
}

func chain(t *testing.T, n int) []Sealed {
	t.Helper()
	var out []Sealed
	prev := Hash{}
	for i := range n {
		l := Link{Student: "s", Seq: int64(i + 1), Kind: "attempt", ID: fmt.Sprint(i),
			Body: json.RawMessage(fmt.Sprintf(`{"n":%d}`, i))}
		sum, err := l.Sum(prev)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, Sealed{l, sum})
		prev = sum
	}
	return out
}

// Whatever single thing is done to a chain shows at the place where it was done.
func TestVerifyFindsEveryChange(t *testing.T) {
	r := rand.New(rand.NewPCG(41, 41))
	for range 300 {
		n := 2 + r.IntN(10)
		c := chain(t, n)
		if broken, err := Verify(c); broken != 0 || err != nil {
			t.Fatalf("a whole chain is broken at %d: %v", broken, err)
		}
		i := r.IntN(n - 1)
		what := r.IntN(4)
		switch what {
		case 0:
			c[i].Body = json.RawMessage(`{"n":-1}`)
		case 1:
			c = append(c[:i:i], c[i+1:]...)
		case 2:
			c[i], c[i+1] = c[i+1], c[i]
		case 3:
			c[i].Hash[5] ^= 1
		}
		if broken, _ := Verify(c); broken != int64(i+1) {
			t.Fatalf("change %d at %d was found at %d", what, i+1, broken)
		}
	}
}
