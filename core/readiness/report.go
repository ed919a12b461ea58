package readiness

import (
	"fmt"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
)

// The report is the whole of a record's standing as JSON, for scripts and for
// people who want to check the rules.

// Report is a maestrale-readiness/1 document.
type Report struct {
	Format string `json:"format"`
	// At is the moment as of which everything is judged, in the record's zone.
	At time.Time `json:"at"`
	// Cells are in the order of SortKeys.
	Cells      []ReportCell `json:"cells"`
	Gates      []ReportGate `json:"gates"`
	NotCounted []NotCounted `json:"not_counted"`
	// Calibration holds the estimates to what came: what would have been
	// foretold of each attempt from those before it. Null where too little was
	// flown.
	Calibration *ReportCalibration `json:"calibration"`
}

// ReportCalibration is predicted against seen passes.
type ReportCalibration struct {
	Attempts  int     `json:"attempts"`
	Predicted float64 `json:"predicted_passes"`
	Seen      int     `json:"seen_passes"`
	Blocks    int     `json:"blocks"`    // of ten attempts, for the randomised probability integral transform
	Off       float64 `json:"pit_off"`   // its largest distance from an even spread
	OffLimit  float64 `json:"pit_limit"` // 5 % of right models are off by more
	Misses    bool    `json:"off"`       // the estimates do not fit this record
	Says      string  `json:"says"`
}

// calibratedFrom is how many foretold attempts a calibration wants.
const calibratedFrom = 30

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
	// chance of passing at that time in calm air, with its 80 % interval; null
	// where it was never flown so
	PNext      *Estimate   `json:"p_next"`
	ToGo       *ReportSpan `json:"attempts_to_go"` // null under 5 attempts, and for a held cell
	Needs      int         `json:"needs"`
	OtherDates int         `json:"other_dates"`
	Why        string      `json:"why"`
}

// ReportSpan is a forecast number of attempts, with its 80 % interval.
type ReportSpan struct {
	Median int `json:"median"`
	Low    int `json:"low"`
	High   int `json:"high"` // 60 = that many or more
}

// ReportGate is a gate as it stands in the report.
type ReportGate struct {
	Key        string      `json:"key"`
	CraftClass craft.Class `json:"craft_class"`
	State      State       `json:"state"`
	Alone      bool        `json:"alone"` // without the instructor
	// with position hold; false = without that aid, or not asked
	HoldsPlace     bool           `json:"holds_place"`
	NotFor         string         `json:"not_for,omitempty"`      // why the gate is not for the craft
	Carried        craft.Class    `json:"carried_from,omitempty"` // only the transition from there is asked
	Missing        []ReportCell   `json:"missing"`
	MissingActs    []string       `json:"missing_acts"`
	MissingClauses []ReportClause `json:"missing_clauses"`
	NewType        []string       `json:"familiarisation"` // drills to fly once on the named craft
	WindOK         bool           `json:"wind_ok"`
	Closing        ReportClosing  `json:"closing"`
	EndsAt         *time.Time     `json:"ends_at"` // when what stands first stops to, if nothing more is flown
	Why            string         `json:"why"`
}

// ReportClause is a clause that is not met.
type ReportClause struct {
	Kind   ClauseKind `json:"kind"`
	Drills []string   `json:"drills"`
	Mps    float64    `json:"wind_mps,omitempty"`
	Want   int        `json:"want"`
	Have   int        `json:"have"`
	Words  string     `json:"words"`
}

// ReportClosing is the shortest set of attempts that could close the gate.
type ReportClosing struct {
	Attempts int          `json:"attempts"`
	Dates    int          `json:"dates"`
	Set      []ReportWant `json:"set"`
}

