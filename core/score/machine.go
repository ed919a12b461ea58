package score

import (
	"math"
	"slices"
	"sort"

	"maestrale/core/drill"
	"maestrale/core/field"
)

const (
	settle   = 1.0  // s inside before leaving is a fault, at the angle, or standing
	grounded = 0.05 // m of height under which the craft stands on the ground
)

// span is an unbroken time from one moment to another.
type span struct{ from, to float64 }

func (s span) length() float64 { return s.to - s.from }

// clock counts an unbroken time in a state: inside a box, at an angle, at rest.
// It runs once the state has lasted for settle.
type clock struct {
	on      bool
	since   float64 // when the state began
	longest span    // the longest time for which the clock ran
}

// runs is the moment from which the clock counts.
func (c *clock) runs() float64 { return c.since + settle }

func (c *clock) enter(t float64) {
	if !c.on {
		c.on, c.since = true, t
	}
}

func (c *clock) leave(t float64) {
	if c.on {
		c.keep(t)
		c.on = false
	}
}

// keep remembers the stay up to t if it is the longest.
func (c *clock) keep(t float64) {
	if c.on && t-c.runs() > c.longest.length() {
		c.longest = span{c.runs(), t}
	}
}

// flown is a time inside the tolerances of a step.
type flown struct {
	step int
	span
}

// machine runs a task from event to event. The same events come from samples
// and from marks.
type machine struct {
	kinds            []kind // of each step; looked up once, since they are asked at every sample
	task             drill.Task
	res              *Result
	step             int
	ready            float64   // when the step before was done
	start            float64   // when this step began, NaN while it has not
	clock            clock     // inside the box, at the asked angle, or standing
	openFault        int       // fault that lasts while the craft is outside, −1
	late             bool      // the time-out has been said
	spans            []span    // start and end of each step that began
	stays            []span    // the longest stay of each step
	readies          []float64 // when each step could begin
	inTime           []flown   // every time inside that counts for the aspect ring
	touch            float64   // first touch of the landing step, NaN before
	aloft            bool      // left the ground again after touching
	awaitingResponse bool      // something has yet to happen in this step, or to be answered
}

func newMachine(task drill.Task, src Source, start float64) *machine {
	task.Steps = slices.Clone(task.Steps) // a called angle is written into its turn
	m := &machine{task: task, ready: start, openFault: -1, res: &Result{
		Format: "maestrale-result/1", Drill: task.Drill.Key, Side: task.Side, Level: task.Level,
		CraftClass: string(task.Class), Source: src, Unjudged: []string{}, Faults: []Fault{},
	}}
	if task.Scale < 1 {
		m.res.Scale = task.Scale
	}
	n := len(task.Steps)
	m.spans, m.stays, m.readies = make([]span, n), make([]span, n), make([]float64, n)
	m.kinds = make([]kind, n)
	for i, s := range task.Steps {
		m.kinds[i] = kindOf(&task.Steps[i])
		m.spans[i] = span{math.NaN(), math.NaN()}
		m.res.Steps = append(m.res.Steps, StepResult{Index: i, Kind: string(s.Kind), Metrics: map[string]float64{},
			Limits: map[string]float64{}})
	}
	m.begin(start)
	return m
}

func (m *machine) over() bool            { return m.step >= len(m.task.Steps) }
func (m *machine) target() *drill.Target { return &m.task.Steps[m.step] }

// begin makes the current step wait for its own beginning.
func (m *machine) begin(t float64) {
	m.ready, m.start, m.touch = t, math.NaN(), math.NaN()
	m.clock, m.openFault, m.late, m.aloft, m.awaitingResponse = clock{}, -1, false, false, false
	if !m.over() {
		m.readies[m.step] = t
		m.awaitingResponse = asksResponse(*m.target())
	}
}

// started says when the current step began; a take-off says so again while the
// craft is still on the ground.
func (m *machine) started(t float64) {
	m.start = t
	m.spans[m.step].from = t
}

// due is when the clock of the current step, undisturbed, completes it.
func (m *machine) due() float64 {
	return m.kinds[m.step].due(m)
}

