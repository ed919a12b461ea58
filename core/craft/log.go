package craft

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"maestrale/core/field"
)

// EventKind is what happened to a craft.
type EventKind string

// The kinds. Nothing is ever taken out of a craft's log.
const (
	Incident   EventKind = "incident"   // something went wrong; Damage tells whether it may still fly
	Repair     EventKind = "repair"     // mended, with the parts that it took
	NewParts   EventKind = "parts"      // new parts without a mishap
	Firmware   EventKind = "firmware"   // another version
	Proving    EventKind = "proving"    // an instructor flew it
	Compass    EventKind = "compass"    // a compass calibration, clean or not
	Inertial   EventKind = "inertial"   // calibration of the inertial sensors
	Propellers EventKind = "propellers" // which propeller sits on which motor
	Ground     EventKind = "ground"     // taken out of service
	Release    EventKind = "release"    // back in service
	Fitted     EventKind = "fitted"     // aids fitted, for a type that may have them
)

// EventKinds lists the kinds.
var EventKinds = []EventKind{Incident, Repair, NewParts, Firmware, Proving, Compass, Inertial, Propellers, Ground,
	Release, Fitted}

// Event is one entry of a craft's log. What a kind does not use is empty.
type Event struct {
	ID      string         `json:"-"`
	At      time.Time      `json:"-"`
	By      string         `json:"-"`
	Kind    EventKind      `json:"-"`
	Says    string         `json:"says,omitempty"`    // in the words of who wrote it
	Cause   string         `json:"cause,omitempty"`   // of an incident
	Damage  bool           `json:"damage,omitempty"`  // of an incident: not to be flown as it is
	Crash   bool           `json:"crash,omitempty"`   // of an incident: it counts as a crash
	Parts   map[string]int `json:"parts,omitempty"`   // used, by key
	Version string         `json:"version,omitempty"` // of the firmware
	Method  string         `json:"method,omitempty"`  // of a calibration
	Clean   bool           `json:"clean,omitempty"`   // of a calibration
	Site    string         `json:"site,omitempty"`    // where it was calibrated
	Where   *field.Geo     `json:"where,omitempty"`
	Passed  bool           `json:"passed,omitempty"` // of a proving flight
	DriftM  float64        `json:"drift_m,omitempty"`
	HoverPc float64        `json:"hover_percent,omitempty"` // throttle that it hovers at
	Mounts  []Mount        `json:"mounts,omitempty"`
	Aids    []Aids         `json:"aids,omitempty"`
}

// Causes are the causes of an incident that are counted.
var Causes = []string{"orientation lost", "height lost", msgCauseTooFast, msgCauseWind, msgCauseObstacle,
	"pack empty", msgCauseLink, msgCauseCompass, msgCausePropeller, "landing", msgCauseHandling,
	"other"}

// Mount is a propeller on a motor: Motor counts the rotors of the type from 0.
type Mount struct {
	Motor   int    `json:"motor"`
	For     Spin   `json:"for"` // the spin that the propeller is made for
	Chipped bool   `json:"chipped,omitempty"`
	Label   string `json:"label,omitempty"`
}

// Calibration is the last calibration of a compass.
type Calibration struct {
	At    time.Time
	Clean bool
	Site  string
	Where *field.Geo
}

// State is what the log of a craft comes to.
type State struct {
	Grounded bool
	Why      string // why it is grounded
	ToProve  string // why an instructor has to prove it first; empty = nothing to prove
	Firmware string
	Mounts   []Mount
	Fitted   []Aids
	Compass  *Calibration // the newest, clean or not
	Clean    *Calibration // the newest that was clean
	Unclean  int          // calibrations in a row that were not clean
	Inertial time.Time
	HoverPc  float64 // of the last proving flight
	Crashes  int
	Used     map[string]int // parts by key
}

// Unfit is why nobody who learns flies the craft, and what comes first; both
// are empty for a craft that is in service.
func (s State) Unfit() (why, first string) {
	switch {
	case s.Grounded:
		return fmt.Sprintf(msgOutOfService, s.Why), msgRepairFirst
	case s.ToProve != "":
		return fmt.Sprintf(msgStillToProve, s.ToProve), msgProveFirst
	}
	return "", ""
}

