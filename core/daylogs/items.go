package daylogs

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"maestrale/core/drill"
	"maestrale/core/score"
	"maestrale/core/track"
)

const (
	likelyFlight = 0.2  // share of a log and a flight that are one, under which the flight is no answer
	clearly      = 0.6  // the share that a second flight may have of the first one's fit, at most
	meanwhile    = 0.3  // share of a log's time in which somebody else's flight is one that it may be
	markedAt     = 8.0  // s between the beginning of a flight in a log and that of its mark, at most
	motorsRun    = 6.0  // s before the first mark and after the last one that belong to an attempt
	sameAttempt  = 0.5  // share of a mark that lies in a flight of the log, from which they are the same attempt
	notMeant     = -1.0 // margin under which a flight was hardly meant as the drill
)

// candidate is a log as a flight of the day.
type candidate struct {
	log, flight int
	score       float64
}

// candidates are the flights that a log may be, the likeliest first.
func (s *sorter) candidates(i int) (out []candidate) {
	p := &s.at[i]
	for f := range s.day.Flights {
		if !s.flownBy(p.recorder, f) {
			continue
		}
		if v := s.explains(i, f); v >= likelyFlight || s.within(p.whole.moved(p.clock), f) {
			out = append(out, candidate{i, f, v})
		}
	}
	slices.SortStableFunc(out, byScore)
	return out
}

// explains is how well a flight of the day explains a log: how much their times
// are one, and how much what was marked of its student is what flies in the
// log.
func (s *sorter) explains(i, f int) float64 {
	p := &s.at[i]
	v := p.whole.moved(p.clock).alike(s.flightSpan(f))
	for _, a := range p.aloft {
		for m := range s.day.Marks {
			if s.day.Marks[m].Student == s.day.Flights[f].Student && s.flightSpan(f).with(s.markSpan(m)) > 0 {
				v += a.moved(p.clock).alike(s.markSpan(m)) / float64(len(p.aloft))
			}
		}
	}
	return v
}

// assign gives each log the flight that it fits best, the clearest first; a
// flight that a log has taken is not given to another one of the same time.
func (s *sorter) assign() {
	var all []candidate
	for i := range s.logs {
		if s.out.Logs[i].LeftOut == "" && s.at[i].group >= 0 {
			all = append(all, s.candidates(i)...)
		}
	}
	slices.SortStableFunc(all, byScore)
	for _, c := range all {
		p := &s.at[c.log]
		t := p.whole.moved(p.clock)
		if p.flight >= 0 || s.isTaken(c.flight, t) {
			continue
		}
		p.flight = c.flight
		s.taken[c.flight] = append(s.taken[c.flight], t)
		p.sure = (c.score >= fits || s.within(t, c.flight)) && !s.out.Clocks[p.group].Doubt
	}
	for i := range s.logs {
		if p := &s.at[i]; p.flight >= 0 && s.rivalled(i) {
			p.sure = false
		}
	}
}

// rivalled tells whether another flight explains a log nearly as well as the
// one that it was given, and no other log clearly better than this one.
func (s *sorter) rivalled(i int) bool {
	p := &s.at[i]
	mine := s.explains(i, p.flight)
	for _, c := range s.candidates(i) {
		if c.flight == p.flight || c.score <= clearly*mine {
			continue
		}
		other := 0.0 // how well the flight explains the log that has it
		for j := range s.at {
			if s.at[j].flight == c.flight && s.at[j].whole.moved(s.at[j].clock).with(p.whole.moved(p.clock)) > 0 {
				other = max(other, s.explains(j, c.flight))
			}
		}
		if c.score > clearly*other {
			return true
		}
	}
	return !s.isTail(p.recorder) && s.byTimeAlone(i)
}

