package exchange

import (
	"bytes"
	"encoding/csv"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"maestrale/internal/store"
)

// FileOf makes a file's name of a person's: letters and digits alone.
func FileOf(name string) string {
	out := strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			return r
		case r >= 'A' && r <= 'Z':
			return r + 'a' - 'A'
		}
		return '-'
	}, name)
	if out = strings.Trim(out, "-"); out == "" {
		return "student"
	}
	return out
}

// AttemptsCSV writes attempts as a table.
func AttemptsCSV(names map[uuid.UUID]string, list []store.Flown) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write([]string{"id", "at", "drill", "side", "level", "aids", "craft_class", "craft_type", "source", "verdict",
		"margin", "wind_mps", "gust_mps", "wind_from_deg", "site", "light", "answering", "watched", "counts", "why_not",
		"corrects",
		"origin", "summary"})
	for i := range list {
		_ = w.Write(attemptLine(&list[i]))
	}
	w.Flush()
	return b.Bytes()
}

func attemptLine(a *store.Flown) []string {
	num := func(v *float64) string {
		if v == nil {
			return ""
		}
		return strconv.FormatFloat(*v, 'g', -1, 64)
	}
	return []string{a.ID, a.At.UTC().Format(time.RFC3339), a.Drill, string(a.Side), strconv.Itoa(a.Level), string(a.Aids),
		string(a.CraftClass), a.Attempt.CraftType, string(a.Source), string(a.Verdict), num(a.Margin), num(a.WindMps),
		num(a.GustMps), num(a.WindFromDeg),
		a.Site, a.Light, strconv.FormatBool(a.Answering), strconv.FormatBool(a.Watched),
		strconv.FormatBool(a.Counts), PlainCell(a.WhyNot), a.Corrects,
		PlainCell(a.Origin), PlainCell(a.Summary)}
}

// PlainCell keeps a cell of a table from being taken for a formula. A number is none, whatever its
// sign.
func PlainCell(t string) string {
	if t == "" || !strings.ContainsRune("=+-@\t\r", rune(t[0])) {
		return t
	}
	if _, err := strconv.ParseFloat(t, 64); err == nil && !strings.ContainsAny(t, "xXpPnN_") {
		return t
	}
	return "'" + t
}