// StateOf reads a craft's log, in order of time. A repair, new parts and new
// firmware ask for a proving flight. A craft is grounded by damage until it is
// repaired, by two calibrations in a row that were not clean until one is, and by
// hand until it is released; a release lifts every one of them.
func StateOf(log []Event) State {
	log = slices.Clone(log)
	slices.SortStableFunc(log, func(a, b Event) int { return a.At.Compare(b.At) })
	s := State{Used: map[string]int{}}
	var damage, compass, hand string
	for _, e := range log {
		for k, n := range e.Parts {
			s.Used[k] += n
		}
		switch e.Kind {
		case Incident:
			if e.Crash {
				s.Crashes++
			}
			if e.Damage {
				damage = "damaged: " + e.said()
			}
		case Repair:
			damage = ""
			s.ToProve = "repaired: " + e.said()
		case NewParts:
			s.ToProve = "new parts: " + e.said()
		case Firmware:
			s.Firmware = e.Version
			s.ToProve = "new firmware " + e.Version
		case Proving:
			s.HoverPc = e.HoverPc
			if e.Passed {
				s.ToProve = ""
			} else {
				s.ToProve = msgNotProven
				damage = fmt.Sprintf(msgProvingFailed, e.said())
			}
		case Compass:
			c := &Calibration{e.At, e.Clean, e.Site, e.Where}
			s.Compass = c
			if e.Clean {
				s.Clean, s.Unclean, compass = c, 0, ""
			} else if s.Unclean++; s.Unclean >= 2 {
				compass = msgCompassTwiceUnclean
			}
		case Inertial:
			s.Inertial = e.At
		case Propellers:
			s.Mounts = e.Mounts
		case Ground:
			hand = e.said()
		case Release:
			damage, compass, hand = "", "", ""
		case Fitted:
			s.Fitted = e.Aids
		}
	}
	s.Why = strings.Join(slices.DeleteFunc([]string{hand, damage, compass}, func(w string) bool { return w == "" }), "; ")
	s.Grounded = s.Why != ""
	return s
}

// said is what an event says in words: its own, its cause, or what its kind
// says.
func (e Event) said() string {
	switch {
	case e.Says != "":
		return e.Says
	case e.Cause != "":
		return e.Cause
	}
	return string(e.Kind)
}

// ThreadOf says which way a self-tightening propeller is turned to fasten it:
// against its own spin, since the motor's start turns it tighter.
func ThreadOf(spin Spin) string {
	if spin == Clockwise {
		return msgLeftHandThread
	}
	return msgRightHandThread
}

// MountFaults says what is wrong with the propellers of a craft of the type:
// a motor without one, one made for the other spin, a chipped one. Nil is right.
func (t Type) MountFaults(mounts []Mount) []string {
	on := map[int]Mount{}
	var out []string
	for _, m := range mounts {
		if m.Motor < 0 || m.Motor >= len(t.Rotors) {
			out = append(out, fmt.Sprintf(msgNoSuchMotor, m.Motor+1))
			continue
		}
		if _, twice := on[m.Motor]; twice {
			out = append(out, fmt.Sprintf(msgMotorTwoPropellers, m.Motor+1))
		}
		on[m.Motor] = m
	}
	for i, r := range t.Rotors {
		m, ok := on[i]
		switch {
		case !ok:
			out = append(out, fmt.Sprintf(msgMotorNoPropeller, i+1, r.Place()))
		case m.For != r.Spin:
			out = append(out, fmt.Sprintf(msgWrongPropeller, i+1, r.Place(),
				r.Spin.Words(), m.For.Words()))
		case m.Chipped:
			out = append(out, fmt.Sprintf(msgPropellerChipped, i+1, r.Place()))
		}
	}
	return out
}

// RightMounts is the set as it should sit.
func (t Type) RightMounts() []Mount {
	var out []Mount
	for i, r := range t.Rotors {
		out = append(out, Mount{Motor: i, For: r.Spin})
	}
	return out
}

// Proved judges a proving flight: hands off it drifts no farther than limitM in
// ten seconds, it hovers within a tenth of the throttle it did before (any, where
// that is not known), and it sounds right. The words say what did not hold.
func Proved(driftM, limitM, hoverPc, before float64, soundsRight bool) (ok bool, why string) {
	switch {
	case driftM > limitM:
		return false, fmt.Sprintf(msgDriftedTooFar, driftM, limitM)
	case before > 0 && math.Abs(hoverPc-before) > 0.1*before:
		return false, fmt.Sprintf(msgHoverThrottleOff, hoverPc, before)
	case !soundsRight:
		return false, msgSoundsWrong
	}
	return true, ""
}

// HandsOffM is how far a craft may drift in ten seconds hands off, in metres:
// with position hold the half metre that a good fix wanders; without, a tenth
// of the mean wind's way and half a metre for its trim.
func HandsOffM(held bool, windMps float64) float64 {
	if held {
		return 0.5
	}
	return 0.5 + windMps
}
