package web

import (
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
)

var (
	cssComment = regexp.MustCompile(`(?s)/\*.*?\*/`)
	cssRule    = regexp.MustCompile(`[^{};]+\{`)
	cssClass   = regexp.MustCompile(`\.([a-zA-Z][\w-]*)`)
	htmlClass  = regexp.MustCompile(`\bclass=(?:"([^"]*)"|([\w-]+))`)
)

// classesOf are the classes that some stylesheets have a rule for.
func classesOf(t *testing.T, names ...string) map[string]bool {
	t.Helper()
	out := map[string]bool{}
	for _, name := range names {
		css, err := os.ReadFile(filepath.Join("../../ui/styles", name))
		if err != nil {
			t.Fatal(err)
		}
		for _, rule := range cssRule.FindAllString(cssComment.ReplaceAllString(string(css), ""), -1) {
			for _, m := range cssClass.FindAllStringSubmatch(rule, -1) {
				out[m[1]] = true
			}
		}
	}
	return out
}

// imported are the stylesheets that one brings in.
func imported(t *testing.T, name string) (names []string) {
	t.Helper()
	css, err := os.ReadFile(filepath.Join("../../ui/styles", name))
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range regexp.MustCompile(`@import "\./([^"]+)"`).FindAllStringSubmatch(string(css), -1) {
		names = append(names, m[1])
	}
	return names
}

// A page without the second stylesheet has nothing that only that one tells how to show.
func TestPagesHaveTheStylesThatTheyNeed(t *testing.T) {
	s, c := sampleSchool(t)
	everywhere := classesOf(t, imported(t, "app.css")...)
	tools := classesOf(t, imported(t, "tools.css")...)
	if len(tools) < 100 || len(everywhere) < 100 {
		t.Fatalf("%d and %d classes have rules", len(everywhere), len(tools))
	}
	maps.DeleteFunc(tools, func(name string, _ bool) bool { return everywhere[name] })
	with, without := 0, 0
	for route, path := range addresses(t, s, c) {
		body := c.get(path).body
		if !strings.Contains(body, "<html") {
			continue
		}
		if strings.Contains(body, "/static/tools.css") {
			with++
			continue
		}
		without++
		var lost []string
		for _, m := range htmlClass.FindAllStringSubmatch(body, -1) {
			for _, name := range strings.Fields(m[1] + m[2]) {
				if tools[name] && !slices.Contains(lost, name) {
					lost = append(lost, name)
				}
			}
		}
		if len(lost) > 0 {
			t.Errorf("%s shows %v, whose rules are in tools.css; move the rules, or give its place both stylesheets", route,
				lost)
		}
	}
	if with < 10 || without < 20 {
		t.Errorf("%d pages with the second stylesheet, %d without", with, without)
	}
}

// A page of which parts are kept up to date, or a field is echoed, loads what does that with itself.
func TestPagesHaveTheScriptThatTheyNeed(t *testing.T) {
	s, c := sampleSchool(t)
	with, without := 0, 0
	for route, path := range addresses(t, s, c) {
		body := c.get(path).body
		_, main, ok := strings.Cut(body, "<main")
		if !ok || !strings.Contains(body, `src="/static/app.js`) {
			continue
		}
		main, _, _ = strings.Cut(main, "</main>")
		needs, has := strings.Contains(main, " hx-"), strings.Contains(body, `<script src="/static/live.js`)
		if needs && !has {
			t.Errorf("%s has parts that are kept up to date, and waits for the script that does it", route)
		}
		if with++; !has {
			with, without = with-1, without+1
		}
	}
	if with < 8 || without < 15 {
		t.Errorf("%d pages load it, %d do not", with, without)
	}
}
