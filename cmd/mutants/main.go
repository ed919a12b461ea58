// Command mutants tries how many small mistakes the tests of a package would notice: it changes one comparison, one
// connective or one threshold at a time, runs the package's quick tests on the changed package, and lists the changes
// that no test noticed (make mutants). Nothing in the tree is written: the changed file is given to the compiler as an
// overlay.
//
// A survivor that changes nothing that can be seen is listed in docs/mutants.md with the reason; those are not counted.
package main

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"sync"
	"time"
)

func main() {
	each := flag.Int("each", 40, "changes that are tried in each package")
	seed := flag.Uint64("seed", 1, "which changes are tried")
	most := flag.Float64("most", 0.1, "share of unexplained survivors from which the command fails")
	explained := flag.String("explained", "docs/mutants.md", "survivors with their reason")
	jobs := flag.Int("jobs", 2, "packages that are tested at a time")
	flag.Parse()
	packages := flag.Args()
	if len(packages) == 0 {
		packages = []string{"core/score", "core/drill", "core/marking", "core/readiness", "core/orient"}
	}
	known := reasons(*explained)
	total, unexplained := 0, 0
	for _, pkg := range packages {
		list, err := mutantsOf(pkg)
		if err != nil {
			fmt.Fprintln(os.Stderr, "mutants:", err)
			os.Exit(2)
		}
		rng := rand.New(rand.NewPCG(*seed, uint64(len(list))))
		rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
		list = list[:min(*each, len(list))]
		survivors := try(pkg, list, *jobs)
		total += len(list)
		fmt.Printf("%s: %d of %d noticed\n", pkg, len(list)-len(survivors), len(list))
		for _, m := range survivors {
			why := known[m.key()]
			if why == "" {
				unexplained++
			}
			fmt.Printf("  line %d, %s  %s\n", m.line, m.key(), why)
		}
	}
	share := float64(unexplained) / float64(max(1, total))
	fmt.Printf("%d changes, %d unexplained survivors (%.0f %%)\n", total, unexplained, 100*share)
	if share >= *most {
		os.Exit(1)
	}
}

// mutant is one change of a file.
type mutant struct {
	file     string
	line     int
	from, to string
	at, end  int    // bytes that are replaced
	with     string // what replaces them
}

// key names a change by its file and its text, so that it stays the same when lines are added above it.
func (m mutant) key() string { return fmt.Sprintf("%s: `%s` → `%s`", m.file, m.from, m.to) }

// swaps are the operators that are exchanged.
var swaps = map[token.Token][]token.Token{
	token.LSS: {token.LEQ}, token.LEQ: {token.LSS}, token.GTR: {token.GEQ}, token.GEQ: {token.GTR},
	token.EQL: {token.NEQ}, token.NEQ: {token.EQL}, token.LAND: {token.LOR}, token.LOR: {token.LAND},
}

// mutantsOf finds every change of the files of a package.
func mutantsOf(pkg string) (out []mutant, err error) {
	files, err := filepath.Glob(filepath.Join(pkg, "*.go"))
	if err != nil {
		return nil, err
	}
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") {
			continue
		}
		text, err := os.ReadFile(file)
		if err != nil {
			return nil, err
		}
		set := token.NewFileSet()
		f, err := parser.ParseFile(set, file, text, 0)
		if err != nil {
			return nil, err
		}
		lines := strings.Split(string(text), "\n")
		add := func(pos token.Pos, length int, to string) {
			p := set.Position(pos)
			changed := lines[p.Line-1][:p.Column-1] + to + lines[p.Line-1][p.Column-1+length:]
			out = append(out, mutant{file: file, line: p.Line, at: p.Offset, end: p.Offset + length, with: to,
				from: strings.TrimSpace(lines[p.Line-1]), to: strings.TrimSpace(changed)})
		}
		constant := false
		ast.Inspect(f, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.GenDecl:
				constant = n.Tok == token.CONST
			case *ast.FuncDecl:
				constant = false
			case *ast.BinaryExpr:
				for _, to := range swaps[n.Op] {
					add(n.OpPos, len(n.Op.String()), to.String())
				}
			case *ast.BasicLit:
				if v, err := strconv.ParseFloat(n.Value, 64); constant && err == nil && v != 0 {
					to := strconv.FormatFloat(v*1.25, 'g', 6, 64)
					if n.Kind == token.INT {
						to = strconv.Itoa(int(v) + 1)
					}
					add(n.Pos(), len(n.Value), to)
				}
			}
			return true
		})
	}
	return out, nil
}

// try runs the quick tests on each change and returns those that passed.
func try(pkg string, list []mutant, jobs int) (survivors []mutant) {
	var mu sync.Mutex
	var wait sync.WaitGroup
	work := make(chan mutant)
	for range jobs {
		wait.Go(func() {
			for m := range work {
				if passes(pkg, m) {
					mu.Lock()
					survivors = append(survivors, m)
					mu.Unlock()
				}
			}
		})
	}
	for _, m := range list {
		work <- m
	}
	close(work)
	wait.Wait()
	sort.Slice(survivors, func(i, j int) bool { return survivors[i].key() < survivors[j].key() })
	return survivors
}

// passes tells whether the package's quick tests pass with a change. A change that does not compile counts as noticed,
// and so does one that makes the tests run for ever.
func passes(pkg string, m mutant) bool {
	dir, err := os.MkdirTemp("", "mutant")
	if err != nil {
		return false
	}
	defer func() { _ = os.RemoveAll(dir) }()
	text, err := os.ReadFile(m.file)
	if err != nil {
		return false
	}
	changed := append(append(append([]byte{}, text[:m.at]...), m.with...), text[m.end:]...)
	file, err := filepath.Abs(m.file)
	if err != nil {
		return false
	}
	over := filepath.Join(dir, "changed.go")
	table, err := json.Marshal(map[string]any{"Replace": map[string]string{file: over}})
	if err == nil {
		err = os.WriteFile(over, changed, 0o600)
	}
	if err == nil {
		err = os.WriteFile(filepath.Join(dir, "overlay.json"), table, 0o600)
	}
	if err != nil {
		return false
	}
	ctx, cancel := context.WithTimeout(context.Background(), 4*time.Minute)
	defer cancel()
	c := exec.CommandContext(ctx, "go", "test", "-short", "-failfast", "-vet=off", "-count=1", "-timeout", "3m",
		"-overlay", filepath.Join(dir, "overlay.json"), "./"+pkg)
	return c.Run() == nil
}

// reasons reads the survivors that are explained: lines "- `key`: why" of a document.
func reasons(file string) map[string]string {
	out := map[string]string{}
	text, err := os.ReadFile(file)
	if err != nil {
		return out
	}
	for _, l := range strings.Split(string(text), "\n") {
		if key, why, ok := strings.Cut(strings.TrimPrefix(l, "- "), " — "); ok && strings.HasPrefix(l, "- ") {
			out[key] = why
		}
	}
	return out
}
