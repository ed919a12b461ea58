package preflight

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"maestrale/core/air"
	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/pack"
	"maestrale/core/units"
)

// rule judges one item: whether it holds, with which figures, and, where the
// template's own words do not fit, what to do.
type rule func(s Situation, v value) (ok bool, says, next string)

// The limits of the rules.
const (
	// The share of a full charge that the lowest cell has at least before a
	// flight.
	LeastCharge     = 0.70
	LeastSatellites = 10
	// Metres that the fence lies beyond the farthest place of a drill.
	FenceSpare = 5.0
	// Per cent of charge of the radio, and of the phone or ground screen.
	LeastPower = 30.0
	// The share of the craft's limit that is flown in a beginner's first
	// flights.
	FirstWind = 0.5
	// Metres a second over the strongest wind that was passed in.
	BeyondBest = 2.0
)

// rules are all rules by the names that a template gives them.
var rules = map[string]rule{
	// Whether the craft is in service, and whether it was proven after a
	// repair.
	"craft-fit": func(s Situation, _ value) (bool, string, string) {
		if s.Craft.Grounded {
			return false, fmt.Sprintf(msgOutOfService, s.CraftName, s.Craft.Why), ""
		}
		return true, "in service", ""
	},
	"proven": func(s Situation, _ value) (bool, string, string) {
		switch {
		case s.Craft.ToProve == "":
			return true, msgNothingToProve, ""
		// The flight that proves it is the one that may be flown.
		case s.Proving:
			return true, fmt.Sprintf(msgIsProvingFlight, s.Craft.ToProve), ""
		}
		return false, fmt.Sprintf(msgHasToBeProven, s.Craft.ToProve), ""
	},
	"wind":          windRule,
	"cells":         cellsRule,
	"pack-fit":      packRule,
	"propellers":    propellersRule,
	"firmware":      firmwareRule,
	"satellites":    satellitesRule,
	"compass":       compassRule,
	"inertial":      inertialRule,
	"return-height": returnRule,
	"fence":         fenceRule,
	"hands-off":     handsOffRule,
	"power-left":    powerLeftRule,
	"home-at":       homeAtRule,
}

// ruleNames lists the rules that a template may name, in order.
func ruleNames() []string { return slices.Sorted(maps.Keys(rules)) }

// judge fills in a line from its answer.
func (l *Line) judge(s Situation, v value) {
	// An item without a rule holds where it was answered yes.
	ok, says, next := true, "", ""
	if l.Ask == AskYes && !v.yes {
		ok, says = false, "answered no"
	}
	// A rule is asked only where the answer was not no already.
	if r, has := rules[l.Rule]; has && ok {
		ok, says, next = r(s, v)
	}
	l.Says = says
	if ok {
		l.State = OK
		return
	}
	// The template's own words say what to do, unless the rule knows better.
	l.State, l.Next = Failed, l.Do
	if next != "" {
		l.Next = next
	}
}

// PilotWind is the wind in m/s that a pilot may fly in: in the first flights half
// of the craft's limit; later two metres a second over the strongest that was
// passed in, at least that half and at most the craft's limit.
func PilotWind(craftLimit, bestPassed float64, first bool) float64 {
	least := FirstWind * craftLimit
	if first {
		return least
	}
	// Nobody needs to have flown in half of the limit before, and nobody goes
	// over it.
	return math.Min(craftLimit, math.Max(least, bestPassed+BeyondBest))
}

