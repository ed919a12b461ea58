package record

import (
	"bytes"
	"crypto/ed25519"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// What is signed can be verified without us: by openssl, as the documents say, and a changed byte is
// found.
func TestOpensslVerifiesARecord(t *testing.T) {
	if _, err := exec.LookPath("openssl"); err != nil {
		t.Skip("openssl is not installed here")
	}
	key := ed25519.NewKeyFromSeed(bytes.Repeat([]byte{7}, ed25519.SeedSize))
	rec := Record{Format: "maestrale-record/1", School: "Scuola di volo Saline di Levante – è", TimeZone: "Europe/Rome",
		Student: Student{ID: "s", Name: "Ada"}}
	for i := range 5 {
		rec.Attempts = append(rec.Attempts, Attempt{ID: string(rune('a' + i)), At: time.Date(2026, 3, i+1, 9, 0, 0, 0,
			time.UTC), Drill: "hover-tail-in", Side: "none", Aids: "height-hold", CraftClass: "light", Source: "observed",
			Verdict: "pass", Level: 1, Counts: true})
	}
	chain, err := Chained(&rec)
	if err != nil {
		t.Fatal(err)
	}
	data, err := Sign(&Exported{Record: rec, Chain: chain}, key, time.Date(2026, 4, 1, 10, 0, 0, 0, time.UTC))
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "record.json")
	verify := func(data []byte) (string, error) {
		if err := os.WriteFile(file, data, 0o600); err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command("../../examples/verify-record.sh", file).CombinedOutput()
		return string(out), err
	}
	if out, err := verify(data); err != nil || !strings.Contains(out, "signed by "+rec.School+" at 2026-04-01T10:00:00Z") {
		t.Fatalf("%v %s", err, out)
	}
	for _, at := range []int{5, len(data) / 2, bytes.LastIndex(data, []byte(`"school"`)) + 12} {
		changed := bytes.Clone(data)
		changed[at] ^= 1
		if out, err := verify(changed); err == nil {
			t.Errorf("byte %d was changed, and openssl says %s", at, out)
		}
	}
}
