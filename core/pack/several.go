package pack

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"maestrale/core/craft"
	"maestrale/core/misread"
)

// MostPacks is how many packs are added at once.
const MostPacks = 200

var (
	countWord    = regexp.MustCompile(`^\s*(\d+)\s*[×x*]\s*`)
	cellsWord    = regexp.MustCompile(`(?i)\b(\d{1,2})\s?(?:s|cells?)\b`)
	capacityWord = regexp.MustCompile(`(?i)\b(\d+(?:[.,]\d+)?)\s?(mah|ah)\b`)
	chemWord     = regexp.MustCompile(`(?i)\b(lipo|lihv|li-?ion)\b`)
	rangeWords   = regexp.MustCompile(`^(.*?)(\d+)\s*(?:to|–|—|-|…|\.\.\.?)\s*(.*?)(\d+)$`)
	letterRange  = regexp.MustCompile(`^([A-Z])\s*(?:to|–|—|-|…|\.\.\.?)\s*([A-Z])$`)
)

// ReadSeveral reads packs as people write them on a list: "6 × 4S 3300 mAh, P1
// to P6", "P1, P2, P5", or "2 × 4S 5000 mAh LiHV, A and B". Cells, capacity and
// chemistry may be left out: then they are those of the type. The names come
// last; a number before × must be the number of names.
func ReadSeveral(text string, t craft.Type) ([]Record, error) {
	r := Record{Type: t.Key, Chemistry: t.Battery.Chemistry, Cells: t.Battery.Cells, CapacityMah: t.Battery.CapacityMah,
		MassKg: t.Battery.MassKg}
	// count is the number before ×; −1 where there is none.
	rest, count := strings.TrimSpace(text), -1
	if m := countWord.FindStringSubmatch(rest); m != nil {
		count, _ = strconv.Atoi(m[1])
		rest = rest[len(m[0]):]
	}
	cut := func(re *regexp.Regexp) []string {
		m := re.FindStringSubmatch(rest)
		if m != nil {
			at := re.FindStringIndex(rest)
			rest = strings.TrimSpace(rest[:at[0]] + " " + rest[at[1]:])
		}
		return m
	}
	// What is measured stands before the names, in any order.
	if m := cut(capacityWord); m != nil {
		v, err := strconv.ParseFloat(strings.Replace(m[1], ",", ".", 1), 64)
		if err != nil {
			return nil, misread.At(0, "a capacity like 3300 mAh", "%.40q", m[0])
		}
		if strings.EqualFold(m[2], "ah") {
			v *= 1000
		}
		r.CapacityMah = v
		// A larger pack of the same kind is heavier in proportion.
		if t.Battery.CapacityMah > 0 {
			r.MassKg = t.Battery.MassKg * v / t.Battery.CapacityMah
		}
		if m := cut(cellsWord); m != nil {
			r.Cells, _ = strconv.Atoi(m[1])
		}
		if m := cut(chemWord); m != nil {
			r.Chemistry = chemistryOf(m[1])
		}
	}
	names, err := readNames(strings.Trim(rest, " ,;:"), count)
	if err != nil {
		return nil, err
	}
	out := make([]Record, 0, len(names))
	for _, n := range names {
		r.Name = n
		// One that does not fit refuses all of them: nothing half-done is kept.
		if err := r.Check(t); err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, nil
}

// chemistryOf is the chemistry that a word of a charger names; the word itself
// where it is none that is known.
func chemistryOf(word string) craft.Chemistry {
	switch w := strings.ToLower(word); w {
	case "liion", "li-ion":
		return craft.LiIon
	default:
		return craft.Chemistry(w)
	}
}

// readNames reads "P1 to P6", "A to C", or names with commas or "and" between them.
func readNames(text string, count int) ([]string, error) {
	var names []string
	switch {
	case text == "":
		return nil, misread.At(0, "names behind a comma, as in 6 × 4S 3300 mAh, P1 to P6", "the packs have no names")
	case rangeWords.MatchString(text):
		m := rangeWords.FindStringSubmatch(text)
		first, err1 := strconv.Atoi(m[2])
		last, err2 := strconv.Atoi(m[4])
		// "P1 to P6" and "P1 to 6" are the same; "P1 to Q6" is none.
		before, again := strings.TrimSpace(m[1]), strings.TrimSpace(m[3])
		if err1 != nil || err2 != nil || last < first || again != "" && again != before || strings.Contains(before, ",") {
			return nil, misread.At(0, "a row like P1 to P6", "%.60q", text)
		}
		if last-first >= MostPacks {
			return nil, misread.At(0, fmt.Sprintf("%d packs at most", MostPacks), "%.60q", text)
		}
		for i := first; i <= last; i++ {
			// "P01 to P12" keeps its zeros.
			names = append(names, m[1]+fmt.Sprintf("%0*d", len(m[2])*boolInt(m[2][0] == '0'), i))
		}
	case letterRange.MatchString(text):
		m := letterRange.FindStringSubmatch(text)
		for c := m[1][0]; c <= m[2][0]; c++ {
			names = append(names, string(c))
		}
	default:
		for _, n := range strings.Split(strings.ReplaceAll(text, " and ", ","), ",") {
			if n = strings.TrimSpace(n); n != "" {
				names = append(names, n)
			}
		}
	}
	seen := map[string]bool{}
	for _, n := range names {
		if seen[n] {
			return nil, misread.At(0, "every name once: it stands on the label", "the name %q twice", n)
		}
		seen[n] = true
	}
	switch {
	case len(names) == 0 || len(names) > MostPacks:
		return nil, misread.At(0, fmt.Sprintf("1 to %d packs", MostPacks), "%d names", len(names))
	case count >= 0 && count != len(names):
		return nil, misread.At(0, fmt.Sprintf("%d names", count), "%d names: %s to %s", len(names), names[0],
			names[len(names)-1])
	}
	return names, nil
}

// boolInt is 1 for true and 0 for false.
func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}