// windRule holds the wind to the limit of the craft type: the mean and the
// gust, where a wind is known.
func windRule(s Situation, _ value) (bool, string, string) {
	// A type without a limit is held to none; the caution stands beside it.
	if s.Type.WindMps == 0 {
		return true, msgNoWindLimit, ""
	}
	if s.Wind == nil {
		return false, msgNoWindRead, msgReadWind
	}
	// A wind that was read long ago says nothing of the next flight.
	if !s.Wind.Fresh {
		return false, fmt.Sprintf(msgWindTooOld, s.Wind.Age.Minutes()), msgReadWindAnew
	}
	gust := ""
	if s.Wind.Gust > 0 {
		gust = fmt.Sprintf(", gusts %.1f of %.1f", s.Wind.Gust, s.Type.GustMps)
	}
	says := fmt.Sprintf(msgWindOfLimit, s.Wind.Mean, s.Type.WindMps, gust, s.Type.Title)
	switch {
	// The craft's limit holds for everybody, and the pilot's is asked after it.
	case s.Wind.Mean > s.Type.WindMps, s.Type.GustMps > 0 && s.Wind.Gust > s.Type.GustMps:
		return false, says, ""
	case s.PilotMps > 0 && s.Wind.Mean > s.PilotMps:
		return false, fmt.Sprintf(msgWindOverPilots, s.Wind.Mean, orWho(s.Learner), s.PilotMps),
			msgWaitForLessWind
	}
	if s.PilotMps > 0 {
		says += fmt.Sprintf(msgPilotLimit, s.PilotMps)
	}
	return true, says, ""
}

// orWho is a name, or "the pilot".
func orWho(name string) string {
	if name == "" {
		return "the pilot"
	}
	return name
}

// cellsRule holds the voltages of the cells to each other and to the chemistry
// of the pack.
func cellsRule(s Situation, v value) (bool, string, string) {
	chem := s.Type.Battery.Chemistry
	if s.Pack != nil {
		chem = s.Pack.Chemistry
	}
	mean, spread, err := pack.CheckCells(chem, v.cells)
	if err != nil {
		return false, err.Error(), ""
	}
	// The lowest cell ends the flight, so it is the one that is judged.
	low := slices.Min(v.cells)
	at := slices.Index(v.cells, low) + 1
	charge := pack.Charge(chem, low)
	switch {
	// The limits hold with rounding: 70 % is enough.
	case charge < LeastCharge-1e-9:
		return false, fmt.Sprintf(msgCellTooLow, at, low,
			100*charge, pack.RestVolts(chem, LeastCharge), 100*LeastCharge), ""
	case spread > pack.SpreadLimit+1e-9:
		return false, fmt.Sprintf(msgCellsTooFarApart, spread, at,
			pack.SpreadLimit), msgBalanceCells
	}
	says := fmt.Sprintf(msgCellsGood, mean, 100*pack.Charge(chem, mean), spread)
	if minutes := s.minutes(pack.Charge(chem, low)); minutes > 0 {
		says += fmt.Sprintf(msgMinutesOfHover, math.Floor(minutes))
		if s.Minutes > 0 && minutes < s.Minutes {
			return false, fmt.Sprintf(msgTooFewMinutes, math.Floor(minutes),
				s.Minutes), msgTakeFullerPack
		}
	}
	return true, says, ""
}

// minutes is how long the pack at hand lasts from a charge; 0 where it cannot be
// said.
func (s Situation) minutes(charge float64) float64 {
	// The type says what it lifts, and the air how hard that is.
	l, err := pack.NewLifter(s.Type, s.Density)
	if err != nil || s.Density == 0 {
		return 0
	}
	f, err := pack.NewFilling(s.Type.Battery, 0)
	if err != nil {
		return 0
	}
	if s.Pack != nil {
		f.Chemistry, f.Cells, f.CapacityMah = s.Pack.Chemistry, s.Pack.Cells, s.Pack.CapacityMah
		// An older pack has more resistance, and stops earlier.
		f.OhmPerCell, _ = s.PackState.OhmOf(*s.Pack, s.Type)
	}
	// The time until the reserve is reached, in minutes.
	f.Charge = charge
	// What was measured in flight corrects what the type says.
	l, _ = l.Corrected(s.PackState.Hovers)
	return f.Seconds(l.Hover(), pack.Reserve) / 60
}

