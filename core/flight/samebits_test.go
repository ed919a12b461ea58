package flight_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// build builds the program that prints hashes, for a platform.
func build(t *testing.T, out string, env ...string) {
	t.Helper()
	cmd := exec.Command("go", "build", "-o", out, "maestrale/cmd/samebits")
	cmd.Env = append(os.Environ(), env...)
	if msg, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("%v: %v\n%s", env, err, msg)
	}
}

// Native, native for newer processors, and WebAssembly in Node fly the same bits.
func TestTheSameBitsEverywhere(t *testing.T) {
	if testing.Short() {
		t.Skip("builds for other platforms")
	}
	dir := t.TempDir()
	run := func(name string, args ...string) string {
		out, err := exec.Command(name, args...).Output()
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		return string(out)
	}
	native := filepath.Join(dir, "native")
	build(t, native)
	want := run(native)
	if n := strings.Count(want, "\n"); n < 9 || !strings.Contains(want, "30000 airborne") {
		t.Fatalf("%d flights:\n%s", n, want)
	}
	cpu, _ := os.ReadFile("/proc/cpuinfo")
	if has := string(cpu); strings.Contains(has, " fma") && strings.Contains(has, " avx2") && strings.Contains(has,
		" bmi2") {
		v3 := filepath.Join(dir, "v3")
		build(t, v3, "GOARCH=amd64", "GOAMD64=v3")
		if got := run(v3); got != want {
			t.Errorf("GOAMD64=v3 flies\n%s\nand not\n%s", got, want)
		}
	} else {
		t.Log("this processor cannot run GOAMD64=v3")
	}
	wasm := filepath.Join(dir, "flight.wasm")
	build(t, wasm, "GOOS=js", "GOARCH=wasm")
	root := strings.TrimSpace(run("go", "env", "GOROOT"))
	if got := run("node", filepath.Join(root, "lib/wasm/wasm_exec_node.js"), wasm); got != want {
		t.Errorf("WebAssembly flies\n%s\nand not\n%s", got, want)
	}
}

// On the platforms whose compilers fuse products with sums, none is fused in what
// is flown again.
func TestNothingIsFused(t *testing.T) {
	if testing.Short() {
		t.Skip("builds for other platforms")
	}
	for arch, fused := range map[string]*regexp.Regexp{"arm64": regexp.MustCompile(`\tFN?M(ADD|SUB)D`),
		"amd64": regexp.MustCompile(`\tVFN?M(ADD|SUB)\d+SD`)} {
		cmd := exec.Command("go", "build", "-gcflags=maestrale/core/flight/...=-S", "-o", os.DevNull, "maestrale/core/flight",
			"maestrale/core/flight/fmath")
		cmd.Env = append(os.Environ(), "GOARCH="+arch, "GOAMD64=v3", "GOOS=linux")
		out, err := cmd.CombinedOutput()
		if err != nil {
			t.Fatalf("%s: %v\n%s", arch, err, out[:min(2000, len(out))])
		}
		text := string(out)
		if !strings.Contains(text, "(*Flight).Step") {
			t.Fatalf("%s: the listing does not hold the flight", arch)
		}
		for _, l := range strings.Split(text, "\n") {
			if fused.MatchString(l) {
				t.Errorf("%s: %s", arch, l)
			}
		}
	}
}