// byTimeAlone tells whether a log of which nobody knows the craft is given to
// its flight by the time alone, where that is not enough: somebody else flew
// meanwhile, the recorder's clock was off, or the logs are of several
// recorders. What was marked of the student, and of nobody else, at the moments
// at which the log flies is enough.
func (s *sorter) byTimeAlone(i int) bool {
	p := &s.at[i]
	several, n := s.several(p.recorder), s.confirmed(i, p.flight)
	seen, t := n > 0 && !several || n > 1, p.whole.moved(p.clock) // one mark may fit another recorder's clock by chance
	if !seen && (several || math.Abs(p.clock) > near) {
		return true
	}
	for f := range s.day.Flights {
		if f != p.flight && s.flightSpan(f).with(t) > meanwhile*t.length() && (!seen || s.confirmed(i, f) > 0) {
			return true
		}
	}
	return false
}

// several tells whether the logs of one folder fit no single clock: they are of
// several recorders.
func (s *sorter) several(recorder string) bool {
	group := -2
	for i := range s.at {
		p := &s.at[i]
		if s.out.Logs[i].LeftOut != "" || p.recorder != recorder {
			continue
		}
		if group == -2 {
			group = p.group
		}
		if p.group != group || p.group < 0 {
			return true
		}
	}
	return false
}

// confirmed is how much was marked of a flight's student in the time of a log,
// where all of it begins as the log does; 0 where something does not.
func (s *sorter) confirmed(i, flight int) (n int) {
	p := &s.at[i]
	t := p.whole.moved(p.clock)
	for m := range s.day.Marks {
		k := s.markSpan(m)
		if s.day.Marks[m].Student != s.day.Flights[flight].Student || s.flightSpan(flight).with(k) == 0 || t.with(k) == 0 {
			continue
		}
		if !slices.ContainsFunc(p.aloft, func(a span) bool {
			b := a.moved(p.clock)
			return b.alike(k) > sameAttempt && math.Abs(b.from-k.from) < markedAt
		}) {
			return 0
		}
		n++
	}
	return n
}

// isTaken tells whether an item of a flight lies in a time already.
func (s *sorter) isTaken(flight int, t span) bool {
	return slices.ContainsFunc(s.taken[flight], func(o span) bool { return o.with(t) > 0 })
}

// itemsOf tells what was flown in a log.
func (s *sorter) itemsOf(i int) {
	said, p := &s.out.Logs[i], &s.at[i]
	if said.LeftOut != "" {
		return
	}
	if p.flight < 0 {
		if off := time.Duration(math.Abs(p.whole.from-s.seconds(s.day.Starts)) * float64(time.Second)); p.group < 0 &&
			(p.whole.to < -day || p.whole.from > s.seconds(s.day.Ends)+day) {
			said.LeftOut = fmt.Sprintf(msgAnotherDay, int(off.Hours()/24+0.5))
			return
		}
		s.asksWhose(i)
		return
	}
	if !p.sure {
		s.asksWhose(i)
		return
	}
	s.out.Items = append(s.out.Items, s.drillsOf(i, p.flight)...)
}

const day = 24 * hour

// asksWhose makes one item of the whole log, which asks whose flight it is.
func (s *sorter) asksWhose(i int) {
	p, said := &s.at[i], &s.out.Logs[i]
	it := s.item(i, span{p.whole.from, p.whole.to})
	it.Asks, it.Why = Whose, msgNoFlightThen
	list := s.candidates(i)
	if len(list) == 0 { // by the length of the flight alone
		for f := range s.day.Flights {
			if s.flownBy(p.recorder, f) {
				d := s.flightSpan(f)
				list = append(list, candidate{i, f, -math.Abs(d.from - p.whole.from - p.clock)})
			}
		}
		slices.SortStableFunc(list, byScore)
	} else if p.flight >= 0 {
		it.Why = msgSeveralFlightsThen
		if p.group >= 0 && s.out.Clocks[p.group].Doubt {
			it.Why = msgClockFitsSeveral
		}
	}
	for _, c := range list[:min(len(list), 6)] {
		it.Choices = append(it.Choices, Choice{Key: s.day.Flights[c.flight].ID, Words: s.flightWords(c.flight)})
	}
	it.Choices = append(it.Choices, Choice{Key: Neither, Words: msgNoneOfThese})
	said.ClockS = p.clock
	s.out.Items = append(s.out.Items, it)
}

