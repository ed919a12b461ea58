package score

import (
	"fmt"
	"math"
	"strconv"
)

// Picture names the drawing of a debrief on which a figure can be seen. The
// screens know how to draw each; which figure belongs on which is said here.
type Picture string

// The drawings of a debrief.
const (
	NoPicture  Picture = ""
	PlanView   Picture = "plan"   // from above
	HeightView Picture = "height" // height over time
	TimeView   Picture = "time"   // the time line
	NoseView   Picture = "nose"   // the nose off its rule over time
)

// Metric is a figure that the scorer measures in a step: what it is called, its
// unit, which limits hold it, and where it can be seen. Every screen, sheet and
// file that shows a figure reads it here, so that a new figure is one row of
// Metrics and one measurement.
type Metric struct {
	Key   string // in the JSON of a result
	Words string
	Unit  string // "" for a count or a share
	// Least and Most are the keys of the limits that hold it from below and
	// from above; "" for none. A step that sets no such limit asks for nothing.
	Least, Most string
	Picture     Picture
}

// Metrics are all the figures, in the order in which a debrief shows them. Each
// row is: key, words, unit, key of the limit from below, key of the limit from
// above, drawing.
var Metrics = []Metric{
	// Places and heights.
	{"inside_s", "time inside", "s", "inside_s", "", TimeView},
	{"radius_rms_m", msgDistanceFromMarker, "m", "", "", PlanView},
	{"radius_p95_m", msgDistanceFromMarker95, "m", "", "", PlanView},
	{"radius_max_m", msgDistanceFromMarkerMost, "m", "", "radius_max_m", PlanView},
	{"height_max_m", msgHeightErrorMost, "m", "", "height_max_m", HeightView},
	{"nose_max_deg", msgNoseErrorMost, "°", "", "nose_max_deg", NoseView},
	{"drift_mps", "drift", "m/s", "", "", PlanView},
	{"running_s", "motors running", "s", "running_s", "", TimeView},
	{"takeoff_s", msgTimeToHeight, "s", "", "seconds_max", HeightView},
	// Turns.
	{"drift_max_m", msgDriftWhileTurning, "m", "", "drift_max_m", PlanView},
	{"turned_deg", "turned by", "°", "", "", NoseView},
	{"overshoot_deg", msgTurnedTooFarBy, "°", "", "overshoot_deg", NoseView},
	{"rate_dps", msgRateOfTurn, "°/s", "rate_min_dps", "rate_max_dps", NoseView},
	// Landings.
	{"offset_m", msgDistanceFromPad, "m", "", "offset_m", PlanView},
	{"sink_mps", "sink rate", "m/s", "", "sink_mps", HeightView},
	{"sideways_mps", msgSidewaysAtTouch, "m/s", "", "", PlanView},
	{"tilt_deg", msgLeanTouch, "°", "", "tilt_deg", NoPicture},
	{"nose_deg", msgNoseErrorTouch, "°", "", "nose_deg", NoseView},
	{"bounces", "bounces", "", "", "", HeightView},
	// Figures and ways.
	{"cross_rms_m", msgDistanceOffPath, "m", "", "", PlanView},
	{"cross_max_m", msgDistanceOffPathMost, "m", "", "cross_max_m", PlanView},
	{"speed_mean_mps", "mean speed", "m/s", "speed_min_mps", "speed_max_mps", TimeView},
	{"speed_cv", msgSpeedUnevenness, "", "", "", TimeView},
	{"radius_ratio", msgLobeRatio, "", "", "radius_ratio", PlanView},
	{"end_ratio", msgEndRatio, "", "", "end_ratio", PlanView},
	{"crossing_m", msgCrossingOffCentre, "m", "", "crossing_m", PlanView},
	{"crossing_angle_deg", "crossing angle", "°", "", "", PlanView},
	{"lobe1_radius_m", msgRadiusFirstLobe, "m", "", "", PlanView},
	{"lobe2_radius_m", msgRadiusSecondLobe, "m", "", "", PlanView},
	{"lobe_gap_m", msgGapBetweenLobes, "m", "", "", PlanView},
	{"radius_m", "radius", "m", "", "", PlanView},
	{"centre_off_m", msgCentreOff, "m", "", "", PlanView},
	{"near_leg_m", "near leg", "m", "", "", PlanView},
	{"far_leg_m", "far leg", "m", "", "", PlanView},
	{"legs_angle_deg", msgAngleBetweenLegs, "°", "", "legs_angle_deg", PlanView},
	{"flown_angle_deg", "angle flown", "°", "", "", HeightView},
	{"angle_deg", msgAngleError, "°", "", "angle_deg", HeightView},
	{"aim_deg", msgAimErrorMost, "°", "", "aim_deg", NoseView},
	{"aim_up_deg", msgAimErrorUp, "°", "", "", NoseView},
	{"rest_s", "shortest rest", "s", "rest_s", "", TimeView},
	{"overshoot_m", msgDistancePastMarker, "m", "", "overshoot_m", PlanView},
	{"settle_s", msgTimeToSettle, "s", "", "", TimeView},
	{"halts", "halts", "", "", "", TimeView},
	{"jerk_max_mps3", "jerk, most", "m/s³", "", "", TimeView},
	{"camera_moving_share", msgCameraMovingShare, "", "", "", TimeView},
	// Stops, calls and recoveries.
	{"from_mps", msgSpeedBeforeStop, "m/s", "from_mps", "", TimeView},
	{"stop_s", msgTimeToStop, "s", "", "stop_s", TimeView},
	{"stop_m", "stopping distance", "m", "", "stop_m", PlanView},
	{"answer_s", msgTimeToAnswer, "s", "", "answer_s", TimeView},
	{"answer_m", msgCarriedBeforeAnswer, "m", "", "answer_m", PlanView},
	{"climb_m", msgClimbBeforeHome, "m", "", "", HeightView},
	{"home_offset_m", msgDistanceFromHome, "m", "", "home_offset_m", PlanView},
	{"taken_over_s", msgTimeToTakeOver, "s", "taken_over_s", "", TimeView},
	{"home_s", msgTimeUntilHome, "s", "", "home_s", TimeView},
	{"home_heading_deg", msgNoseErrorHome, "°", "", "", NoseView},
	{"lost_m", msgDistanceLostMost, "m", "", "lost_m", PlanView},
	{"wrong_inputs", msgWrongStickInputs, "", "", "wrong_inputs", TimeView},
	// Sticks.
	{"reversals_per_min", msgThrottleReversalsMinute, "", "", "", NoPicture},
	{"slams", msgFullStickSlams, "", "", "", NoPicture},
	{"full_share", msgFullStickShare, "", "", "", NoPicture},
	{"leak", msgThrottleMovedWhile, "", "", "", NoPicture},
	{"wrong_way_s", msgTimeWrongWay, "s", "", "", NoPicture},
	{"unanswered_s", msgLongestUnanswered, "s", "", "", NoPicture},
}

