package record

import (
	"bytes"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// keyOf is the key of a made-up school.
func keyOf(school string) ed25519.PrivateKey {
	seed := sha256.Sum256([]byte(school))
	return ed25519.NewKeyFromSeed(seed[:])
}

func sampleRecord(n int) *Record {
	r := rand.New(rand.NewPCG(1, 1))
	rec := &Record{School: "The meadow <school>", TimeZone: "Europe/Rome", Student: Student{"s1", "Ann & Bo"},
		Ladder: "hands-first"}
	for i := range n {
		m := r.Float64()
		rec.Attempts = append(rec.Attempts, Attempt{ID: fmt.Sprint("a", i), At: time.Date(2026, 3, 2, 9, 0, 0, 0,
			time.UTC).Add(time.Duration(i) * time.Hour), Drill: "hover-tail-in", Side: "none", Aids: "position-hold",
			Frame: "nose", Eyes: "craft", CraftClass: "light", CraftType: "poiana", Source: "observed", Level: 1,
			Verdict: "pass", Margin: &m, Counts: true, Automatic: []string{}})
	}
	rec.Witnessed = []Witnessed{{"briefing", rec.Attempts[0].At, "I"}}
	rec.SignOffs = []SignOff{{Gate: "supervised", CraftClass: "light", At: rec.Attempts[0].At, By: "I",
		Until: rec.Attempts[0].At.AddDate(1, 0, 0)}}
	return rec
}

func exported(t testing.TB, n int, change ...func(*Exported)) []byte {
	t.Helper()
	rec := sampleRecord(n)
	chain, err := Chained(rec)
	if err != nil {
		t.Fatal(err)
	}
	e := &Exported{Record: *rec, Chain: chain}
	for _, f := range change {
		f(e)
	}
	data, err := Sign(e, keyOf("meadow"), time.Date(2026, 6, 1, 0, 0, 0, 0, time.UTC))
	if err != nil {
		t.Fatal(err)
	}
	return data
}

func TestExportedRecordsAreSound(t *testing.T) {
	data := exported(t, 3)
	var any map[string]any
	if err := json.Unmarshal(data, &any); err != nil {
		t.Fatal(err)
	}
	e, v, notes, err := ReadExported(bytes.NewReader(data), nil)
	if err != nil || !v.Sound || v.Entries != 5 || v.Attempts != 3 || len(notes) != 0 || e.Student.Name != "Ann & Bo" {
		t.Fatalf("%+v %v %v", v, notes, err)
	}
	if _, v, _, _ := ReadExported(bytes.NewReader(data), keyOf("meadow").Public().(ed25519.PublicKey)); !v.Sound {
		t.Errorf("with its own key: %s", v.Why)
	}
	if _, v, _, _ := ReadExported(bytes.NewReader(data), keyOf("another").Public().(ed25519.PublicKey)); v.Sound ||
		!strings.Contains(v.Why, "another key") {
		t.Errorf("with another school's key: %s", v.Why)
	}
}

// Every single byte: changed, it makes the record unreadable or unsound.
func TestAChangedByteIsFound(t *testing.T) {
	data := exported(t, 2)
	for i := range data {
		for _, to := range []byte{data[i] ^ 1, ' ', '\t', '9'} {
			if to == data[i] {
				continue
			}
			bad := bytes.Clone(data)
			bad[i] = to
			if _, v, _, err := ReadExported(bytes.NewReader(bad), nil); err == nil && v.Sound {
				t.Fatalf("byte %d, %q for %q, is not seen: …%s…", i, to, data[i], data[max(0, i-30):min(len(data), i+10)])
			}
		}
	}
	for name, bad := range map[string][]byte{"something after it": append(bytes.Clone(data), ' '),
		"a line taken out": append(bytes.Clone(data[:40]), data[41:]...)} {
		if _, v, _, err := ReadExported(bytes.NewReader(bad), nil); err == nil && v.Sound {
			t.Errorf("%s is not seen", name)
		}
	}
}

// A school that changes what happened and signs it again is found by the chain, at the row.
func TestABrokenChainSaysAtWhichRow(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*Exported)
		row    int64
		why    string
	}{
		"a verdict in the chain": {func(e *Exported) {
			e.Chain[3].Body = bytes.Replace(e.Chain[3].Body, []byte(`"pass"`), []byte(`"fail"`), 1)
		}, 4, "broken at row 4"},
		"a row taken out":    {func(e *Exported) { e.Chain = append(e.Chain[:2], e.Chain[3:]...) }, 3, "broken at row 3"},
		"two rows exchanged": {func(e *Exported) { e.Chain[1], e.Chain[2] = e.Chain[2], e.Chain[1] }, 2, "broken at row 2"},
		"an attempt that is none": {func(e *Exported) {
			reseal(e, 3, func(b []byte) []byte { return bytes.Replace(b, []byte(`"side":"none"`), []byte(`"side":"up"`), 1) })
		}, 4, "holds no attempt"},
		"a hash cut":            {func(e *Exported) { e.Chain[0].Hash = e.Chain[0].Hash[:8] }, 1, "row 1"},
		"a verdict in the list": {func(e *Exported) { e.Attempts[1].Verdict = "fail" }, 0, "attempts[1] differs"},
		"an attempt taken out":  {func(e *Exported) { e.Attempts = e.Attempts[1:] }, 0, "missing"},
		"an attempt put in": {func(e *Exported) {
			a := e.Attempts[0]
			a.ID = "new"
			e.Attempts = append(e.Attempts, a)
		}, 0, "is not in the chain"},
	} {
		_, v, _, err := ReadExported(bytes.NewReader(exported(t, 3, c.change)), nil)
		if err != nil || v.Sound || v.Row != c.row || !strings.Contains(v.Why, c.why) {
			t.Errorf("%s: %+v %v", name, v, err)
		}
	}
}

