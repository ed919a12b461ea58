package core_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"strings"
	"testing"
)

// Every function and type of the rules, whether others can call it or not, says what it is: its comment begins with its
// name. A comment that begins with another name was left behind when the thing was renamed.
func TestEverythingSaysWhatItIs(t *testing.T) {
	seen := 0
	err := fs.WalkDir(os.DirFS("."), ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") {
			return err
		}
		files := token.NewFileSet()
		f, err := parser.ParseFile(files, name, nil, parser.ParseComments|parser.SkipObjectResolution)
		if err != nil {
			return err
		}
		for _, x := range declared(f) {
			seen++
			if at := files.Position(x.pos); !saysItsName(x.name, x.doc) {
				t.Errorf("%s:%d: %s: %q; expected a comment that begins with %s", name, at.Line, x.name,
					firstLine(x.doc), x.name)
			}
		}
		return nil
	})
	if err != nil || seen < 2000 {
		t.Errorf("%d were looked at, %v", seen, err)
	}
}

func TestAnotherNameIsFound(t *testing.T) {
	for text, ok := range map[string]bool{
		"// Lay makes the task.\n": true, "// A Lay is laid.\n": true, "// lay makes it.\n": false, "": false,
		"// Of plans a day.\n": false,
	} {
		f, err := parser.ParseFile(token.NewFileSet(), "x.go", "package x\n\n"+text+"func Lay() {}\n", parser.ParseComments)
		if err != nil {
			t.Fatal(err)
		}
		if x := declared(f)[0]; saysItsName(x.name, x.doc) != ok {
			t.Errorf("%q: %v", text, !ok)
		}
	}
}

// declaration is a function or a type with its comment; doc is nil where it has none.
type declaration struct {
	name string
	pos  token.Pos
	doc  *ast.CommentGroup
}

func declared(f *ast.File) (out []declaration) {
	for _, d := range f.Decls {
		switch x := d.(type) {
		case *ast.FuncDecl:
			out = append(out, declaration{x.Name.Name, x.Pos(), x.Doc})
		case *ast.GenDecl:
			for _, s := range x.Specs {
				if y, ok := s.(*ast.TypeSpec); ok {
					doc := y.Doc
					if doc == nil {
						doc = x.Doc
					}
					out = append(out, declaration{y.Name.Name, y.Pos(), doc})
				}
			}
		}
	}
	return out
}

func saysItsName(name string, doc *ast.CommentGroup) bool {
	words := strings.Fields(doc.Text())
	if len(words) > 1 && (words[0] == "A" || words[0] == "An" || words[0] == "The") {
		words = words[1:]
	}
	return len(words) > 0 && strings.Trim(words[0], ",.:") == name
}

func firstLine(doc *ast.CommentGroup) string {
	line, _, _ := strings.Cut(doc.Text(), "\n")
	return line
}