// metricsByKey finds a row of Metrics by its key.
var metricsByKey = func() map[string]*Metric {
	by := map[string]*Metric{}
	for i := range Metrics {
		by[Metrics[i].Key] = &Metrics[i]
	}
	return by
}()

// MetricOf returns the row of a figure. ok is false for a key that this version
// does not measure; m then has only the key, so that an older or newer result
// can still be shown.
func MetricOf(key string) (m Metric, ok bool) {
	p, ok := metricsByKey[key]
	if !ok {
		return Metric{Key: key}, false
	}
	return *p, true
}

// Held returns the limits of a step that hold the figure from below and from
// above, each NaN where none does. limits is the Limits of a StepResult: which
// limits a step set is written there.
func (m Metric) Held(limits map[string]float64) (least, most float64) {
	least, most = math.NaN(), math.NaN()
	if v, ok := limits[m.Least]; ok && m.Least != "" {
		least = v
	}
	if v, ok := limits[m.Most]; ok && m.Most != "" {
		most = v
	}
	return least, most
}

// Out tells whether the value v is outside the limits that hold the figure. It
// is false where none does, since nothing is less or greater than NaN.
func (m Metric) Out(v float64, limits map[string]float64) bool {
	least, most := m.Held(limits)
	return v < least || v > most // false for NaN
}

// Value writes a value with its unit, to three or four digits: "1.34 m", "11°",
// "3". A count and a share have no unit.
func (m Metric) Value(v float64) string {
	places := 2
	if math.Abs(v) >= 10 {
		places = 1
	}
	text := strconv.FormatFloat(round(v, places), 'f', -1, 64)
	switch m.Unit {
	case "":
		return text
	case "°", "°/s":
		return text + m.Unit
	}
	return text + " " + m.Unit
}

// LimitWords say within which limits the figure should be: "at most 1 m", "at
// least 10 s", "1 to 2 m/s". They are empty where the step sets none.
func (m Metric) LimitWords(limits map[string]float64) string {
	least, most := m.Held(limits)
	switch noLeast, noMost := math.IsNaN(least), math.IsNaN(most); {
	case noLeast && noMost:
		return ""
	case noMost:
		return "at least " + m.Value(least)
	case noLeast:
		return "at most " + m.Value(most)
	}
	return fmt.Sprintf("%s to %s", Metric{}.Value(least), m.Value(most))
}