// flightWords name a flight: who, with which craft, from when to when.
func (s *sorter) flightWords(f int) string {
	x := s.day.Flights[f]
	return fmt.Sprintf(msgFlightWithTimes, x.Name, x.Tail, x.From.In(s.day.Starts.Location()).Format("15:04"),
		x.To.In(s.day.Starts.Location()).Format("15:04"))
}

// item is a part of a log; its time is by the log's own clock.
func (s *sorter) item(i int, t span) Item {
	begin := s.seconds(s.logs[i].Track.Start)
	return Item{ID: fmt.Sprintf("%x-%.0f", s.logs[i].Sum[:6], t.from-begin), Log: i, FromS: t.from - begin,
		ToS: t.to - begin,
		At:  s.day.Starts.Add(time.Duration((t.from + s.at[i].clock) * float64(time.Second)))}
}

// drillsOf tells which drills were flown in a log that is a flight of the day.
func (s *sorter) drillsOf(i, flight int) (out []Item) {
	p, f := &s.at[i], &s.day.Flights[flight]
	for _, a := range p.aloft {
		var marked []int
		for m := range s.day.Marks {
			k := &s.day.Marks[m]
			if b := s.markSpan(m); k.Student == f.Student && (k.Craft == f.Craft || k.Craft == "") && b.length() > 0 &&
				a.moved(p.clock).with(b) > sameAttempt*b.length() {
				marked = append(marked, m)
			}
		}
		slices.SortFunc(marked, func(x, y int) int { return s.day.Marks[x].From.Compare(s.day.Marks[y].From) })
		for n, m := range marked {
			part := s.partOf(a, m, marked, n, p.clock)
			out = append(out, s.marked(i, flight, m, part))
		}
		if len(marked) == 0 {
			out = append(out, s.unmarked(i, flight, a))
		}
	}
	return out
}

// partOf is the time of a log that a mark is of: between the marks before and
// after it, and no longer than motors run beside an attempt.
func (s *sorter) partOf(a span, m int, marked []int, n int, clock float64) span {
	if len(marked) == 1 {
		return a
	}
	own := s.markSpan(m).moved(-clock)
	from, to := math.Max(a.from, own.from-motorsRun), math.Min(a.to, own.to+motorsRun)
	if n > 0 {
		from = math.Max(from, s.markSpan(marked[n-1]).to-clock)
	}
	if n+1 < len(marked) {
		to = math.Min(to, s.markSpan(marked[n+1]).from-clock)
	}
	return span{from, to}
}

// marked is an attempt that was marked by eye as well.
func (s *sorter) marked(i, flight, m int, part span) Item {
	it, k := s.item(i, part), s.day.Marks[m]
	s.of(&it, flight)
	it.Mark, it.Cell = &k, k.Cell
	r, err := s.score(&it)
	if err != nil {
		it.Why = fmt.Sprintf(msgNotScoredAsMarked, err.Error())
		return it
	}
	it.Result = r
	switch eye := k.Verdict; {
	case eye == r.Verdict:
		it.Why = fmt.Sprintf(msgMarkAndLogAgree, orSomebody(k.By), eye)
	case r.Verdict == score.Incomplete:
		it.Why = fmt.Sprintf(msgLogTooShort,
			orSomebody(k.By), eye)
		it.Result = nil
	default:
		it.Asks = WhichStands
		it.Why = fmt.Sprintf(msgMarkAndLogDiffer, orSomebody(k.By), eye, r.Verdict, r.Summary())
		it.Choices = []Choice{{Key: TheMark, Words: fmt.Sprintf(msgMarkStands, string(eye))},
			{Key: TheLog, Words: fmt.Sprintf(msgLogStands, string(r.Verdict))}, {Key: Neither, Words: msgLeaveLogOut}}
	}
	return it
}

// orSomebody is a name, or "Somebody".
func orSomebody(by string) string { return cmp.Or(by, "Somebody") }

