// Package guide is what a new user reads: for each place a page that says how it works, and the words that the school
// uses. Its texts stand in messages.go.
package guide

import "strings"

// Page says how a place works.
type Page struct {
	Key      string // part of its address
	Title    string
	Place    string // as the navigation names it
	Students bool   // whether students have the place
	Sections []Section
}

// Section is a part of a page: paragraphs, or steps in their order.
type Section struct {
	Title string
	Text  []string
	Steps []string
}

// Term is a word of the school and what it means.
type Term struct {
	Key   string // its anchor on the page of words
	Word  string
	Means string
	Also  []string // other forms in which it stands on screens
}

// Of is the page of a place by its key.
func Of(key string) (Page, bool) {
	for _, p := range Pages {
		if p.Key == key {
			return p, true
		}
	}
	return Page{}, false
}

// KeyOf is the key of the page that explains a place of the navigation; it is empty where there is none.
func KeyOf(place string) string {
	for _, p := range Pages {
		if p.Place == place {
			return p.Key
		}
	}
	return ""
}

// Word is the term with a key or another form of it, whatever the case of its letters.
func Word(word string) (Term, bool) {
	word = strings.ToLower(word)
	for _, t := range Terms {
		if t.Key == word || strings.ToLower(t.Word) == word {
			return t, true
		}
		for _, a := range t.Also {
			if a == word {
				return t, true
			}
		}
	}
	return Term{}, false
}