// ReportWant is attempts to be passed at one cell.
type ReportWant struct {
	Drill   string     `json:"drill"`
	Side    field.Side `json:"side"`
	Aids    craft.Aids `json:"aids"`
	Level   int        `json:"level"`
	Passes  int        `json:"passes"`
	Dates   int        `json:"dates"`
	WindMps float64    `json:"wind_mps,omitempty"`
	// so many of them at another site, or in another light, as the next two say
	Elsewhere int  `json:"elsewhere,omitempty"`
	NewSite   bool `json:"new_site,omitempty"`
	NewLight  bool `json:"new_light,omitempty"`
	Answering bool `json:"answering,omitempty"`
}

// Options narrow a report; the zero value reports everything as it stood at
// the newest attempt.
type Options struct {
	At    time.Time
	Class craft.Class
	Type  *craft.Type // the craft that is flown; its class is reported alone
	// Now, where it is given, is the latest that an attempt can have been
	// flown: what is dated later does not move At.
	Now time.Time
	// Estimates asks for the chances and forecasts as well, which take longer
	// than the rules.
	Estimates bool
}

// Ready judges every cell of a record, those of the student's programme
// included, for each class that was flown or the one that is asked for. A
// record whose time zone is not known is an error.
func Ready(rec *record.Record, cat *drill.Catalogue, o Options) (*Report, error) {
	zone, err := rec.Location()
	if err != nil {
		return nil, err
	}
	at := o.asOf(rec)
	e := Sort(rec.Attempts, cat.Drills, at, zone)
	if o.Type != nil {
		// A craft that is named decides the class, whatever was asked beside
		// it.
		o.Class = o.Type.Class()
	}
	// The cells come first, as the gates are asked for the same classes.
	keys, classes := o.keys(rec, cat, e)
	for i := range rec.Attempts {
		if t := rec.Attempts[i].At; !o.Now.IsZero() && t.After(o.Now) {
			e.notCounted = append(e.notCounted, NotCounted{rec.Attempts[i].ID,
				fmt.Sprintf(msgDatedInFuture, t.In(zone).Format("2 Jan 2006 15:04"))})
		}
	}
	r := &Report{Format: "maestrale-readiness/1", At: at.In(zone), Cells: []ReportCell{}, Gates: []ReportGate{},
		NotCounted: e.NotCounted()}
	if r.NotCounted == nil {
		r.NotCounted = []NotCounted{}
	}
	for _, k := range keys {
		c := e.Cell(k)
		rc := reported(c)
		if o.Estimates && c.Attempts > 0 {
			rc.foretell(e, k, c, at)
		}
		r.Cells = append(r.Cells, rc)
	}
	if o.Estimates {
		r.Calibration = e.calibration()
	}
	for _, key := range cat.GateKeys() {
		for _, class := range craft.Classes {
			if !classes[class] {
				continue
			}
			// A class alone leaves open which aids the craft has; a type says
			// it.
			on := On{Class: class}
			if o.Type != nil {
				on.Type, on.Has = o.Type.Key, o.Type.Aids
			}
			g := JudgeGate(cat.Gates[key], on, e, rec.Witnessed, rec.SignOffs)
			rg := g.report()
			r.Gates = append(r.Gates, rg)
		}
	}
	return r, nil
}

// asOf is the moment as of which a record is judged: the one that is asked for,
// or that of the newest attempt, leaving out what claims to be later than now.
func (o *Options) asOf(rec *record.Record) time.Time {
	at := o.At
	if at.IsZero() {
		for i := range rec.Attempts {
			if t := rec.Attempts[i].At; t.After(at) && (o.Now.IsZero() || !t.After(o.Now)) {
				at = t
			}
		}
	}
	return at
}

