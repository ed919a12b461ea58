// Package core_test watches what the rules of the job may lean on.
package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// The rules import the standard library, each other, and no more than these;
// they read no clock and no files of their own.
func TestCoreLeansOnNothingElse(t *testing.T) {
	allowed := []string{"go.yaml.in/yaml/v3", "gonum.org/v1/gonum", "github.com/paulmach/orb", "github.com/twpayne/go-kml"}
	banned := []string{"net/http", "database/sql", "os", "os/exec", "html/template", "log/slog"}
	files := 0
	err := fs.WalkDir(os.DirFS("."), ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") {
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, imp := range f.Imports {
			path, err := strconv.Unquote(imp.Path.Value)
			if err != nil {
				return err
			}
			outside := strings.Contains(strings.Split(path, "/")[0], ".")
			ok := slices.ContainsFunc(allowed, func(a string) bool { return path == a || strings.HasPrefix(path, a+"/") })
			if (outside && !ok) || slices.Contains(banned, path) || (strings.HasPrefix(path, "maestrale/") &&
				!strings.HasPrefix(path, "maestrale/core/")) {
				t.Errorf("%s imports %s", name, path)
			}
		}
		data, err := os.ReadFile(name)
		if strings.Contains(string(data), "time.Now(") {
			t.Errorf("%s reads the clock", name)
		}
		return err
	})
	if err != nil || files < 20 {
		t.Errorf("%d files were looked at, %v", files, err)
	}
}
