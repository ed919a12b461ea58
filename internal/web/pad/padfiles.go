package pad

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
)

// padFiles are what a pad needs without a network, beside its page.
var padFiles = []string{"app.css", "tools.css", "theme.js", "pad.js", "judge.js", "pad.wasm", "wasm_exec.js",
	"icon.svg"}

// ServiceWorker is the script that keeps the pad on the device: what to keep stands
// before it, each file under its own sum, so that a new version brings a new worker.
func (s Pages) ServiceWorker(c *gin.Context) {
	code, err := s.File("sw.js")
	if err != nil {
		s.Failed(c, fmt.Errorf("the worker is missing; run make build: %w", err))
		return
	}
	keep := []string{"/pad", "/pad.webmanifest"}
	for _, face := range []string{"text", "text-more", "wide", "wide-more", "narrow", "narrow-more"} {
		keep = append(keep, "/static/archivo-3-"+face+".woff2")
	}
	sums := make([]string, 0, len(padFiles))
	for _, name := range padFiles {
		keep = append(keep, "/static/"+name+"?v="+s.Sum(name))
		sums = append(sums, s.Sum(name))
	}
	slices.Sort(sums)
	list, err := json.Marshal(keep)
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Header("Cache-Control", "no-cache")
	c.Data(http.StatusOK, "text/javascript; charset=utf-8", fmt.Appendf(nil, "self.KEEP = %s;\nself.VERSION = %q;\n%s",
		list, strings.Join(sums, "-"), code))
}

// Manifest makes the pad installable.
func (s Pages) Manifest(c *gin.Context) {
	data, err := json.Marshal(map[string]any{
		"name": msgMaestraleMarkingPad, "short_name": "Marking pad", "start_url": "/pad", "scope": "/pad",
		"display": "standalone", "background_color": "#e6eae3", "theme_color": "#14231e",
		"icons": []map[string]string{{"src": "/static/icon.svg?v=" + s.Sum("icon.svg"), "sizes": "any",
			"type": "image/svg+xml"}},
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Data(http.StatusOK, "application/manifest+json", data)
}