// packRule asks which pack goes in, whether it fits the type, and whether it
// may fly.
func packRule(s Situation, _ value) (bool, string, string) {
	if s.Pack == nil {
		return false, msgNoPackNamed, msgNameThePack
	}
	if err := s.Pack.Check(s.Type); err != nil {
		return false, err.Error(), ""
	}
	if s.PackState.Fitness == pack.Retire {
		return false, s.Pack.Name + ": " + strings.Join(s.PackState.Why, "; "), ""
	}
	says := fmt.Sprintf("%s, %.0f full charges", s.Pack.Name, s.PackState.Cycles)
	// A pack to be watched may fly, and says what for.
	if s.PackState.Fitness == pack.Watch {
		says += "; watch: " + strings.Join(s.PackState.Why, "; ")
	}
	return true, says, ""
}

// propellersRule compares the propellers that are mounted with what the type
// asks for.
func propellersRule(s Situation, _ value) (bool, string, string) {
	// What was never noted cannot be compared.
	if len(s.Craft.Mounts) == 0 {
		return true, msgNoPropellersNoted, ""
	}
	if faults := s.Type.MountFaults(s.Craft.Mounts); len(faults) > 0 {
		return false, strings.Join(faults, "; "), ""
	}
	return true, fmt.Sprintf(msgPropellersAsNoted, len(s.Craft.Mounts)), ""
}

// firmwareRule notes a version of the firmware that is another than the one
// before.
func firmwareRule(s Situation, v value) (bool, string, string) {
	// The first version that is read is taken as it is.
	if s.Craft.Firmware == "" {
		return true, msgFirstFirmware, ""
	}
	// Another version may fly otherwise, and somebody should know that it is
	// there.
	if v.text != s.Craft.Firmware {
		return false, fmt.Sprintf(msgOtherFirmware, v.text, s.Craft.Firmware), ""
	}
	return true, "as noted", ""
}

// satellitesRule asks for LeastSatellites at least.
func satellitesRule(_ Situation, v value) (bool, string, string) {
	says := fmt.Sprintf("%.0f of %d", v.number, LeastSatellites)
	return v.number >= LeastSatellites, says, ""
}

// compassRule says whether the compass has to be calibrated: by the school's
// policy, by the place, and by what was noted of the last time.
func compassRule(s Situation, v value) (bool, string, string) {
	// Anything but a quiet compass means that the craft asks.
	needs, why := s.Policy.Needs(s.Craft.Clean, s.Now, s.Zone, s.Where, s.Site, v.text != "quiet")
	// A calibration that was not clean is worse than an old one.
	if s.Craft.Unclean > 0 {
		return false, msgCalibrationNotClean,
			msgCalibrateFarther
	}
	return !needs, why + " (policy: " + s.Policy.Words() + ")", ""
}

// inertialRule asks for a calibration of the inertial sensors that is not too
// old; one that was never recorded is not taken to be right.
func inertialRule(s Situation, _ value) (bool, string, string) {
	if s.Craft.Inertial.IsZero() { // what was never recorded is not taken to be right
		return false, msgInertialNeverCalibrated, ""
	}
	days := s.Now.Sub(s.Craft.Inertial).Hours() / 24
	return days <= InertialDays, fmt.Sprintf(msgInertialCalibrated, days, InertialDays), ""
}

// feetSays is what to do about a figure that was probably typed in another unit.
func feetSays(what string, typed, expected float64, from string) string {
	return fmt.Sprintf(msgPerhapsInFeet, what, expected, course.Feet(expected),
		expected, from, typed)
}

