package frame

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"html/template"
	"io/fs"
	"mime"
	"net/http"
	"os"
	"path"
	"regexp"
	"slices"
	"strings"
	"sync"

	"maestrale/ui"

	"github.com/gin-gonic/gin"
)

// interfaceFiles are the templates and the files that pages load. They are built into the program; while the program
// is being worked on they are read from disk at every request instead.
type interfaceFiles struct {
	fs.FS
	disk  bool
	sums  map[string]string // of the files in dist, by name
	pages map[string]*template.Template
}

// builtIn are the files that are built into the program; they are read once.
var builtIn = sync.OnceValues(func() (*interfaceFiles, error) { return readInterface(ui.Files, false) })

// openInterface opens the files that are built in, or those of a folder that has templates/ and dist/.
func openInterface(folder string) (*interfaceFiles, error) {
	if folder == "" {
		return builtIn()
	}
	return readInterface(os.DirFS(folder), true)
}

func readInterface(files fs.FS, disk bool) (*interfaceFiles, error) {
	f := &interfaceFiles{FS: files, disk: disk}
	var err error
	if f.sums, err = f.sumAll(); err != nil {
		return nil, err
	}
	f.pages, err = f.parse()
	return f, err
}

// now is the interface as it is on disk at this moment, or as it is built in.
func (f *interfaceFiles) now() (*interfaceFiles, error) {
	if !f.disk {
		return f, nil
	}
	next := &interfaceFiles{FS: f.FS, disk: true}
	var err error
	if next.sums, err = next.sumAll(); err != nil {
		return nil, err
	}
	next.pages, err = next.parse()
	return next, err
}

// sumAll names the version of each file in dist: a part of its SHA-256 or, on disk, when it was last changed.
func (f *interfaceFiles) sumAll() (map[string]string, error) {
	sums := map[string]string{}
	err := fs.WalkDir(f, "dist", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		short := strings.TrimPrefix(name, "dist/")
		if f.disk {
			info, err := d.Info()
			if err == nil {
				sums[short] = fmt.Sprintf("%x", info.ModTime().UnixNano())
			}
			return err
		}
		data, err := fs.ReadFile(f, name)
		sum := sha256.Sum256(data)
		sums[short] = hex.EncodeToString(sum[:6])
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("the interface files: %w", err)
	}
	return sums, nil
}

// address is where a file of dist is served, with its version, so that a browser never keeps a stale one.
func (f *interfaceFiles) address(name string) (string, error) {
	sum, ok := f.sums[name]
	if !ok {
		return "", fmt.Errorf("interface file %q is missing; run make build", name)
	}
	return "/static/" + name + "?v=" + sum, nil
}

// toolPlaces are the places whose pages need the second stylesheet, tools.css.
var toolPlaces = []string{"pad", "fly", "course", "fleet"}

// isLive tells whether something of a template is kept up to date, or is a field that is echoed (spoken).
func isLive(source []byte) bool {
	return bytes.Contains(source, []byte("hx-")) || bytes.Contains(source, []byte("data-measure"))
}

var defines = regexp.MustCompile(`{{define "([^"]+)"`)

// liveParts are the names of the parts that are live, but for those of the frame, which every page has.
func (f *interfaceFiles) liveParts() (names []string, err error) {
	files, err := fs.Glob(f, "templates/*/parts/*.html")
	if err != nil {
		return nil, fmt.Errorf("templates: %w", err)
	}
	for _, name := range files {
		source, err := fs.ReadFile(f, name)
		if err != nil {
			return nil, fmt.Errorf("templates: %w", err)
		}
		if !isLive(source) || strings.HasPrefix(name, "templates/frame/") {
			continue
		}
		for _, m := range defines.FindAllSubmatch(source, -1) {
			names = append(names, string(m[1]))
		}
	}
	return names, nil
}

// parse reads the templates: one page for each templates/PLACE/NAME.html, all with the parts of every place.
func (f *interfaceFiles) parse() (map[string]*template.Template, error) {
	names, err := fs.Glob(f, "templates/*/*.html")
	if err != nil {
		return nil, fmt.Errorf("templates: %w", err)
	}
	base, err := template.New("").Funcs(funcs).Funcs(template.FuncMap{"static": f.address,
		"tools": func() bool { return false }, "live": func() bool { return false }}).
		ParseFS(f, "templates/*/parts/*.html")
	if err != nil {
		return nil, fmt.Errorf("templates: %w", err)
	}
	parts, err := f.liveParts()
	if err != nil {
		return nil, err
	}
	pages := map[string]*template.Template{}
	for _, name := range names {
		source, err := fs.ReadFile(f, name)
		if err != nil {
			return nil, fmt.Errorf("templates: %w", err)
		}
		tools := slices.Contains(toolPlaces, path.Base(path.Dir(name)))
		live := isLive(source) || slices.ContainsFunc(parts, func(part string) bool {
			return bytes.Contains(source, []byte(`{{template "`+part+`"`))
		})
		t, err := template.Must(base.Clone()).Funcs(template.FuncMap{"tools": func() bool { return tools },
			"live": func() bool { return live }}).ParseFS(f, name)
		if err != nil {
			return nil, fmt.Errorf("templates: %w", err)
		}
		pages[strings.TrimSuffix(path.Base(name), ".html")] = t
	}
	return pages, nil
}

// Sum is the version of a file that pages load; it is empty for a file that is missing.
func (s *Frame) Sum(name string) string {
	f, err := s.files.now()
	if err != nil {
		return ""
	}
	return f.sums[name]
}

// squeezed answers with a file as it was squeezed when the program was built, where there is one and the browser takes
// it. Files that are served from disk may be newer than what was squeezed.
func (s *Frame) squeezed(c *gin.Context, name string) bool {
	if s.files.disk || !strings.Contains(c.GetHeader("Accept-Encoding"), "br") || c.GetHeader("Range") != "" {
		return false
	}
	data, err := s.File(name + ".br")
	if err != nil {
		return false
	}
	c.Header("Content-Encoding", "br")
	c.Data(http.StatusOK, mime.TypeByExtension(path.Ext(name)), data)
	return true
}

// File reads a file that pages load.
func (s *Frame) File(name string) ([]byte, error) { return fs.ReadFile(s.files, "dist/"+name) }
