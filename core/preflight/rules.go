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
	LeastCharge     = 0.70 // of the lowest cell before a flight
	LeastSatellites = 10
	FenceSpare      = 5.0  // m beyond the farthest place of a drill
	LeastPower      = 30.0 // % of charge of the radio and of the phone or ground screen
	FirstWind       = 0.5  // of the craft's limit, in a beginner's first flights
	BeyondBest      = 2.0  // m/s over the strongest wind that was passed in
)

var rules = map[string]rule{
	"craft-fit": func(s Situation, _ value) (bool, string, string) {
		if s.Craft.Grounded {
			return false, s.CraftName + " is out of service: " + s.Craft.Why, ""
		}
		return true, "in service", ""
	},
	"proven": func(s Situation, _ value) (bool, string, string) {
		switch {
		case s.Craft.ToProve == "":
			return true, "nothing to prove", ""
		case s.Proving:
			return true, "this is the proving flight (" + s.Craft.ToProve + ")", ""
		}
		return false, "to be proven: " + s.Craft.ToProve, ""
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

func ruleNames() []string { return slices.Sorted(maps.Keys(rules)) }

// judge fills in a line from its answer.
func (l *Line) judge(s Situation, v value) {
	ok, says, next := true, "", ""
	if l.Ask == AskYes && !v.yes {
		ok, says = false, "answered no"
	}
	if r, has := rules[l.Rule]; has && ok {
		ok, says, next = r(s, v)
	}
	l.Says = says
	if ok {
		l.State = OK
		return
	}
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
	return math.Min(craftLimit, math.Max(least, bestPassed+BeyondBest))
}

func windRule(s Situation, _ value) (bool, string, string) {
	if s.Type.WindMps == 0 {
		return true, "the type sets no wind limit", ""
	}
	if s.Wind == nil {
		return false, "no wind was read today", "Read the wind, by the meter or by hand, and note it."
	}
	if !s.Wind.Fresh {
		return false, fmt.Sprintf("the wind was last heard %.0f min ago", s.Wind.Age.Minutes()), "Read the wind anew."
	}
	gust := ""
	if s.Wind.Gust > 0 {
		gust = fmt.Sprintf(", gusts %.1f of %.1f", s.Wind.Gust, s.Type.GustMps)
	}
	says := fmt.Sprintf("%.1f of %.1f m/s%s for the %s", s.Wind.Mean, s.Type.WindMps, gust, s.Type.Title)
	switch {
	case s.Wind.Mean > s.Type.WindMps, s.Type.GustMps > 0 && s.Wind.Gust > s.Type.GustMps:
		return false, says, ""
	case s.PilotMps > 0 && s.Wind.Mean > s.PilotMps:
		return false, fmt.Sprintf("%.1f m/s; %s flies in up to %.1f so far", s.Wind.Mean, orWho(s.Learner), s.PilotMps),
			"Wait for less wind, fly a drill with the instructor's hands near, or train in the simulator."
	}
	if s.PilotMps > 0 {
		says += fmt.Sprintf("; the pilot's limit is %.1f", s.PilotMps)
	}
	return true, says, ""
}

func orWho(name string) string {
	if name == "" {
		return "the pilot"
	}
	return name
}

func cellsRule(s Situation, v value) (bool, string, string) {
	chem := s.Type.Battery.Chemistry
	if s.Pack != nil {
		chem = s.Pack.Chemistry
	}
	mean, spread, err := pack.CheckCells(chem, v.cells)
	if err != nil {
		return false, err.Error(), ""
	}
	low := slices.Min(v.cells)
	at := slices.Index(v.cells, low) + 1
	charge := pack.Charge(chem, low)
	switch {
	case charge < LeastCharge-1e-9:
		return false, fmt.Sprintf("cell %d rests at %.2f V, %.0f %% charged; expected %.2f V (%.0f %%) at least", at, low,
			100*charge, pack.RestVolts(chem, LeastCharge), 100*LeastCharge), ""
	case spread > pack.SpreadLimit+1e-9:
		return false, fmt.Sprintf("cells stand %.2f V apart, cell %d lowest; expected %.2f V at most", spread, at,
			pack.SpreadLimit), "Balance it on the charger and measure again; retire it if it comes back."
	}
	says := fmt.Sprintf("%.2f V a cell, %.0f %% charged, %.2f V apart", mean, 100*pack.Charge(chem, mean), spread)
	if minutes := s.minutes(pack.Charge(chem, low)); minutes > 0 {
		says += fmt.Sprintf("; about %.0f min of hover above the reserve", math.Floor(minutes))
		if s.Minutes > 0 && minutes < s.Minutes {
			return false, fmt.Sprintf("about %.0f min above the reserve, and %.0f are to be flown", math.Floor(minutes),
				s.Minutes), "Take a fuller pack, or plan a shorter flight."
		}
	}
	return true, says, ""
}

// minutes is how long the pack at hand lasts from a charge; 0 where it cannot be
// said.
func (s Situation) minutes(charge float64) float64 {
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
		f.OhmPerCell, _ = s.PackState.OhmOf(*s.Pack, s.Type)
	}
	f.Charge = charge
	l, _ = l.Corrected(s.PackState.Hovers)
	return f.Seconds(l.Hover(), pack.Reserve) / 60
}

func packRule(s Situation, _ value) (bool, string, string) {
	if s.Pack == nil {
		return false, "no pack is named", "Name the pack that goes in, so that its log is kept."
	}
	if err := s.Pack.Check(s.Type); err != nil {
		return false, err.Error(), ""
	}
	if s.PackState.Fitness == pack.Retire {
		return false, s.Pack.Name + ": " + strings.Join(s.PackState.Why, "; "), ""
	}
	says := fmt.Sprintf("%s, %.0f full charges", s.Pack.Name, s.PackState.Cycles)
	if s.PackState.Fitness == pack.Watch {
		says += "; watch: " + strings.Join(s.PackState.Why, "; ")
	}
	return true, says, ""
}

func propellersRule(s Situation, _ value) (bool, string, string) {
	if len(s.Craft.Mounts) == 0 {
		return true, "no set is noted for this craft", ""
	}
	if faults := s.Type.MountFaults(s.Craft.Mounts); len(faults) > 0 {
		return false, strings.Join(faults, "; "), ""
	}
	return true, fmt.Sprintf("%d propellers as noted", len(s.Craft.Mounts)), ""
}

func firmwareRule(s Situation, v value) (bool, string, string) {
	if s.Craft.Firmware == "" {
		return true, "the first version noted for this craft", ""
	}
	if v.text != s.Craft.Firmware {
		return false, fmt.Sprintf("it shows %s; noted is %s", v.text, s.Craft.Firmware), ""
	}
	return true, "as noted", ""
}

func satellitesRule(_ Situation, v value) (bool, string, string) {
	says := fmt.Sprintf("%.0f of %d", v.number, LeastSatellites)
	return v.number >= LeastSatellites, says, ""
}

func compassRule(s Situation, v value) (bool, string, string) {
	needs, why := s.Policy.Needs(s.Craft.Clean, s.Now, s.Zone, s.Where, s.Site, v.text != "quiet")
	if s.Craft.Unclean > 0 {
		return false, "its last calibration was not clean",
			"Ten metres farther from metal, and repeat; twice not clean, and it stays on the ground."
	}
	return !needs, why + " (policy: " + s.Policy.Words() + ")", ""
}

func inertialRule(s Situation, _ value) (bool, string, string) {
	if s.Craft.Inertial.IsZero() { // what was never recorded is not taken to be right
		return false, "no calibration of them is recorded", ""
	}
	days := s.Now.Sub(s.Craft.Inertial).Hours() / 24
	return days <= InertialDays, fmt.Sprintf("%.0f days ago, of %d", days, InertialDays), ""
}

// feetSays is what to do about a figure that was probably typed in another unit.
func feetSays(what string, typed, expected float64, from string) string {
	return fmt.Sprintf("Is that the %s in feet? %.0f m is %.0f ft, and %.0f m is %s. Read it again and note it with its "+
		"unit; where %.0f m is right, an instructor overrides this with a reason.", what, expected, course.Feet(expected),
		expected, from, typed)
}

func returnRule(s Situation, v value) (bool, string, string) {
	read := fmt.Sprintf("%.0f m (%.0f ft)", v.number, course.Feet(v.number))
	if s.ReturnM == 0 {
		if _, is := units.Mistaken(v.number, s.LastReturnM, units.Metre); is {
			return false, read, feetSays("return height", v.number, s.LastReturnM, "what was set at the last check")
		}
		return true, read + "; no course is laid here, so nothing is held against it", ""
	}
	over := s.Tallest
	if over == "" {
		over = "nothing tall on the way"
	}
	says := fmt.Sprintf("%s; wanted %.0f m (%.0f ft) over %s", read, s.ReturnM, course.Feet(s.ReturnM), over)
	if _, is := units.Mistaken(v.number, s.ReturnM, units.Metre); is {
		return false, says, feetSays("return height", v.number, s.ReturnM, "what the course asks for")
	}
	return v.number >= s.ReturnM-0.5, says, ""
}

func fenceRule(s Situation, v value) (bool, string, string) {
	least := s.DrillM + FenceSpare
	inFeet := v.number / course.Feet(1) // what it would be, had it been typed in feet
	switch {
	case v.number == 0 && s.First:
		return false, "off", "Switch it on: in the first flights it stays on."
	case v.number == 0:
		return true, "off", ""
	case s.DrillM > 0 && v.number < least:
		return false, fmt.Sprintf("%.0f m; the drills reach %.0f m from home and want %.0f m to spare", v.number, s.DrillM,
			FenceSpare), "Set it wider, or the fence flies the drill."
	}
	says := fmt.Sprintf("%.0f m (%.0f ft)", v.number, course.Feet(v.number))
	if _, is := units.Mistaken(v.number, s.LastFenceM, units.Metre); is {
		return false, says, feetSays("fence", v.number, s.LastFenceM, "what was set at the last check")
	}
	if s.PeopleM > 0 && v.number > s.PeopleM {
		if s.DrillM > 0 && inFeet >= least && inFeet <= s.PeopleM {
			return false, fmt.Sprintf("%s; the people stand at %.0f m", says, s.PeopleM), feetSays("fence", v.number, inFeet,
				"between the drills and the people")
		}
		return true, fmt.Sprintf("%s; it reaches beyond the people, who stand at %.0f m: it does not keep the craft "+
			"from them", says, s.PeopleM), ""
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
		return true, "it lands where it took off; the return height of the course is worked out for that", ""
	}
	says := "it lands where the pilot stands; the return height and the way home of the course are not worked out for that"
	return !s.First, says, "Set home to the take-off place: in the first flights nothing comes down on the pilot."
}

// HomeIsPilot is the choice for a craft that comes home to its pilot.
const HomeIsPilot = "the pilot"

func handsOffRule(s Situation, v value) (bool, string, string) {
	wind := 0.0
	if s.Wind != nil {
		wind = s.Wind.Mean
	}
	limit := craft.HandsOffM(s.Aids == craft.PositionHold, wind)
	return v.number <= limit, fmt.Sprintf("drifted %.1f m in 10 s, of %.1f", v.number, limit), ""
}

// FullMinutes is how long a full pack of a type hovers above the reserve, at sea
// level; 0 where the type does not say enough.
func FullMinutes(t craft.Type) float64 {
	s := Situation{Type: t, Density: air.SeaLevelDensity}
	return s.minutes(1)
}
