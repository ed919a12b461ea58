package school

import "slices"

// Step is one of the first steps of a new school.
type Step string

// The first steps, in the order in which they build on one another.
const (
	SiteStep    Step = "site"
	CourseStep  Step = "course"
	CraftStep   Step = "craft"
	PacksStep   Step = "packs"
	StaffStep   Step = "staff"
	StudentStep Step = "student"
	DrillStep   Step = "drill"
)

// Steps are all first steps in order.
var Steps = []Step{SiteStep, CourseStep, CraftStep, PacksStep, StaffStep, StudentStep, DrillStep}

// Words names a step as something to be done.
func (s Step) Words() string {
	switch s {
	case SiteStep:
		return msgStepSite
	case CourseStep:
		return msgStepCourse
	case CraftStep:
		return msgStepCraft
	case PacksStep:
		return "the packs"
	case StaffStep:
		return msgStepPeople
	case StudentStep:
		return msgStepStudent
	case DrillStep:
		return msgStepDrill
	}
	return ""
}

// Has is what a school has of what the first steps bring.
type Has struct{ Sites, Courses, Craft, Packs, Staff, Students, Attempts int }

// Of is how many there are of what a step brings. Staff counts the people
// besides the chief who teach or spot, those who were invited among them.
func (h Has) Of(s Step) int {
	switch s {
	case SiteStep:
		return h.Sites
	case CourseStep:
		return h.Courses
	case CraftStep:
		return h.Craft
	case PacksStep:
		return h.Packs
	case StaffStep:
		return h.Staff
	case StudentStep:
		return h.Students
	}
	return h.Attempts
}

// StepState says how a step stands.
type StepState string

// The states of a step.
const (
	StepDone    StepState = "done"
	StepSkipped StepState = "skipped"
	StepOpen    StepState = "open"
	// StepWaits is the state of a step that needs an earlier one, which is
	// neither done nor possible to do without.
	StepWaits StepState = "waits"
)

// needs says which step has to be done before another can be: a course lies at
// a site, a drill is flown by a student. Packs are of a type of craft, not of
// one craft, and can come first.
func (s Step) needs() (Step, bool) {
	switch s {
	case CourseStep:
		return SiteStep, true
	case DrillStep:
		return StudentStep, true
	}
	return "", false
}

// Progress is how the first steps stand.
type Progress struct {
	States map[Step]StepState
	Left   []Step // open or waiting, in order
	Next   Step   // the first that can be done now; empty when none is left
}

// ProgressOf works out how the first steps stand. What a school has is done,
// whether or not it was skipped before.
func ProgressOf(h Has, skipped []Step) Progress {
	p := Progress{States: map[Step]StepState{}}
	for _, s := range Steps {
		// before is the step that this one needs, if it needs one.
		before, needs := s.needs()
		switch {
		case h.Of(s) > 0:
			p.States[s] = StepDone
			continue
		case slices.Contains(skipped, s):
			p.States[s] = StepSkipped
			continue
		// What it needs is not there.
		case needs && h.Of(before) == 0:
			p.States[s] = StepWaits
		default:
			p.States[s] = StepOpen
		}
		// What waits for a step that was skipped is not asked for.
		if p.States[s] == StepWaits && slices.Contains(skipped, before) {
			p.States[s] = StepSkipped
			continue
		}
		p.Left = append(p.Left, s)
		// Later ones may be open too; the first is the one to name.
		if p.Next == "" && p.States[s] == StepOpen {
			p.Next = s
		}
	}
	return p
}
