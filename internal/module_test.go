package internal

import (
	"os"
	"os/exec"
	"strings"
	"testing"
)

// The marking pad's module crosses slow lines: what it has no use for, and what is large, is not in it.
func TestThePadsModuleIsLight(t *testing.T) {
	if testing.Short() {
		t.Skip("lists packages for another platform")
	}
	list := exec.Command("go", "list", "-tags=pad", "-deps", "maestrale/cmd/padwasm")
	list.Env = append(os.Environ(), "GOOS=js", "GOARCH=wasm")
	out, err := list.Output()
	if err != nil {
		t.Fatal(err)
	}
	in := map[string]bool{}
	for pkg := range strings.FieldsSeq(string(out)) {
		in[pkg] = true
	}
	if !in["maestrale/core/marking"] {
		t.Fatalf("the rules of marking are not in it:\n%s", out)
	}
	for _, pkg := range []string{"go.yaml.in/yaml/v3", "regexp", "crypto/ed25519", "math/big", "net/http"} {
		if in[pkg] {
			t.Errorf("%s is in it", pkg)
		}
	}
}