// returnRule holds the height of the flight home to what the course needs, and
// asks whether it was typed in another unit.
func returnRule(s Situation, v value) (bool, string, string) {
	read := fmt.Sprintf("%.0f m (%.0f ft)", v.number, course.Feet(v.number))
	// Without a course there is still the figure of last time to compare with.
	if s.ReturnM == 0 {
		if _, is := units.Mistaken(v.number, s.LastReturnM, units.Metre); is {
			return false, read, feetSays("return height", v.number, s.LastReturnM, msgFromLastCheck)
		}
		return true, fmt.Sprintf(msgNoCourse, read), ""
	}
	over := s.Tallest
	if over == "" {
		over = msgNothingTall
	}
	says := fmt.Sprintf(msgReturnHeightOfWanted, read, s.ReturnM, course.Feet(s.ReturnM), over)
	if _, is := units.Mistaken(v.number, s.ReturnM, units.Metre); is {
		return false, says, feetSays("return height", v.number, s.ReturnM, msgFromCourse)
	}
	// Half a metre of rounding is allowed, since screens show whole metres or
	// feet.
	return v.number >= s.ReturnM-0.5, says, ""
}

// fenceRule holds the fence to what the drill needs with a spare, and asks
// whether it was typed in another unit.
func fenceRule(s Situation, v value) (bool, string, string) {
	least := s.DrillM + FenceSpare
	inFeet := v.number / course.Feet(1) // what it would be, had it been typed in feet
	switch {
	// 0 is a fence that is switched off, which beginners are not given.
	case v.number == 0 && s.First:
		return false, "off", msgSwitchFenceOn
	case v.number == 0:
		return true, "off", ""
	case s.DrillM > 0 && v.number < least:
		return false, fmt.Sprintf(msgFenceTooNear, v.number, s.DrillM,
			FenceSpare), msgSetFenceWider
	}
	says := fmt.Sprintf("%.0f m (%.0f ft)", v.number, course.Feet(v.number))
	if _, is := units.Mistaken(v.number, s.LastFenceM, units.Metre); is {
		return false, says, feetSays("fence", v.number, s.LastFenceM, msgFromLastCheck)
	}
	// A fence beyond the people protects nobody; one typed in feet is the usual
	// cause.
	if s.PeopleM > 0 && v.number > s.PeopleM {
		if s.DrillM > 0 && inFeet >= least && inFeet <= s.PeopleM {
			return false, fmt.Sprintf(msgPeopleWithin, says, s.PeopleM), feetSays("fence", v.number, inFeet,
				msgFromDrillsAndPeople)
		}
		return true, fmt.Sprintf(msgFenceBeyondPeople, says, s.PeopleM), ""
	}
	return true, says, ""
}

// powerLeftRule asks that radio and phone last the flights, with some to spare.
func powerLeftRule(_ Situation, v value) (bool, string, string) {
	return v.number >= LeastPower, fmt.Sprintf("%.0f %%; asked are %.0f %%", v.number, LeastPower), ""
}

// homeAtRule tells where the craft comes down by itself.
func homeAtRule(s Situation, v value) (bool, string, string) {
	if v.text != HomeIsPilot {
		return true, msgHomeIsTakeOff, ""
	}
	says := msgHomeIsPilot
	// A beginner walks about, and the craft would come down on whoever holds
	// the radio.
	return !s.First, says, msgSetHomeToTakeOff
}

// HomeIsPilot is the choice for a craft that comes home to its pilot.
const HomeIsPilot = "the pilot"

// handsOffRule holds how far the craft drifted with the hands off to what the
// wind explains.
func handsOffRule(s Situation, v value) (bool, string, string) {
	// A wind that is not known explains no drift.
	wind := 0.0
	if s.Wind != nil {
		wind = s.Wind.Mean
	}
	// With position hold the wind explains less.
	limit := craft.HandsOffM(s.Aids == craft.PositionHold, wind)
	return v.number <= limit, fmt.Sprintf(msgDrifted, v.number, limit), ""
}

// FullMinutes is how long a full pack of a type hovers above the reserve, at sea
// level; 0 where the type does not say enough.
func FullMinutes(t craft.Type) float64 {
	s := Situation{Type: t, Density: air.SeaLevelDensity}
	return s.minutes(1)
}
