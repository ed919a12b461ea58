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

// span is an unbroken time from one moment to another, in seconds of the
// attempt.
type span struct{ from, to float64 }

// length is in seconds; that of a step that never began is NaN.
func (s span) length() float64 { return s.to - s.from }

// clock counts an unbroken time in a state: inside a box, at an angle, at rest.
// It runs once the state has lasted for settle.
type clock struct {
	on      bool
	since   float64 // when the state began
	longest span    // the longest time for which the clock ran
}

// runs is the moment from which the clock counts, settle seconds after the
// state began.
func (c *clock) runs() float64 { return c.since + settle }

// enter says that the state holds from t on; a second time it changes nothing.
func (c *clock) enter(t float64) {
	if !c.on {
		c.on, c.since = true, t
	}
}

// leave says that the state ended at t.
func (c *clock) leave(t float64) {
	if c.on {
		c.keep(t)
		c.on = false
	}
}

// keep remembers the stay up to t if it is the longest so far. It may be called
// while the state goes on.
func (c *clock) keep(t float64) {
	if c.on && t-c.runs() > c.longest.length() {
		c.longest = span{c.runs(), t}
	}
}

// flown is a time that was flown inside the tolerances of a step; it counts for
// the aspect ring.
type flown struct {
	step int
	span
}

// machine runs a task from event to event: entered, left, reached, touched,
// finished. The same events come from samples (sampler) and from marks
// (observer), so that all sources are judged by the same rules. Times are
// seconds of the attempt and never go back.
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

// newMachine returns a machine for a task that begins at start seconds, waiting
// for its first step. The task's steps are copied.
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

// over tells whether every step is done.
func (m *machine) over() bool { return m.step >= len(m.task.Steps) }

// target is the step that runs. There must be one: ask over first.
func (m *machine) target() *drill.Target { return &m.task.Steps[m.step] }

// begin makes the current step wait for its own beginning, from t on.
func (m *machine) begin(t float64) {
	m.ready, m.start, m.touch = t, math.NaN(), math.NaN()
	m.clock, m.openFault, m.late, m.aloft, m.awaitingResponse = clock{}, -1, false, false, false
	if !m.over() {
		m.readies[m.step] = t
		m.awaitingResponse = asksResponse(*m.target())
	}
}

// started says when the current step began. A take-off says so again at every
// sample on the ground, so that the last one stands.
func (m *machine) started(t float64) {
	m.start = t
	m.spans[m.step].from = t
}

// due is when the clock of the current step, undisturbed, completes it; +Inf
// for never.
func (m *machine) due() float64 {
	return m.kinds[m.step].due(m)
}

// ran notes the beginning of a hold, which is when its clock first runs.
func (m *machine) ran(t float64) {
	if m.clock.on && math.IsNaN(m.start) && t >= m.clock.runs() && m.target().Kind == drill.Hold {
		m.started(m.clock.runs())
	}
}

// advance says that nothing else has happened up to t. It returns true when
// that completes the current step; the caller asks again, since the next step
// may be complete as well.
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

// quiet is for how long nothing is due while nothing changes: the step ends at
// end, and has taken longer than it may after late. Either is +Inf where that
// does not come. It lets the sampler skip samples.
func (m *machine) quiet() (end, late float64) {
	late = math.Inf(1)
	if s := m.target(); s.SecondsMax > 0 && !m.late {
		late = m.ready + s.SecondsMax
	}
	return m.due(), late
}

// timeOut notes, once, that the step has taken longer than it may by t.
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

// counted is the moment from which a step's longest time is counted. That of a
// hold includes finding its place, so that it counts from when the step before
// was done; NaN where the step has not begun.
func (m *machine) counted() float64 {
	if m.target().Kind == drill.Hold {
		return m.ready
	}
	return m.start
}

// finish closes the current step as done at t, and begins the next.
func (m *machine) finish(t float64) {
	m.clock.keep(t)
	m.countTime(t)
	m.close(t)
	m.res.Steps[m.step].Done = true
	m.step++
	m.begin(t)
}

// close keeps what the step leaves behind, done or not: its span and its
// longest stay. A fault of its time is given the time that it really took.
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

// countTime keeps the stay that goes on as time flown inside, once it has
// lasted for settle.
func (m *machine) countTime(t float64) {
	if m.clock.on && t > m.clock.runs() && m.target().Kind == drill.Hold {
		m.inTime = append(m.inTime, flown{m.step, span{m.clock.runs(), t}})
	}
}

// enter says that the craft is inside every tolerance of the step from t on.
func (m *machine) enter(t float64) {
	m.clock.enter(t)
}

// leave says that the craft left a tolerance at t, which f describes. It is a
// fault only while the clock runs, after a second inside; from then on it is
// one fault for the whole time outside, until the clock runs again.
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

// outside says how far out the craft is, by the criterion that it left by. The
// fault that goes on keeps the largest.
func (m *machine) outside(v float64) {
	if m.openFault >= 0 && m.res.Faults[m.openFault].Value != nil && v > *m.res.Faults[m.openFault].Value {
		*m.res.Faults[m.openFault].Value = v
	}
}

// reached says that the take-off has come to its height, or that the motors
// were stopped in time.
func (m *machine) reached(t float64) {
	m.timeOut(t)
	m.finish(t)
}

// touched says that a landing touched the ground for the first time.
func (m *machine) touched(t float64) {
	m.touch = t
	if math.IsNaN(m.start) {
		m.started(t)
	}
}

// lifted says that the craft left the ground again after it had touched: a
// bounce, which is one fault however often it happens before the craft stands.
func (m *machine) lifted(t float64) {
	m.clock.leave(t)
	if !m.aloft {
		m.aloft = true
		m.openFault = m.fault(Fault{TS: t, Code: Bounce, Value: value(0), Limit: value(grounded), Toward: "up"})
	}
}

// fault notes a fault of the current step, or of the last one once all are
// done, and returns its index.
func (m *machine) fault(f Fault) int {
	f.Step = min(m.step, len(m.task.Steps)-1)
	m.res.Faults = append(m.res.Faults, f)
	return len(m.res.Faults) - 1
}

// stop ends the attempt at t, with the current step left open. The steps that
// are not done say what they waited for.
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
		m.res.Steps[i].Waited = msgWaitsForStepsBefore
	}
}

// judge gives the verdict and the margin from the shares of the limits that
// were measured, and rounds every figure of the result. It is called once, at
// the end.
//
// The margin is 1 minus the worst share of a limit: 0.3 means that the worst
// came to 70 % of its limit, and less than 0 that one was passed. Where the
// faults are more than the drill forgives, what they reached counts as well, so
// that a fail shows how far outside it was; forgiven faults do not.
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
	// Forgiven faults took no share; what is left is the worst that counts.
	worst := math.Inf(-1)
	for _, s := range shares {
		worst = math.Max(worst, s)
	}
	// A fail whose faults have no figure, as an eye marks them, has no margin.
	if unmeasured := r.Verdict == Fail && worst <= 1; !unmeasured && !math.IsInf(worst, 0) && !math.IsNaN(worst) {
		r.Margin = value(round(1-worst, 4))
	}
	m.finished()
}

// finished puts the faults into words and rounds every figure of the result: times
// to a millisecond, the others to what a debrief can show.
func (m *machine) finished() {
	r := m.res
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

// value returns a pointer to v: a figure that JSON writes, where nil is null.
func value(v float64) *float64 { return &v }

// sightOf returns the aspect that a step asks for at its place, with the nose
// as its rule says: 0 is tail-in, π nose-in. ok is false for a rule that asks
// for none.
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