// keys are the items that are reported, in their order, and the classes they
// are of: those that were flown, and those that the programme and the gates ask
// for.
func (o *Options) keys(rec *record.Record, cat *drill.Catalogue, e *Evidence) (keys []Key,
	classes map[craft.Class]bool) {
	set := map[Key]bool{}
	classes = map[craft.Class]bool{}
	for _, k := range e.Keys() {
		// What was flown, on the classes on which it was flown.
		set[k], classes[k.Class] = true, true
	}
	if o.Class != "" {
		classes = map[craft.Class]bool{o.Class: true}
	}
	// What is asked for is listed as well, so that a cell that nobody has tried
	// is seen to be missing.
	asked := cat.Programmes[rec.Ladder].Cells()
	for _, g := range cat.Gates {
		asked = append(asked, g.Cells...)
	}
	for _, c := range asked {
		for class := range classes {
			set[Key{c, class}] = true
		}
	}
	for k := range set {
		if o.Class == "" || k.Class == o.Class {
			keys = append(keys, k)
		}
	}
	SortKeys(keys)
	return keys, classes
}

// foretell adds the chance of passing at a moment, and how many attempts are
// still to go, where they can be told.
func (rc *ReportCell) foretell(e *Evidence, k Key, c Cell, at time.Time) {
	p := e.Posterior(k)
	if p == nil {
		return
	}
	// A wind under 0 means calm air, as the record does not say what will blow.
	next := p.Next(at, -1)
	rc.PNext = &next
	if s, ok := p.ToGo(c, -1, e.Pace(k)); ok {
		rc.ToGo = &ReportSpan{s.Median, s.Low, s.High}
	}
}

// calibration holds what would have been foretold of each attempt to what came;
// nil where too little was flown.
func (e *Evidence) calibration() *ReportCalibration {
	var list []Foretold
	e.Foretell(func(f Foretold) { list = append(list, f) })
	if len(list) < calibratedFrom {
		return nil
	}
	c := Calibrate(list, 10, 1)
	return &ReportCalibration{c.Attempts, c.Predicted, c.Seen, len(c.PIT), c.Off, c.OffLimit, c.Misses(), c.Words()}
}

// reported is a cell as the report has it.
func reported(c Cell) ReportCell {
	rc := ReportCell{Drill: c.Drill, Side: c.Side, Aids: c.Aids, Level: c.Level, CraftClass: c.Class, Standing: c.Standing,
		SimStanding: c.SimStanding, Passes: c.Passes, Attempts: c.Attempts, Dates: c.Dates, Needs: c.Needs,
		OtherDates: c.OtherDates, Why: c.Why}
	if !c.CurrentUntil.IsZero() {
		rc.CurrentUntil = &c.CurrentUntil
	}
	return rc
}

// report is a gate as the report has it; its lists are never nil, since JSON
// would write null.
func (r *GateResult) report() ReportGate {
	out := ReportGate{Key: r.Key, CraftClass: r.Class, State: r.State, Alone: r.Alone, HoldsPlace: r.Hold,
		NotFor: r.NotFor, Carried: r.From, Missing: []ReportCell{}, MissingActs: []string{},
		MissingClauses: []ReportClause{}, NewType: r.NewType(), WindOK: true, Closing: ReportClosing{r.Closing.Attempts,
			r.Closing.Dates, []ReportWant{}}, Why: r.Why()}
	if out.NewType == nil {
		out.NewType = []string{}
	}
	for _, c := range r.Missing {
		out.Missing = append(out.Missing, reported(c))
	}
	for _, a := range r.Acts {
		if !a.Valid {
			out.MissingActs = append(out.MissingActs, a.Key)
		}
	}
	for _, c := range r.Clauses {
		if c.Met() {
			continue
		}
		out.MissingClauses = append(out.MissingClauses, ReportClause{c.Kind, c.Drills, c.Mps, c.Want, c.Have, c.Words()})
		// False as soon as a clause of the wind is not met, and of those alone.
		out.WindOK = out.WindOK && c.Kind != WindClause
	}
	for _, w := range r.Closing.Set {
		out.Closing.Set = append(out.Closing.Set, ReportWant{w.Drill, w.Side, w.Aids, w.Level, w.Passes, w.Dates, w.WindMps,
			w.Elsewhere, w.NewSite, w.NewLight, w.Answering})
	}
	if at, _ := r.Ends(); !at.IsZero() {
		out.EndsAt = &at
	}
	return out
}
