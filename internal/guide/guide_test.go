package guide

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/core/readiness"
)

// Every page says what its place is for in whole sentences, and every word means something that is not itself.
func TestPagesAndWordsAreWhole(t *testing.T) {
	sentence := regexp.MustCompile(`^[A-Z].*\.$`)
	keys := map[string]bool{}
	for _, p := range Pages {
		if keys[p.Key] || KeyOf(p.Place) != p.Key || p.Sections[0].Title != "What it is for" {
			t.Errorf("%s: %q, %q", p.Key, KeyOf(p.Place), p.Sections[0].Title)
		}
		keys[p.Key] = true
		for _, s := range p.Sections {
			for _, text := range slices.Concat(s.Text, s.Steps) {
				if !sentence.MatchString(text) {
					t.Errorf("%s: %q is no sentence", p.Key, text)
				}
			}
		}
	}
	if !slices.IsSortedFunc(Terms, func(a, b Term) int {
		return strings.Compare(strings.ToLower(a.Word), strings.ToLower(b.Word))
	}) {
		t.Error("the words are not in the order of the alphabet")
	}
	seen := map[string]string{}
	for _, term := range Terms {
		if !sentence.MatchString(term.Means) {
			t.Errorf("%s: %q is no sentence", term.Key, term.Means)
		}
		for _, form := range append([]string{term.Key, strings.ToLower(term.Word)}, term.Also...) {
			if other := seen[form]; other != "" && other != term.Key {
				t.Errorf("%q means %s and %s", form, other, term.Key)
			}
			seen[form] = term.Key
			if got, ok := Word(strings.ToUpper(form)); !ok || got.Key != term.Key {
				t.Errorf("%q is not found", form)
			}
		}
	}
	if _, ok := Word("gyroscope"); ok {
		t.Error("a word that is in no list is found")
	}
	if _, ok := Of("moon"); ok || KeyOf("Moon") != "" {
		t.Error("a place that is none is explained")
	}
}

// What the pages say of the rules is what the rules are.
func TestPagesSayTheRulesAsTheyAre(t *testing.T) {
	p, _ := Of("students")
	var all string
	for _, s := range p.Sections {
		all += strings.Join(s.Text, " ")
	}
	noon := time.Date(2026, 3, 2, 12, 0, 0, 0, time.UTC)
	days := func(dates int) int { return int(readiness.Until(noon, dates, time.UTC).Sub(noon).Hours() / 24) }
	for _, want := range []string{fmt.Sprintf("Currency is %d days with passes on two dates", days(2)),
		fmt.Sprintf("up to %d days", days(20))} {
		if !strings.Contains(all, want) {
			t.Errorf("the page on students does not say %q", want)
		}
	}
	if days(3) != 2*days(2) {
		t.Errorf("a further date makes %d days of %d; the page says that it doubles them", days(3), days(2))
	}
}
