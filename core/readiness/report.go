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
	Gates      []ReportGate `json:"gates"`
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

// ReportGate is a gate as it stands in the report. No gate has a wind clause
// yet, so that the wind is never what is missing.
type ReportGate struct {
	Key         string       `json:"key"`
	CraftClass  craft.Class  `json:"craft_class"`
	State       State        `json:"state"`
	Missing     []ReportCell `json:"missing"`
	MissingActs []string     `json:"missing_acts"`
	WindOK      bool         `json:"wind_ok"`
	Why         string       `json:"why"`
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
	asked := cat.Programmes[rec.Ladder].Cells()
	for _, g := range cat.Gates {
		asked = append(asked, g.Cells...)
	}
	for _, c := range asked {
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
	r := &Report{Format: "maestrale-readiness/1", At: at.In(zone), Cells: []ReportCell{}, Gates: []ReportGate{}, NotCounted: e.NotCounted()}
	if r.NotCounted == nil {
		r.NotCounted = []NotCounted{}
	}
	for _, k := range keys {
		r.Cells = append(r.Cells, reported(e.Cell(k)))
	}
	for _, key := range cat.GateKeys() {
		for _, class := range craft.Classes {
			if !classes[class] {
				continue
			}
			g := JudgeGate(cat.Gates[key], class, e, rec.Witnessed, rec.SignOffs)
			rg := ReportGate{Key: key, CraftClass: class, State: g.State, Missing: []ReportCell{}, MissingActs: []string{}, WindOK: true, Why: g.Why()}
			for _, c := range g.Missing {
				rg.Missing = append(rg.Missing, reported(c))
			}
			for _, a := range g.Acts {
				if !a.Valid {
					rg.MissingActs = append(rg.MissingActs, a.Key)
				}
			}
			r.Gates = append(r.Gates, rg)
		}
	}
	return r, nil
}

func reported(c Cell) ReportCell {
	rc := ReportCell{Drill: c.Drill, Side: c.Side, Aids: c.Aids, Level: c.Level, CraftClass: c.Class, Standing: c.Standing,
		SimStanding: c.SimStanding, Passes: c.Passes, Attempts: c.Attempts, Dates: c.Dates, Needs: c.Needs, OtherDates: c.OtherDates, Why: c.Why}
	if !c.CurrentUntil.IsZero() {
		rc.CurrentUntil = &c.CurrentUntil
	}
	return rc
}
