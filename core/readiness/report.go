package readiness

import (
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
)

// Report is a maestrale-readiness/1 document.
type Report struct {
	Format     string       `json:"format"`
	At         time.Time    `json:"at"`
	Cells      []ReportCell `json:"cells"`
	Gates      []struct{}   `json:"gates"` // gates are not judged yet; the list is empty
	NotCounted []NotCounted `json:"not_counted"`
}

// ReportCell is a cell as it stands in the report.
type ReportCell struct {
	Drill        string      `json:"drill"`
	Side         field.Side  `json:"side"`
	Aids         craft.Aids  `json:"aids"`
	Level        int         `json:"level"`
	CraftClass   craft.Class `json:"craft_class"`
	Standing     Standing    `json:"standing"`
	SimStanding  Standing    `json:"sim_standing"`
	Passes       int         `json:"passes"`
	Attempts     int         `json:"attempts"`
	Dates        int         `json:"dates"`
	CurrentUntil *time.Time  `json:"current_until"`
	PNext        *struct{}   `json:"p_next"` // no estimate is made yet: null
	Needs        int         `json:"needs"`
	OtherDates   int         `json:"other_dates"`
	Why          string      `json:"why"`
}

// Options narrow a report; the zero value reports everything as it stood at
// the newest attempt.
type Options struct {
	At    time.Time
	Class craft.Class
}

// Ready judges every cell of a record, those of the student's programme
// included, for each class that was flown or the one that is asked for.
func Ready(rec *record.Record, cat *drill.Catalogue, o Options) (*Report, error) {
	zone, err := rec.Location()
	if err != nil {
		return nil, err
	}
	at := o.At
	if at.IsZero() {
		for i := range rec.Attempts {
			if rec.Attempts[i].At.After(at) {
				at = rec.Attempts[i].At
			}
		}
	}
	e := Sort(rec.Attempts, cat.Drills, at, zone)
	set, classes := map[Key]bool{}, map[craft.Class]bool{}
	for _, k := range e.Keys() {
		set[k], classes[k.Class] = true, true
	}
	if o.Class != "" {
		classes = map[craft.Class]bool{o.Class: true}
	}
	for _, c := range cat.Programmes[rec.Ladder].Cells() {
		for class := range classes {
			set[Key{c, class}] = true
		}
	}
	var keys []Key
	for k := range set {
		if o.Class == "" || k.Class == o.Class {
			keys = append(keys, k)
		}
	}
	SortKeys(keys)
	r := &Report{Format: "maestrale-readiness/1", At: at.In(zone), Cells: []ReportCell{}, Gates: []struct{}{}, NotCounted: e.NotCounted()}
	if r.NotCounted == nil {
		r.NotCounted = []NotCounted{}
	}
	for _, k := range keys {
		c := e.Cell(k)
		rc := ReportCell{Drill: c.Drill, Side: c.Side, Aids: c.Aids, Level: c.Level, CraftClass: c.Class, Standing: c.Standing,
			SimStanding: c.SimStanding, Passes: c.Passes, Attempts: c.Attempts, Dates: c.Dates, Needs: c.Needs, OtherDates: c.OtherDates, Why: c.Why}
		if !c.CurrentUntil.IsZero() {
			rc.CurrentUntil = &c.CurrentUntil
		}
		r.Cells = append(r.Cells, rc)
	}
	return r, nil
}
