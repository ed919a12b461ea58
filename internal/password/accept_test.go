package password

import (
	"bytes"
	"strings"
	"testing"
)

func TestAccept(t *testing.T) {
	for word, good := range map[string]bool{
		"": false, "elevenchars": false, "twelve chars": true, "passwordpassword": false, "Password1234": false,
		"PASSWORDPASSWORD": false, "aaaaaaaaaaaa": false, "123456789012": false, "qwertyuiopas": false, "qwerty123456": false,
		"la torre del faro": true, "ÄÖÜäöüÄÖÜäöü": true, "ÄÖÜäöü": false, "            ": false,
		strings.Repeat("long and good ", 73): true, strings.Repeat("long and good ", 74): false,
	} {
		if err := Accept(word); (err == nil) != good {
			t.Errorf("%q: %v", word, err)
		}
	}
}

// The list is in order, or the search in it misses.
func TestTheListIsInOrder(t *testing.T) {
	if len(common)%prefix != 0 || len(common) < 10_000*prefix {
		t.Fatalf("%d bytes", len(common))
	}
	for i := prefix; i < len(common); i += prefix {
		if bytes.Compare(common[i-prefix:i], common[i:i+prefix]) >= 0 {
			t.Fatalf("entry %d is not after the one before", i/prefix)
		}
	}
}
