package preflight

import (
	"fmt"
	"math"
	"time"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// Policy says when a compass is calibrated; the chief instructor chooses one of
// three schools.
type Policy struct {
	Kind PolicyKind
	// Km and Days are the limits of WhenMoved; the other schools do not use
	// them.
	Km   float64
	Days int
}

// PolicyKind is one of the schools.
type PolicyKind string

// The schools.
const (
	EveryDay  PolicyKind = "every-day"  // every field day
	WhenMoved PolicyKind = "when-moved" // moved more than a distance, or after a time
	WhenAsked PolicyKind = "when-asked" // when the craft asks
)

// DefaultPolicy is the middle school: after 50 km or 30 days.
var DefaultPolicy = Policy{WhenMoved, 50, 30}

// Words says the policy.
func (p Policy) Words() string {
	switch p.Kind {
	case EveryDay:
		return msgEveryFieldDay
	case WhenAsked:
		return msgWhenCraftAsks
	}
	return fmt.Sprintf(msgWhenMovedOrOld, p.Km, p.Days)
}

// Check refuses a policy that cannot be.
func (p Policy) Check() error {
	switch {
	case p.Kind != EveryDay && p.Kind != WhenMoved && p.Kind != WhenAsked:
		return fmt.Errorf("policy %q; expected every-day, when-moved or when-asked", p.Kind)
	case p.Kind == WhenMoved && !(p.Km >= 1 && p.Km <= 5000 && p.Days >= 1 && p.Days <= 730):
		return fmt.Errorf("%v km or %d days; expected 1 to 5000 km and 1 to 730 days", p.Km, p.Days)
	}
	return nil
}

// Needs tells whether a compass has to be calibrated before this flight, and
// why. clean is its newest clean calibration, nil for never.
func (p Policy) Needs(clean *craft.Calibration, now time.Time, loc *time.Location, where *field.Geo, site string,
	asks bool) (bool, string) {
	switch {
	// The craft itself knows best, whatever the school is.
	case asks:
		return true, msgCraftAsks
	case clean == nil: // what was never recorded is not taken to be right
		return true, msgNoCleanCalibration
	case p.Kind == WhenAsked:
		return false, msgCraftDoesNotAsk
	}
	// A day is one of the school's calendar.
	last := clean.At.In(loc)
	if p.Kind == EveryDay {
		if last.Format(time.DateOnly) == now.In(loc).Format(time.DateOnly) {
			return false, fmt.Sprintf(msgCalibratedToday, last.Format("15:04"))
		}
		return true, msgNotCalibratedToday
	}
	// The age first, then the distance; without both places the names of the
	// sites are compared.
	if days := now.Sub(clean.At).Hours() / 24; days > float64(p.Days) {
		return true, fmt.Sprintf(msgCalibratedTooLongAgo, days, p.Days)
	}
	if where != nil && clean.Where != nil {
		km := Distance(*where, *clean.Where) / 1000
		if km > p.Km {
			return true, fmt.Sprintf(msgMovedTooFar, km, p.Km)
		}
		return false, fmt.Sprintf(msgCalibratedNear, last.Format("2 Jan"), km)
	}
	if site != clean.Site {
		return true, msgCalibratedAnotherSite
	}
	return false, fmt.Sprintf(msgCalibratedHere, last.Format("2 Jan"))
}

// earth is the mean radius in m (IUGG R1).
const earth = 6371008.8

// Distance is the great-circle distance in m between two places, by the haversine
// formula (Sinnott, "Virtues of the Haversine", Sky and Telescope 68 (1984)); on the
// ellipsoid it is right to half a per cent.
func Distance(a, b field.Geo) float64 {
	la, lb := float64(field.Degrees(a.LatDeg)), float64(field.Degrees(b.LatDeg))
	dlat, dlon := lb-la, float64(field.Degrees(b.LonDeg-a.LonDeg))
	// h is the haversine of the angle between them; rounding can bring it over
	// 1 for places opposite each other.
	h := math.Pow(math.Sin(dlat/2), 2) + math.Cos(la)*math.Cos(lb)*math.Pow(math.Sin(dlon/2), 2)
	return 2 * earth * math.Asin(math.Sqrt(math.Min(1, h)))
}

// InertialDays is after how many days the inertial sensors are calibrated anew.
const InertialDays = 180

// CalibrationStep is one step of a guided calibration.
type CalibrationStep struct{ Title, Says string }

// CalibrationMethods lists the ways in which a compass is turned through every
// direction.
var CalibrationMethods = []string{msgTurnCraft, msgWalkRound}

// Calibration guides a compass calibration by one of the methods.
func Calibration(method string) []CalibrationStep {
	// What comes first is the same for both methods.
	before := []CalibrationStep{
		{msgAwayFromMetal, msgAwayFromMetalHow},
		{msgCraftOnMotorsOff, msgCraftOnMotorsOffHow},
	}
	turn := []CalibrationStep{
		{msgTurnLevel, msgTurnLevelHow},
		{msgTurnNoseDown, msgTurnNoseDownHow},
	}
	if method == CalibrationMethods[1] {
		turn = []CalibrationStep{
			{msgWalkLevel, msgWalkLevelHow},
			{msgWalkNoseDown, msgWalkNoseDownHow},
		}
	}
	return append(append(before, turn...), CalibrationStep{msgReadResult,
		msgReadResultHow})
}
