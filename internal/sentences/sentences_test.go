package sentences

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

var update = flag.Bool("update", false, "write how many sentences stand in no table")

const root = "../.."

// loose counts the sentences of each package that stand in no table.
func loose(t *testing.T) map[string]int {
	t.Helper()
	count := map[string]int{}
	for _, folder := range []string{"core", "internal"} {
		list, err := Loose(root, folder)
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range list {
			count[filepath.ToSlash(filepath.Dir(f.File))]++
		}
	}
	return count
}

// What people read moves into message tables, package by package, and no new sentence stands outside: the counts in
// testdata/loose.txt may only fall. Run the test with -update once they have.
func TestNoNewSentenceStandsOutsideTheTables(t *testing.T) {
	const file = "testdata/loose.txt"
	now := loose(t)
	if *update {
		var lines []string
		for dir, n := range now {
			lines = append(lines, fmt.Sprintf("%s %d", dir, n))
		}
		slices.Sort(lines)
		if err := os.WriteFile(file, []byte(strings.Join(lines, "\n")+"\n"), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	may := map[string]int{}
	for _, line := range strings.Split(strings.TrimSpace(string(data)), "\n") {
		var dir string
		var n int
		if _, err := fmt.Sscan(line, &dir, &n); err != nil {
			t.Fatalf("%q: %v", line, err)
		}
		may[dir] = n
	}
	for dir, n := range now {
		if n > may[dir] {
			t.Errorf("%s has %d sentences in no table, and may have %d: put new ones into its messages.go", dir, n, may[dir])
		}
	}
}

func TestWhatIsFound(t *testing.T) {
	dir := t.TempDir()
	write := func(name, text string) {
		t.Helper()
		path := filepath.Join(dir, name)
		if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	write("a/messages.go", "package a\n\nconst m = \"Nobody is here.\"\n")
	write("a/a.go", "package a\n\nimport \"fmt\"\n\nvar s = \"two words\"\nvar r = \"a sentence that people read\"\n"+
		"var q = `SELECT a FROM b WHERE c`\nvar e = fmt.Errorf(\"an error of the program\")\n")
	write("a/a_test.go", "package a\n\nvar t = \"a sentence of a test\"\n")
	write("ui/today/x.html",
		"{{define \"main\"}}\n<p aria-label=\"Who flies\">Nobody {{if\n .X}}is{{end}} here</p>\n<b>—</b>{{end}}")
	tables, err := Messages(dir)
	if err != nil || len(tables) != 1 || tables[0].String() != "a/messages.go:3: Nobody is here." {
		t.Errorf("%v %v", tables, err)
	}
	list, err := Loose(dir, "a")
	if err != nil || len(list) != 1 || list[0].String() != "a/a.go:6: a sentence that people read" {
		t.Errorf("%v %v", list, err)
	}
	texts, err := Templates(dir, "ui")
	if err != nil || len(texts) != 2 || texts[0].Text != "Who flies" || texts[1].Text != "Nobody … is… here" ||
		texts[1].Line != 2 {
		t.Errorf("%v %v", texts, err)
	}
}
