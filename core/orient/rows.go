package orient

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"maestrale/core/misread"
)

// MostRows is the longest list of observations that is read.
const MostRows = 1000

// ReadRows reads observations: CSV with a header of input, seconds, saw and
// speed in any order. saw is left, right or none; speed is slow or full where
// it moved. It returns the rows in order, at most MostRows and at least one,
// and notes on columns that are not read. An error names the line.
func ReadRows(r io.Reader) (rows []Row, notes []string, err error) {
	in := csv.NewReader(r)
	in.TrimLeadingSpace = true
	at, notes, err := columnsOf(in, []string{"input", "seconds", "saw", "speed"}, 3)
	if err != nil {
		return nil, nil, err
	}
	for {
		cells, err := in.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, nil, badCSV(err)
		}
		line, _ := in.FieldPos(0)
		if len(rows) == MostRows {
			return nil, nil, misread.At(line, fmt.Sprintf("%d rows at most", MostRows), "there are more rows")
		}
		get := func(name string) string {
			if i, ok := at[name]; ok {
				return strings.ToLower(strings.TrimSpace(cells[i]))
			}
			return ""
		}
		row := Row{Input: Input(get("input"))}
		if !slices.Contains(Inputs, row.Input) {
			return nil, nil, misread.At(line, "forward, back, yaw-left or yaw-right", "the input is %q", string(row.Input))
		}
		if row.Seconds, err = strconv.ParseFloat(get("seconds"), 64); err != nil || !(row.Seconds > 0 && row.Seconds <= 60) {
			return nil, nil, misread.At(line, "over 0 and 60 at most", "the seconds are %q", get("seconds"))
		}
		saw, speed := get("saw"), get("speed")
		switch {
		case saw == "none" && speed == "":
			row.Saw = None
		case (saw == "left" || saw == "right") && (speed == "slow" || speed == "full"):
			row.Saw = Seen(speed + " " + saw)
		case saw == "none":
			return nil, nil, misread.At(line, "no speed where nothing moved", "nothing was seen to move, and the speed is %q",
				speed)
		case saw != "left" && saw != "right":
			return nil, nil, misread.At(line, "left, right or none", "what was seen is %q", saw)
		default:
			return nil, nil, misread.At(line, "slow or full where it moved", "the speed is %q", speed)
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		return nil, nil, misread.At(1, "a row for each input", "there is a header and no row")
	}
	return rows, notes, nil
}

// columnsOf reads a header and returns where each of the known columns stands;
// the first needed of them have to be there. Others are noted.
func columnsOf(in *csv.Reader, known []string, needed int) (at map[string]int, notes []string, err error) {
	all := strings.Join(known[:len(known)-1], ", ") + " and " + known[len(known)-1]
	head, err := in.Read()
	if errors.Is(err, io.EOF) {
		return nil, nil, misread.At(1, "a header with "+all, "the file is empty")
	}
	if err != nil {
		return nil, nil, badCSV(err)
	}
	at = map[string]int{}
	for i, h := range head {
		h = strings.ToLower(strings.TrimSpace(strings.TrimPrefix(h, "\ufeff")))
		// Which of two columns is meant nobody can tell.
		if _, twice := at[h]; twice {
			return nil, nil, misread.At(1, "each column once", "the column %q stands there twice", h)
		}
		if at[h] = i; !slices.Contains(known, h) {
			notes = append(notes, fmt.Sprintf(msgColumnNotRead, h))
		}
	}
	for _, need := range known[:needed] {
		if _, ok := at[need]; !ok {
			return nil, nil, misread.At(1, all, "there is no column %q", need)
		}
	}
	return at, notes, nil
}

// badCSV is an error of the CSV reader with its line.
func badCSV(err error) error {
	var p *csv.ParseError
	if errors.As(err, &p) {
		return misread.At(p.Line, "comma-separated values", "%v", p.Err)
	}
	return misread.At(1, "comma-separated values", "%v", err)
}