// of notes whose flight an item is of.
func (s *sorter) of(it *Item, flight int) {
	f := &s.day.Flights[flight]
	it.Flight, it.Student, it.Craft = f.ID, f.Student, f.Craft
}

// score judges an item as the drill of its cell.
func (s *sorter) score(it *Item) (*score.Result, error) {
	task, err := s.lay(it.Cell, it.Craft)
	if err != nil {
		return nil, err
	}
	return Score(task, s.logs[it.Log].Track, it.FromS, it.ToS)
}

// Score judges a part of a log, with what stands on the ground around it.
func Score(task drill.Task, t *track.Track, fromS, toS float64) (*score.Result, error) {
	r, err := score.Track(task, t.Between(fromS-0.01, toS+0.01), score.FromLog)
	if err != nil {
		return nil, fmt.Errorf("from %.0f to %.0f s: %w", fromS, toS, err)
	}
	return r, nil
}

// guess is an item as one of the drills that it may be.
type guess struct {
	cell   drill.Cell
	result *score.Result
}

// meant tells whether a flight was flown to the end of a drill, and not far off it.
func (g guess) meant() bool {
	for _, st := range g.result.Steps {
		if !st.Done {
			return false
		}
	}
	return g.result.Verdict == score.Pass || g.result.Margin != nil && *g.result.Margin >= notMeant
}

// unmarked is a flight that nobody marked: the drills that are likely are tried.
func (s *sorter) unmarked(i, flight int, a span) Item {
	it := s.item(i, a)
	s.of(&it, flight)
	f := &s.day.Flights[flight]
	var list []guess
	var wrong error
	for n, cell := range f.Drills {
		if slices.Contains(f.Drills[:n], cell) {
			continue
		}
		it.Cell = cell
		r, err := s.score(&it)
		if err != nil {
			wrong = errors.Join(wrong, err)
			continue
		}
		if g := (guess{cell, r}); g.meant() {
			list = append(list, g)
		}
	}
	it.Cell = drill.Cell{}
	if len(list) == 0 {
		it.Why = msgNoDrillToItsEnd
		if wrong != nil && len(f.Drills) == 1 {
			it.Why = fmt.Sprintf(msgNotScored, wrong.Error())
		}
		return it
	}
	slices.SortStableFunc(list, func(x, y guess) int { return cmp.Compare(rank(y, f), rank(x, f)) })
	it.Cell, it.Result = list[0].cell, list[0].result
	if it.Cell == f.Drills[0] {
		it.Why = msgPlannedDrillFlown
	} else {
		it.Asks, it.Why = WhichDrill, msgOtherDrillFlown
		it.Choices = choicesOf(list)
	}
	if it.Asks == Certain && it.Result.Close() {
		it.Asks = IsClose
		it.Why += fmt.Sprintf(msgLogNotSure, it.Result.Verdict)
		it.Choices = []Choice{{Key: TheLog, Words: fmt.Sprintf(msgKeepAs, string(it.Result.Verdict))},
			{Key: Neither, Words: msgLeaveLogOut}}
	}
	return it
}

// rank is how likely a drill is the one that was meant: the planned one first,
// then passes, then by the margin.
func rank(g guess, f *Flight) float64 {
	v := 0.0
	if g.cell == f.Drills[0] {
		v += 100
	}
	if g.result.Verdict == score.Pass {
		v += 10
	}
	if g.result.Margin != nil {
		v += *g.result.Margin
	}
	return v
}

// choicesOf are the five likeliest drills to choose from, and none of them.
func choicesOf(list []guess) (out []Choice) {
	for _, g := range list[:min(len(list), 5)] {
		out = append(out, Choice{Key(g.cell), string(g.result.Verdict), &g.cell})
	}
	return append(out, Choice{Key: Neither, Words: "no drill"})
}

// Key is a cell in one word.
func Key(c drill.Cell) string { return fmt.Sprintf("%s|%s|%s|%d", c.Drill, c.Side, c.Aids, c.Level) }