// reseal changes a row and makes the hashes from it on anew, as a school that cheats would.
func reseal(e *Exported, row int, change func([]byte) []byte) {
	prev := Hash{}
	for i := range e.Chain {
		c := &e.Chain[i]
		if i == row {
			c.Body = change(c.Body)
		}
		h, err := Link{e.Student.ID, c.Seq, c.Kind, c.ID, c.Body}.Sum(prev)
		if err != nil {
			panic(err)
		}
		c.Hash, prev = hex.EncodeToString(h[:]), h
	}
}

func TestWhatIsNoExportedRecord(t *testing.T) {
	for name, text := range map[string]string{"no signature": sample, "nothing": "",
		"no record": `{"format":"maestrale-day/1"}`} {
		if _, _, _, err := ReadExported(strings.NewReader(text), nil); err == nil {
			t.Errorf("%s was taken", name)
		}
	}
	if _, err := ReadKey("short"); err == nil {
		t.Error("a short key was taken")
	}
}

func TestOneIdTwice(t *testing.T) {
	twice := strings.Replace(sample, `"verdict": "pass"}]`,
		`"verdict": "pass"}, {"id": "a", "at": "2026-03-02T09:14:00Z", "drill": "hover-tail-in", "side": "none", `+
			`"aids": "position-hold", "craft_class": "light", "source": "observed", "verdict": "fail"}]`, 1)
	if _, _, err := Read(strings.NewReader(twice)); err == nil || !strings.Contains(err.Error(), "something else") {
		t.Errorf("one id with two contents: %v", err)
	}
	same := strings.Replace(twice, `"fail"`, `"pass"`, 1)
	if r, notes, err := Read(strings.NewReader(same)); err == nil && (len(r.Attempts) != 1 || len(notes) < 2) {
		t.Errorf("the same twice: %d attempts, %q", len(r.Attempts), notes)
	}
}

func FuzzReadExported(f *testing.F) {
	f.Add(exported(f, 2))
	f.Add([]byte(sample))
	whole := string(exported(f, 1))
	f.Fuzz(func(t *testing.T, data []byte) {
		_, v, _, err := ReadExported(bytes.NewReader(data), nil)
		if err == nil && v.Sound && string(data) != whole && !bytes.Contains(data, []byte(v.Signature.Value)) {
			t.Error("sound, and not what was signed")
		}
	})
}

func BenchmarkVerify20000(b *testing.B) {
	data := exported(b, 20_000)
	b.SetBytes(int64(len(data)))
	for b.Loop() {
		if _, v, _, err := ReadExported(bytes.NewReader(data), nil); err != nil || !v.Sound {
			b.Fatal(err, v)
		}
	}
}

// BenchmarkSum20000 is what BenchmarkVerify20000 is held to: sha256sum of the same file.
func BenchmarkSum20000(b *testing.B) {
	file := filepath.Join(b.TempDir(), "record.json")
	if err := os.WriteFile(file, exported(b, 20_000), 0o600); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if err := exec.Command("sha256sum", file).Run(); err != nil {
			b.Fatal(err)
		}
	}
}
