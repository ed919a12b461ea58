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
	"go/token"
	"go/types"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"sync"
	"time"

	"golang.org/x/tools/go/packages"
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

// swaps are what each operator becomes between whole numbers and conditions.
var swaps = map[token.Token]token.Token{
	token.LSS: token.LEQ, token.LEQ: token.LSS, token.GTR: token.GEQ, token.GEQ: token.GTR,
	token.EQL: token.NEQ, token.NEQ: token.EQL, token.LAND: token.LOR, token.LOR: token.LAND,
}

// opposites are what each comparison becomes between measured values: there "less" and "less or equal" differ only for
// a value that is exactly the limit, which no measurement is, while a comparison the wrong way round must be noticed.
var opposites = map[token.Token]token.Token{
	token.LSS: token.GEQ, token.LEQ: token.GTR, token.GTR: token.LEQ, token.GEQ: token.LSS,
	token.EQL: token.NEQ, token.NEQ: token.EQL,
}

// mutantsOf finds every change of the files of a package, which is named by its folder: an operator that becomes
// another, and a threshold (a constant, or a number in a comparison of measured values) that becomes a quarter more.
func mutantsOf(pkg string) (out []mutant, err error) {
	const mode = packages.NeedName | packages.NeedFiles | packages.NeedSyntax | packages.NeedTypes |
		packages.NeedTypesInfo | packages.NeedImports | packages.NeedDeps
	loaded, err := packages.Load(&packages.Config{Mode: mode, Dir: pkg}, ".")
	if err != nil {
		return nil, err
	}
	for _, p := range loaded {
		if len(p.Errors) > 0 {
			return nil, p.Errors[0]
		}
		for _, f := range p.Syntax {
			name := p.Fset.Position(f.Pos()).Filename
			text, err := os.ReadFile(name)
			if err != nil {
				return nil, err
			}
			file := finder{set: p.Fset, info: p.TypesInfo, name: filepath.Join(pkg, filepath.Base(name)),
				lines: strings.Split(string(text), "\n")}
			ast.Inspect(f, file.look)
			out = append(out, file.out...)
		}
	}
	return out, nil
}

// finder collects the changes of one file.
type finder struct {
	set      *token.FileSet
	info     *types.Info
	name     string
	lines    []string
	constant bool // inside a declaration of constants
	out      []mutant
}

// look adds the changes of one node; it is given to ast.Inspect.
func (f *finder) look(n ast.Node) bool {
	switch n := n.(type) {
	case *ast.GenDecl:
		f.constant = n.Tok == token.CONST
	case *ast.FuncDecl:
		f.constant = false
	case *ast.BinaryExpr:
		to := swaps[n.Op]
		if opposite, compares := opposites[n.Op]; compares && f.measured(n.X) && f.measured(n.Y) {
			to = opposite
			f.threshold(n.X)
			f.threshold(n.Y)
		}
		if to != token.ILLEGAL {
			f.add(n.OpPos, len(n.Op.String()), to.String())
		}
	case *ast.BasicLit:
		if f.constant {
			f.more(n)
		}
	}
	return true
}

// measured tells whether an expression is a fraction, as what is measured is.
func (f *finder) measured(e ast.Expr) bool {
	kind, basic := f.info.TypeOf(e).Underlying().(*types.Basic)
	return basic && kind.Info()&types.IsFloat != 0
}

// threshold adds the numbers of one side of a comparison, as it stands or as a factor.
func (f *finder) threshold(e ast.Expr) {
	switch e := e.(type) {
	case *ast.BasicLit:
		f.more(e)
	case *ast.BinaryExpr:
		f.threshold(e.X)
		f.threshold(e.Y)
	}
}

// more adds a number that becomes a quarter more, a whole one that becomes the next. Numbers under a thousandth are
// tolerances of the arithmetic and stay.
func (f *finder) more(n *ast.BasicLit) {
	v, err := strconv.ParseFloat(n.Value, 64)
	if err != nil || v < 1e-3 {
		return
	}
	to := strconv.FormatFloat(v*1.25, 'g', 6, 64)
	if kind, basic := f.info.TypeOf(n).(*types.Basic); n.Kind == token.INT && basic && kind.Info()&types.IsFloat == 0 {
		to = strconv.Itoa(int(v) + 1)
	}
	f.add(n.Pos(), len(n.Value), to)
}

// add adds a change of what is length bytes long at a place.
func (f *finder) add(pos token.Pos, length int, to string) {
	p := f.set.Position(pos)
	line := f.lines[p.Line-1]
	changed := line[:p.Column-1] + to + line[p.Column-1+length:]
	f.out = append(f.out, mutant{file: f.name, line: p.Line, at: p.Offset, end: p.Offset + length, with: to,
		from: strings.TrimSpace(line), to: strings.TrimSpace(changed)})
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