// ran notes that a hold begins when its clock first runs.
func (m *machine) ran(t float64) {
	if m.clock.on && math.IsNaN(m.start) && t >= m.clock.runs() && m.target().Kind == drill.Hold {
		m.started(m.clock.runs())
	}
}

// advance tells that nothing else has happened up to t. It returns true when
// that completes the current step.
func (m *machine) advance(t float64) bool {
	if m.over() {
		return false
	}
	m.ran(t)
	if !m.clock.on || m.due() > t {
		m.timeOut(t)
		return false
	}
	end := m.due()
	m.timeOut(end)
	m.finish(end)
	return true
}

// quiet is how long nothing is due if nothing changes: the step ends at end, and takes longer than it may after late;
// each is
// +Inf where that does not come.
func (m *machine) quiet() (end, late float64) {
	late = math.Inf(1)
	if s := m.target(); s.SecondsMax > 0 && !m.late {
		late = m.ready + s.SecondsMax
	}
	return m.due(), late
}

// timeOut says once that the step has taken longer than it may.
func (m *machine) timeOut(t float64) {
	most := m.target().SecondsMax
	if most <= 0 || m.late {
		return
	}
	if m.res.Source == Observed && m.target().Kind == drill.TakeOff {
		return // the eye marks when the craft is in position, not when it is at its height
	}
	from := m.counted()
	if math.IsNaN(from) || t <= from+most {
		return
	}
	m.late = true
	m.fault(Fault{TS: from + most, Code: TimeOut, Value: value(t - from), Limit: value(most)})
}

// counted is from when a step's longest time is counted: a hold has to find its
// place within it.
func (m *machine) counted() float64 {
	if m.target().Kind == drill.Hold {
		return m.ready
	}
	return m.start
}

// finish closes the current step at t and begins the next.
func (m *machine) finish(t float64) {
	m.clock.keep(t)
	m.countTime(t)
	m.close(t)
	m.res.Steps[m.step].Done = true
	m.step++
	m.begin(t)
}

// close keeps what the step leaves behind, done or not.
func (m *machine) close(t float64) {
	m.spans[m.step].to = t
	m.stays[m.step] = m.clock.longest
	if m.late { // how long it really took
		for i := range m.res.Faults {
			if f := &m.res.Faults[i]; f.Step == m.step && f.Code == TimeOut {
				f.Value = value(t - m.counted())
			}
		}
	}
}

// countTime keeps a stay that lasted long enough to count as flown there.
func (m *machine) countTime(t float64) {
	if m.clock.on && t > m.clock.runs() && m.target().Kind == drill.Hold {
		m.inTime = append(m.inTime, flown{m.step, span{m.clock.runs(), t}})
	}
}

// enter tells that the craft is inside every tolerance of the step from t on.
func (m *machine) enter(t float64) {
	m.clock.enter(t)
}

// leave tells that the craft left a tolerance at t. It is a fault only while
// the clock runs, that is after a second inside; from then on it is one fault
// for the whole time outside, until the clock runs again.
func (m *machine) leave(t float64, f Fault) {
	m.ran(t)
	ran := m.clock.on && t >= m.clock.runs()
	m.countTime(t)
	m.clock.leave(t)
	if ran {
		f.TS = t
		m.openFault = m.fault(f)
	}
}

// outside tells how far out the craft is by the criterion that it left by.
func (m *machine) outside(v float64) {
	if m.openFault >= 0 && m.res.Faults[m.openFault].Value != nil && v > *m.res.Faults[m.openFault].Value {
		*m.res.Faults[m.openFault].Value = v
	}
}

// reached tells that the take-off has come to its height.
func (m *machine) reached(t float64) {
	m.timeOut(t)
	m.finish(t)
}

// touched tells of the first touch of a landing.
func (m *machine) touched(t float64) {
	m.touch = t
	if math.IsNaN(m.start) {
		m.started(t)
	}
}

