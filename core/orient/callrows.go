package orient

import (
	"encoding/csv"
	"errors"
	"io"
	"slices"
	"strconv"
	"strings"

	"maestrale/core/misread"
)

// ReadCalls reads calls: CSV with a header of distance_m and right in any
// order, and light where that was not the one that is asked for. right is yes
// or no. It returns the calls in the order of the rows, at most MostRows, and
// notes on columns that are not read. An error names the line.
func ReadCalls(r io.Reader) (calls []Call, notes []string, err error) {
	in := csv.NewReader(r)
	in.TrimLeadingSpace = true
	at, notes, err := columnsOf(in, []string{"distance_m", "right", "light"}, 2)
	if err != nil {
		return nil, nil, err
	}
	for {
		cells, err := in.Read()
		if errors.Is(err, io.EOF) {
			return calls, notes, nil
		}
		if err != nil {
			return nil, nil, badCSV(err)
		}
		line, _ := in.FieldPos(0)
		if len(calls) == MostRows {
			return nil, nil, misread.At(line, "1000 rows at most", "there are more rows")
		}
		get := func(name string) string {
			if i, ok := at[name]; ok {
				return strings.ToLower(strings.TrimSpace(cells[i]))
			}
			return ""
		}
		// Each value is checked where it stands, so that the error can name the
		// line.
		c := Call{Right: get("right") == "yes", Light: Light(get("light"))}
		if c.DistanceM, err = strconv.ParseFloat(get("distance_m"), 64); err != nil || !(c.DistanceM >= 1 &&
			c.DistanceM <= 1000) {
			return nil, nil, misread.At(line, "1 to 1000", "the distance is %.20q", get("distance_m"))
		}
		if w := get("right"); w != "yes" && w != "no" {
			return nil, nil, misread.At(line, "yes or no", "right is %.20q", w)
		}
		if c.Light != "" && !slices.Contains(Lights, c.Light) {
			return nil, nil, misread.At(line, "day, overcast or dusk", "the light is %.20q", string(c.Light))
		}
		calls = append(calls, c)
	}
}
