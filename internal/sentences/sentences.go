// Package sentences finds what people read in the program: the messages of its tables, the text of its templates, the
// words of its catalogues, and sentences in the code that stand in no table yet.
package sentences

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"

	"golang.org/x/net/html"
)

// Found is a text, and where it stands.
type Found struct {
	File string // from the root
	Line int
	Text string
}

func (f Found) String() string { return fmt.Sprintf("%s:%d: %s", f.File, f.Line, f.Text) }

// Messages are the texts of the message tables: every text in a file called messages.go.
func Messages(root string) ([]Found, error) {
	return inGo(root, func(path string) bool { return filepath.Base(path) == "messages.go" },
		func(string) bool { return true })
}

// Loose are the sentences in the code of a folder that stand in no table: texts of three words and more which are
// neither an error that a program reports nor a statement for the database.
func Loose(root, folder string) ([]Found, error) {
	all, err := inGo(filepath.Join(root, folder), func(path string) bool {
		return filepath.Base(path) != "messages.go" && !strings.HasSuffix(path, "_test.go")
	}, sentence)
	for i := range all {
		all[i].File = filepath.Join(folder, all[i].File)
	}
	return all, err
}

var (
	word      = regexp.MustCompile(`[A-Za-z]{2,}`)
	statement = regexp.MustCompile(`\b(SELECT|INSERT|UPDATE|DELETE|FROM|WHERE|ORDER BY|CREATE)\b|[<>{}]|://|` +
		`\bIS NOT NULL\b|^(SET|DROP) |\b[a-z]\.[a-z_]+ [=+] |` +
		`charset=|^(retry|event): |-src |max-age|M%s |filename=|^\w+(,\s+\w+){3,}$|\$\d|^-//`)
)

// sentence tells whether a text is one that people read: three words and more with spaces between them.
func sentence(t string) bool {
	return strings.Contains(t, " ") && len(word.FindAllString(t, -1)) >= 3 && !statement.MatchString(t)
}

// inGo collects the texts of the Go files of a folder.
func inGo(root string, file func(string) bool, text func(string) bool) (out []Found, err error) {
	set := token.NewFileSet()
	err = filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || filepath.Ext(path) != ".go" || !file(path) {
			return err
		}
		parsed, err := parser.ParseFile(set, path, nil, 0)
		if err != nil {
			return fmt.Errorf("read %s: %w", path, err)
		}
		name, err := filepath.Rel(root, path)
		if err != nil {
			return fmt.Errorf("name %s: %w", path, err)
		}
		ast.Inspect(parsed, func(n ast.Node) bool {
			if call, ok := n.(*ast.CallExpr); ok && isError(call) {
				return false
			}
			if f, ok := n.(*ast.Field); ok && f.Tag != nil {
				f.Tag = nil
			}
			if _, ok := n.(*ast.ImportSpec); ok {
				return false
			}
			lit, ok := n.(*ast.BasicLit)
			if !ok || lit.Kind != token.STRING {
				return true
			}
			t, err := strconv.Unquote(lit.Value)
			if err == nil && text(t) {
				out = append(out, Found{name, set.Position(lit.Pos()).Line, t})
			}
			return true
		})
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("find the texts of the code: %w", err)
	}
	return out, nil
}

// isError tells whether a call makes an error, which a program reports, or stops the program.
func isError(call *ast.CallExpr) bool {
	switch f := call.Fun.(type) {
	case *ast.Ident:
		return f.Name == "panic"
	case *ast.SelectorExpr:
		of, _ := f.X.(*ast.Ident)
		return of != nil && (of.Name == "fmt" && f.Sel.Name == "Errorf" || of.Name == "errors" && f.Sel.Name == "New" ||
			of.Name == "misread" || of.Name == "regexp")
	}
	return false
}

// action is what a template puts in.
var action = regexp.MustCompile(`(?s)\{\{.*?\}\}`)

// Templates are the texts of the templates of a folder, with … where something is put in.
func Templates(root, folder string) (out []Found, err error) {
	files, err := filepath.Glob(filepath.Join(root, folder, "*", "*.html"))
	if err != nil {
		return nil, fmt.Errorf("find the templates: %w", err)
	}
	parts, err := filepath.Glob(filepath.Join(root, folder, "*", "parts", "*.html"))
	if err != nil {
		return nil, fmt.Errorf("find the parts of templates: %w", err)
	}
	for _, path := range append(files, parts...) {
		data, err := os.ReadFile(path)
		if err != nil {
			return nil, fmt.Errorf("read a template: %w", err)
		}
		name, err := filepath.Rel(root, path)
		if err != nil {
			return nil, fmt.Errorf("name %s: %w", path, err)
		}
		out = append(out, inTemplate(name, string(data))...)
	}
	return out, nil
}

// inTemplate collects the texts of a template: what stands between tags, and labels for who does not see them.
func inTemplate(name, source string) (out []Found) {
	plain := action.ReplaceAllStringFunc(source, func(a string) string {
		return "…" + strings.Repeat("\n", strings.Count(a, "\n"))
	})
	z, line := html.NewTokenizer(strings.NewReader(plain)), 1
	for {
		kind := z.Next()
		if kind == html.ErrorToken {
			if z.Err() != io.EOF {
				out = append(out, Found{name, line, "this cannot be read: " + z.Err().Error()})
			}
			return out
		}
		raw, tok := string(z.Raw()), z.Token()
		texts := []string{tok.Data}
		if kind != html.TextToken {
			texts = nil
			for _, a := range tok.Attr {
				if a.Key == "aria-label" || a.Key == "placeholder" || a.Key == "title" {
					texts = append(texts, a.Val)
				}
			}
		}
		for _, t := range texts {
			if t = strings.Join(strings.Fields(t), " "); word.MatchString(t) {
				out = append(out, Found{name, line, t})
			}
		}
		line += strings.Count(raw, "\n")
	}
}