// lifted tells that the craft left the ground again after it had touched.
func (m *machine) lifted(t float64) {
	m.clock.leave(t)
	if !m.aloft {
		m.aloft = true
		m.openFault = m.fault(Fault{TS: t, Code: Bounce, Value: value(0), Limit: value(grounded), Toward: "up"})
	}
}

// fault notes a fault of the current step and returns its index.
func (m *machine) fault(f Fault) int {
	f.Step = min(m.step, len(m.task.Steps)-1)
	m.res.Faults = append(m.res.Faults, f)
	return len(m.res.Faults) - 1
}

// stop ends the run at t, with the current step open.
func (m *machine) stop(t float64) {
	if m.over() {
		return
	}
	m.ran(t)
	m.clock.keep(t)
	m.countTime(t)
	m.timeOut(t)
	m.close(t)
	if m.awaitingResponse {
		m.res.Steps[m.step].Waited = waitsFor(*m.target())
	} else {
		t := m.target()
		m.res.Steps[m.step].Waited = kindOf(t).waiting(t, !math.IsNaN(m.start), !math.IsNaN(m.touch))
	}
	for i := m.step + 1; i < len(m.task.Steps); i++ {
		m.res.Steps[i].Waited = msgStepsBefore
	}
}

// judge gives verdict and margin from what the steps have measured.
//
// The margin is 1 minus the worst share of a limit. Where the faults are more
// than the drill forgives, what they reached counts as well, so that a fail
// shows how far outside it was; forgiven faults do not.
func (m *machine) judge(shares []float64) {
	r := m.res
	sort.SliceStable(r.Faults, func(i, j int) bool { return r.Faults[i].TS < r.Faults[j].TS })
	r.Verdict = Pass
	for _, s := range r.Steps {
		if !s.Done {
			r.Verdict = Incomplete
		}
	}
	if len(r.Faults) > m.task.Drill.MaxFaults {
		r.Verdict = Fail
		for _, f := range r.Faults {
			if f.Value != nil && f.Limit != nil && f.Code != Speed { // a band has no single limit
				shares = append(shares, *f.Value / *f.Limit)
			}
		}
	}
	worst := math.Inf(-1)
	for _, s := range shares {
		worst = math.Max(worst, s)
	}
	// A fail whose faults have no figure, as an eye marks them, has no margin.
	if unmeasured := r.Verdict == Fail && worst <= 1; !unmeasured && !math.IsInf(worst, 0) && !math.IsNaN(worst) {
		r.Margin = value(round(1-worst, 4))
	}
	for i := range r.Faults {
		f := &r.Faults[i]
		f.Text = f.words(&m.task.Steps[f.Step])
		f.TS = round(f.TS, 3)
		if f.Value != nil {
			f.Value = value(round(*f.Value, 4))
		}
		if f.Limit != nil {
			f.Limit = value(round(*f.Limit, 4))
		}
		if f.At != nil {
			f.At = &Place{round(f.At.X, 3), round(f.At.Y, 3), round(f.At.Z, 3)}
		}
	}
	for i := range r.Steps {
		s := &r.Steps[i]
		if from := m.spans[i].from; !math.IsNaN(from) {
			s.StartS = value(round(from, 3))
		}
		if to := m.spans[i].to; s.Done && !math.IsNaN(to) {
			s.EndS = value(round(to, 3))
		}
		for k, v := range s.Metrics {
			s.Metrics[k] = round(v, 4)
		}
		for k, v := range s.Rests {
			s.Rests[k] = round(v, 3)
		}
		for k, v := range s.Limits {
			s.Limits[k] = round(v, 4)
		}
	}
	for i := range r.AspectS {
		r.AspectS[i] = round(r.AspectS[i], 2)
	}
}

func value(v float64) *float64 { return &v }

// sightOf returns the aspect that a step asks for, with the nose as the rule
// says.
func sightOf(s drill.Target, station field.Point) (field.Angle, bool) {
	seen := field.Bearing(s.At.Sub(station))
	switch s.Heading.Kind {
	case drill.Sight:
		return s.Heading.Angle, true
	case drill.Fixed:
		return (s.Heading.Angle - seen).Wrap(), true
	}
	return 0, false
}
