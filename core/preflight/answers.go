package preflight

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"maestrale/core/misread"
	"maestrale/core/pack"
)

// Answers are read by the kind of their item, and refused where they are of
// another kind, so that only what can be judged is kept.

// value is an answer that was read.
type value struct {
	// One of these is set, by the kind of the item.
	yes    bool
	number float64
	cells  []float64
	text   string
}

// read reads an answer of an item's kind.
func read(it Item, s Situation, text string) (value, error) {
	text = strings.TrimSpace(text)
	switch it.Ask {
	// Anything else is refused, so that a slip of the finger is no answer.
	case AskYes:
		if text != "yes" && text != "no" {
			return value{}, misread.At(0, "yes or no", "%q to %q", text, it.Title)
		}
		return value{yes: text == "yes"}, nil
	case AskNumber:
		// A comma is read as a point, as many people write it. A number that is
		// none fails the comparison too.
		v, err := strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
		if err != nil || !(v >= it.Low && v <= it.High) {
			return value{}, misread.At(0, fmt.Sprintf("%v to %v %s", it.Low, it.High, it.Unit), "%q to %q", text, it.Title)
		}
		return value{number: v}, nil
	case AskCells:
		cells, err := ReadCells(text)
		if err != nil {
			return value{}, err
		}
		// The pack that is named knows better than the type.
		want, chem := s.Type.Battery.Cells, s.Type.Battery.Chemistry
		if s.Pack != nil {
			want, chem = s.Pack.Cells, s.Pack.Chemistry
		}
		if len(cells) != want {
			return value{}, misread.At(0, fmt.Sprintf("%d cells, as 4.19 4.20 …", want), "%d volts", len(cells))
		}
		_, _, err = pack.CheckCells(chem, cells)
		return value{cells: cells}, err
	case AskChoice:
		if !slices.Contains(it.Choices, text) {
			return value{}, misread.At(0, strings.Join(it.Choices, " or "), "%q to %q", text, it.Title)
		}
		return value{text: text}, nil
	case AskText:
		if text == "" || len([]rune(text)) > 120 {
			return value{}, misread.At(0, "up to 120 letters", "the answer to %q is %d letters long", it.Title,
				len([]rune(text)))
		}
		return value{text: text}, nil
	}
	return value{}, nil
}

// ReadCells reads volts of cells, parted by spaces, semicolons or slashes, with a
// point or a comma; a comma beside a point parts them too.
func ReadCells(text string) ([]float64, error) {
	var out []float64
	for _, word := range strings.FieldsFunc(text, func(r rune) bool {
		return r == ' ' || r == ';' || r == '/' ||
			r == '\t' || r == '\n'
	}) {
		numbers := []string{strings.Replace(word, ",", ".", 1)}
		// With a point in it, a comma parts two numbers; alone it is the point.
		if strings.Contains(word, ".") {
			numbers = strings.Split(strings.Trim(word, ","), ",")
		}
		for _, w := range numbers {
			v, err := strconv.ParseFloat(w, 64)
			if err != nil || len(out) >= 24 {
				return nil, misread.At(0, "volts of up to 24 cells, as 4.19 4.20 4.18", "%.20q", w)
			}
			out = append(out, v)
		}
	}
	if len(out) == 0 {
		return nil, misread.At(0, "volts of each cell, as 4.19 4.20 4.18", "no volts")
	}
	return out, nil
}
