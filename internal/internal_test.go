// Package internal_test watches in which direction the packages below the screens and the screens lean.
package internal_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode/utf8"
)

// layers are the packages of internal, the lowest first. A package imports only packages of lower layers.
var layers = [][]string{
	{"authority", "device", "draw", "golden", "guide", "live", "localpg", "password", "refusal", "sealed", "sheet",
		"sheet/sheettest", "standin",
		"words", "sentences", "demo/pilot"},
	{"reach", "store", "demo/weeks"},
	{"backup", "doctor", "storetest", "catalogue", "knowledge", "learning", "charger", "windmeter"},
	{"attempt", "fieldday"},
	{"exchange", "demo", "logfolder", "bigschool"},
	{"web/frame"},
	{"web/today", "web/pad", "web/students", "web/fly", "web/course", "web/fleet", "web/programmes", "web/records",
		"web/school"},
	{"web"},
}

// screens are the packages that may know gin and the templates.
func screens(pkg string) bool { return pkg == "web" || strings.HasPrefix(pkg, "web/") }

func TestPackagesLeanOneWay(t *testing.T) {
	layer := map[string]int{}
	for i, l := range layers {
		for _, pkg := range l {
			layer[pkg] = i
		}
	}
	seen := map[string]bool{}
	err := fs.WalkDir(os.DirFS("."), ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") {
			return err
		}
		pkg := path.Dir(name)
		at, known := layer[pkg]
		if !known {
			t.Errorf("%s is in no layer", pkg)
			return nil
		}
		seen[pkg] = true
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, imp := range f.Imports {
			to, err := strconv.Unquote(imp.Path.Value)
			if err != nil {
				return err
			}
			if to == "github.com/gin-gonic/gin" && !screens(pkg) {
				t.Errorf("%s imports gin", name)
			}
			if to == "maestrale/ui" && pkg != "web/frame" {
				t.Errorf("%s imports the templates", name)
			}
			below, own := strings.CutPrefix(to, "maestrale/internal/")
			if own && layer[below] >= at {
				t.Errorf("%s imports %s, which is not below it", name, below)
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	for pkg := range layer {
		if !seen[pkg] {
			t.Errorf("there is no %s", pkg)
		}
	}
}

// Templates and scripts lie in folders with the names of the places.
func TestFoldersOfTheInterfaceAreThePlaces(t *testing.T) {
	places := slices.Clone(layers[6])
	places = append(places, "web/frame")
	for _, folder := range []string{"../ui/templates", "../ui/scripts"} {
		list, err := os.ReadDir(folder)
		if err != nil {
			t.Fatal(err)
		}
		for _, d := range list {
			if d.IsDir() && !slices.Contains(places, "web/"+d.Name()) {
				t.Errorf("%s/%s is no place", folder, d.Name())
			}
		}
	}
}

// An attempt is stored by internal/attempt alone.
func TestAttemptsAreStoredInOnePlace(t *testing.T) {
	err := fs.WalkDir(os.DirFS(".."), ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") {
			return err
		}
		data, err := os.ReadFile("../" + name)
		if strings.Contains(string(data), "NewAttempt{") && path.Dir(name) != "internal/attempt" {
			t.Errorf("%s builds an attempt of its own", name)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// longFunctions may have more than 60 lines, since they are tables.
var longFunctions = map[string]bool{"internal/web/routes.go: table": true}

// No line of the code has more than 120 characters, and no function outside tests more than 60 lines: who reads it sees
// the whole of it at once.
func TestLinesAndFunctionsAreShort(t *testing.T) {
	for _, root := range []string{"core", "internal", "cmd"} {
		err := filepath.WalkDir(filepath.Join("..", root), func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") {
				return err
			}
			text, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			name := filepath.ToSlash(strings.TrimPrefix(path, ".."+string(filepath.Separator)))
			for i, line := range strings.Split(string(text), "\n") {
				if n := utf8.RuneCountInString(line); n > 120 {
					t.Errorf("%s:%d has %d characters, 120 at most", name, i+1, n)
				}
			}
			if strings.HasSuffix(path, "_test.go") {
				return nil
			}
			set := token.NewFileSet()
			file, err := parser.ParseFile(set, path, text, 0)
			if err != nil {
				return err
			}
			for _, decl := range file.Decls {
				f, ok := decl.(*ast.FuncDecl)
				if !ok || longFunctions[name+": "+f.Name.Name] {
					continue
				}
				if n := set.Position(f.End()).Line - set.Position(f.Pos()).Line; n > 60 {
					t.Errorf("%s: %s has %d lines, 60 at most", name, f.Name.Name, n)
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
}
