package marking

import (
	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/core/units"
	"maestrale/core/yamldoc"
	"time"
)

// Bundle is a day on a device: maestrale-pad/1. With what ships it is all that
// a pad needs until Until; after that the sign-in has ended and nothing more
// may be marked.
type Bundle struct {
	Format   string `json:"format"`
	School   string `json:"school"`
	TimeZone string `json:"time_zone"` // of the school, as Europe/Rome; it says what a date is
	// The rules of that zone, for a device that knows none: a compiled zone file.
	ZoneRules []byte            `json:"zone_rules,omitempty"`
	By        string            `json:"by"`    // who signed in
	Role      string            `json:"role"`  // what they are at the school
	Made      time.Time         `json:"made"`  // by the server's clock
	Until     time.Time         `json:"until"` // the sign-in ends
	Files     map[string]string `json:"files"` // the school's own drills and programmes
	Course    CourseOf          `json:"course"`
	// The files and the course as they were parsed, for a device that reads no
	// YAML (yamldoc.TreesOf).
	Trees    []byte      `json:"trees,omitempty"`
	Students []StudentOf `json:"students"`
	// The newest wind that the server knew, m/s, and the field heading that it
	// comes from, degrees; null where it is not known. It is what an attempt
	// was flown in, unless the pad is told another.
	WindMps  *float64 `json:"wind_mps"`
	WindFrom *float64 `json:"wind_from_deg"`
	// How the school tells in which light it flies, and where, for the sun;
	// null where the place is not known.
	Light  course.Lit `json:"light"`
	Place  *field.Geo `json:"place"`
	HandOn bool       `json:"hand_catch"` // the school allows drills that end in the hand
	// How the school's students learn, by its own records: weights of
	// readiness.Prior; empty for what is usual.
	Prior []float64 `json:"prior,omitempty"`
	// The reader's units, in which everything that the desk says is said; empty
	// is metres and metres a second. One is one of each in SI.
	Units UnitsOf `json:"units"`
}

// Parse fills in Trees from Files and the course, for a device that reads no
// YAML.
func (b *Bundle) Parse() {
	files := map[string][]byte{}
	for name, text := range b.Files {
		files[name] = []byte(text)
	}
	texts := drill.Documents(files)
	if b.Course.Source != "" {
		texts = append(texts, []byte(b.Course.Source))
	}
	b.Trees = yamldoc.TreesOf(texts...)
}

// UnitsOf are the units that a reader chose.
type UnitsOf struct {
	Length    units.Unit `json:"length"`
	LengthOne float64    `json:"length_one"`
	Speed     units.Unit `json:"speed"`
	SpeedOne  float64    `json:"speed_one"`
}

// UnitsIn are a reader's units as a bundle carries them.
func UnitsIn(s units.System) UnitsOf {
	return UnitsOf{s.Length, s.Length.From(1), s.Speed, s.Speed.From(1)}
}

// CourseOf is the course of the day, as it was when the bundle was made. An
// empty Source is none: then every drill is flown on its own places.
type CourseOf struct {
	Key    string `json:"key"` // says which one it was, when an attempt is sent
	Name   string `json:"name"`
	Source string `json:"source"` // YAML, maestrale-course/1
}

// StudentOf is a student of the day, and what the record has.
type StudentOf struct {
	ID        string     `json:"id"`
	Name      string     `json:"name"`
	Programme string     `json:"programme"` // a key; empty for none
	Craft     string     `json:"craft"`     // key of the craft type that the student flies
	Evidence  []Evidence `json:"evidence"`  // all of the record, oldest first
	// Away says that the record is not in the bundle, since there are too many;
	// it is fetched when it is asked for.
	Away bool `json:"away,omitempty"`

	Calls []orient.Call `json:"calls"` // of the nose of that craft, the newest

	// What else decides what comes next: the drills that were practised, acts
	// seen and sign-offs, and whether the student is tense.
	Practised []string           `json:"practised,omitempty"`
	Seen      []record.Witnessed `json:"seen,omitempty"`
	Signs     []record.SignOff   `json:"signs,omitempty"`
	Tense     bool               `json:"tense,omitempty"`
}

// Evidence is an attempt as standing needs it: what was flown, how it went and
// whether it counts, without the marks or the track that say so.
type Evidence struct {
	ID       string        `json:"id"` // the attempt's own, so that it is taken once however often it is sent
	At       time.Time     `json:"at"`
	Drill    string        `json:"drill"`
	Side     field.Side    `json:"side"`
	Level    int           `json:"level"`
	Aids     craft.Aids    `json:"aids"`
	Class    craft.Class   `json:"class"`
	Source   score.Source  `json:"source"`
	Verdict  score.Verdict `json:"verdict"`
	Counts   bool          `json:"counts"`
	Corrects string        `json:"corrects,omitempty"` // id of the attempt that it stands in the place of
	Margin   *float64      `json:"margin,omitempty"`   // share of the tightest limit that was left; null without one
	// What the clauses of a gate ask for.
	WindMps   *float64 `json:"wind_mps,omitempty"`
	Site      string   `json:"site,omitempty"`
	Light     string   `json:"light,omitempty"`
	Type      string   `json:"type,omitempty"`
	Answering bool     `json:"answering,omitempty"`
}

// attempt is evidence as the rules take it: an attempt without what was kept of
// its flight.
func (e *Evidence) attempt() *record.Attempt {
	return &record.Attempt{ID: e.ID, At: e.At, Drill: e.Drill, Side: e.Side, Level: e.Level, Aids: e.Aids,
		CraftClass: e.Class, Source: e.Source, Verdict: e.Verdict, Counts: e.Counts, Corrects: e.Corrects, Margin: e.Margin,
		WindMps: e.WindMps, Site: e.Site, Light: e.Light, CraftType: e.Type, Answering: e.Answering}
}

// EvidenceOf is an attempt as a bundle carries it. What it holds is a copy: an
// attempt of the store is only lent.
func EvidenceOf(a *record.Attempt) Evidence {
	return Evidence{ID: a.ID, At: a.At, Drill: a.Drill, Side: a.Side, Level: a.Level, Aids: a.Aids, Class: a.CraftClass,
		Source: a.Source, Verdict: a.Verdict, Counts: a.Counts, Corrects: a.Corrects, Margin: marginOf(a.Margin),
		WindMps: marginOf(a.WindMps), Site: a.Site, Light: a.Light, Type: a.CraftType, Answering: a.Answering}
}

// marginOf is a copy of a figure that may be missing; nil stays nil.
func marginOf(m *float64) *float64 {
	if m == nil {
		return nil
	}
	v := *m
	return &v
}
