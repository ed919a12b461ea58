// Package drill holds drills and programmes as data: what a student is asked
// to fly, within which tolerances, on which side and level.
//
// A Drill is what a file says. A Task is that drill for one side, level, craft
// class and course, with every place and limit a number; it is what is scored
// and drawn. As written, a sided drill is its left version; the right version
// is the mirror image.
package drill

import (
	"crypto/sha256"
	"encoding/hex"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// Kind is the kind of a step, as a file names it.
type Kind string

// The step kinds that are scored.
const (
	TakeOff Kind = "takeoff"
	Hold    Kind = "hold"
	Turn    Kind = "turn"
	Land    Kind = "land"
	GoTo    Kind = "goto"
	Path    Kind = "path"
	Stop    Kind = "stop"
	Return  Kind = "return"
	Regain  Kind = "regain"
	Motors  Kind = "motors"
)

// Drill is a defined exercise, as its file says it. One that was parsed has at
// least one step and one level.
type Drill struct {
	// Key identifies the drill in files, records and addresses; Title is what
	// people read; Family is the key of the group under which it is listed.
	Key    string
	Title  string
	Family string
	// Sided drills have a left and a right version. What is written is the left
	// one.
	Sided bool
	// An automatic take-off makes the attempt practice.
	ManualTakeoff bool
	ToHand        bool // it ends in somebody's hand, and so comes near to that one on purpose
	// Builds are the keys of the drills that lead up to it.
	Builds []string
	// Purpose says what it trains; Caution stands next to the button that
	// starts it.
	Purpose string
	Caution string
	// Template is the course that is laid when none is given.
	Template string // course laid when none is given
	Wind     Wind
	// Aids are those that it is flown with; without any, all are allowed.
	Aids []craft.Aids // aids that it is flown with; empty = any
	// Closed is what keeps it closed until something opens it.
	Closed  Closing
	Version Version
	// Minutes is the usual time on a pack.
	Minutes float64 // usual time on a pack; 0 = not said
	// The first level is the easiest.
	Levels []Level // one at least
	// Steps are flown one after the other.
	Steps []Step
	// MaxFaults is how many faults a pass forgives.
	MaxFaults int
	Source    []byte // the file as it was read
}

// Version says of which drill on a ladder this one is a version, and in what it
// differs. It is zero for a drill that is on a ladder itself.
type Version struct {
	// Of is the key of the drill on the ladder.
	Of string
	As string // alternative, stretch, camera or goggles
}

// versionWords are the versions as a person reads them; the title of the drill
// follows.
var versionWords = map[string]string{"alternative": msgAlternativeTo, "stretch": "a stretch of",
	"camera": msgCameraVersionOf, "goggles": msgGogglesVersionOf}

// Words say what the version is, with the title of its drill: "a stretch of
// Tail-in hover". They are empty for none.
func (v Version) Words(c *Catalogue) string {
	if v.Of == "" {
		return ""
	}
	return versionWords[v.As] + " " + c.Drills[v.Of].Title
}

// Wind is the wind that a drill wants, as it is written for the left side.
type Wind struct {
	From   string  // any, behind, ahead, left or right of the pilot
	MaxMps float64 // 0 = not limited
}

// Level is the same drill made harder, or easier. Scale multiplies the
// horizontal limits in metres and every size; HeightM, where not 0, is flown
// instead of the heights of the steps after take-off.
type Level struct {
	// Scale is 1 for the drill as it is written.
	Scale   float64
	HeightM float64
}

// Step is one step as written. Which fields mean something depends on Kind; the
// others are zero.
type Step struct {
	Kind Kind
	// Line of the file, for errors.
	Line int
	// Where the step is flown, how high, and with which nose.
	At      *Place
	HeightM Limit
	Heading Rule
	// Seconds is how long a hold lasts or motors idle; SecondsMax is the
	// longest that the step may take, 0 for no limit.
	Seconds    float64
	SecondsMax float64
	// ToHeightM is the height of a take-off, in metres.
	ToHeightM Limit
	Automatic bool // automatic take-off is allowed
	Manual    bool // landing has to be manual
	// ByDeg is the angle of a turn, positive toward the drill's side, and
	// RateDps the band of its rate, 0, 0 for any.
	ByDeg   float64
	RateDps [2]float64
	// To is where a step to a place leads.
	To    *Place  // of a goto
	RestS float64 // at the end of a goto, at each corner of a path
	// Figure is what a path flies.
	Figure   *PathSpec  // of a path
	SpeedMps [2]float64 // of a path, its mean
	AfterS   float64    // of a stop; 0 = after a call
	FromMps  float64    // of a stop: flown at least so fast as it begins; 0 = at any speed
	Over     bool       // of a stop: it turns over once before it stands
	Random   bool       // a turn by an angle that is called
	// Trigger is what sets off a flight home.
	Trigger   string  // of a return: asked, link or pack
	TakeOverS float64 // of a return: watched so long, then taken over; 0 = lands itself
	// FromM is how far away a lost orientation begins, in metres; WindMps and
	// SpoilS say in which wind, and for how long the nose is turned unseen.
	FromM   Limit      // of a regain
	WindMps float64    // of a regain
	SpoilS  [2]float64 // of a regain: how long the nose is turned unseen
	Method  string     // of a regain: read, turn or any
	Spotter bool       // of a regain
	// During is what happens in the step, in order.
	During []Happening
	// Within are the limits, as written.
	Within Within
}

// Within holds the limits of a step as written; an unset Limit asks for
// nothing.
type Within struct {
	// Of holds and turns.
	RadiusM, HeightM, NoseDeg, OvershootDeg Limit
	// Of landings.
	OffsetM, SinkMps, TiltDeg, Bounces Limit
	// Of paths and ways.
	CrossM, OvershootM, Ratio, CrossingM Limit
	AimDeg, AngleDeg, EndRatio, LegsDeg  Limit
	// Of stops and recoveries.
	Seconds, DistanceM              Limit
	HomeOffsetM, LostM, WrongInputs Limit
}

// Place is a marker's name, or a point in metres from the pilot's station with
// or without a height.
type Place struct {
	// Marker is empty for a point.
	Marker string
	// Point is in metres from the station; Z counts only where HasZ is set.
	Point field.Point
	HasZ  bool
	Z     float64
}

// Limit is one number for every craft class, or one for each class that the
// file names. The unit is that of the key it is written under.
type Limit struct {
	// Set is false for a limit that the file does not have.
	Set     bool
	Any     float64
	ByClass map[craft.Class]float64
}

// For returns the limit for a class. ok is false where the limit goes by
// classes and leaves that one out: the drill is then not flown with it.
func (l Limit) For(class craft.Class) (v float64, ok bool) {
	if l.ByClass == nil {
		return l.Any, true
	}
	v, ok = l.ByClass[class]
	return v, ok
}

// SHA256 identifies the text that the drill was read from, in hexadecimal.
// Attempts keep it, so that they are judged by the drill as it was.
func (d Drill) SHA256() string {
	sum := sha256.Sum256(d.Source)
	return hex.EncodeToString(sum[:])
}

// Sides lists the versions of the drill: left and right, or none.
func (d Drill) Sides() []field.Side {
	if d.Sided {
		return []field.Side{field.LeftSide, field.RightSide}
	}
	return []field.Side{field.NoSide}
}

// ManualLanding tells whether a landing of the drill wants a hand on the
// sticks.
func (d Drill) ManualLanding() bool {
	for _, s := range d.Steps {
		if s.Kind == Land && s.Manual {
			return true
		}
	}
	return false
}
