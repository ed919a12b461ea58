package readiness

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
)

var rome = func() *time.Location {
	l, err := time.LoadLocation("Europe/Rome")
	if err != nil {
		panic(err)
	}
	return l
}()

// day0 is a Monday in winter time, ten in the morning.
var day0 = time.Date(2026, 1, 12, 10, 0, 0, 0, rome)

var cell = drill.Cell{Drill: "hover-tail-in", Side: field.NoSide, Aids: craft.HeightHold, Level: 1}

// flights writes attempts from a short hand: P pass, F fail, I incomplete, V
// void, a space for the next day, and marks before the letter: s simulator,
// r without aids, 2 at level two, x not counted.
func flights(s string) []record.Attempt {
	var out []record.Attempt
	at := day0
	a := record.Attempt{}
	reset := func() {
		a = record.Attempt{Drill: cell.Drill, Side: cell.Side, Aids: cell.Aids, Level: 1, CraftClass: craft.Light,
			Source: score.Observed, Counts: true}
	}
	reset()
	for _, c := range s {
		switch c {
		case ' ':
			at = time.Date(at.Year(), at.Month(), at.Day()+1, 10, 0, 0, 0, rome)
			continue
		case 's':
			a.Source = score.Sim
			continue
		case 'r':
			a.Aids = craft.Rate
			continue
		case 'p':
			a.Aids = craft.PositionHold
			continue
		case '2':
			a.Level = 2
			continue
		case 'x':
			a.Counts = false
			continue
		}
		a.Verdict = map[rune]score.Verdict{'P': score.Pass, 'F': score.Fail, 'I': score.Incomplete, 'V': score.Void}[c]
		a.At, a.ID = at, fmt.Sprintf("%04d", len(out))
		out = append(out, a)
		at = at.Add(10 * time.Minute)
		reset()
	}
	return out
}

func judged(list []record.Attempt, at time.Time) Cell {
	return Sort(list, nil, at, rome).Cell(Key{cell, craft.Light})
}

func lastOf(list []record.Attempt) time.Time {
	if len(list) == 0 {
		return day0
	}
	return list[len(list)-1].At
}

func TestStanding(t *testing.T) {
	for _, c := range []struct {
		flown string
		want  Standing
		needs int
		other int
		sim   Standing
	}{
		{"", Untried, 3, 1, Untried},
		{"P", Building, 2, 1, Untried},
		{"PPP", Building, 1, 1, Untried}, // on one date
		{"PP P", Held, 0, 0, Untried},
		{"PP F", Building, 1, 1, Untried},
		{"PPF P", Held, 0, 0, Untried}, // three of the newest four, on two dates
		{"PPFF P", Building, 2, 0, Untried},
		{"PP P F", Held, 0, 0, Untried},    // one fail does not take a held cell away
		{"PP P I", Held, 0, 0, Untried},    // nor does one that was not finished
		{"PP P V", Held, 0, 0, Untried},    // void counts nowhere
		{"PP P FF", Lapsed, 3, 0, Untried}, // two of the newest four do
		{"PP P FFF", Lapsed, 3, 0, Untried},
		{"PP P FPF", Lapsed, 2, 0, Untried},
		{"PP PFP", Held, 0, 0, Untried},
		{"sPsP sP", Untried, 3, 1, Held},
		{"PP sP", Building, 1, 1, Building},
		{"rPrP rP", Held, 0, 0, Untried}, // fewer aids serve more
		{"rPrF rPrP", Held, 0, 0, Untried},
		{"PP P rF", Held, 0, 0, Untried}, // a fail with fewer aids counts only there
		{"pPpP pP", Untried, 3, 1, Untried},
		{"2P2P 2P", Held, 0, 0, Untried}, // a level serves the lower ones
		{"PP P 2F", Held, 0, 0, Untried},
		{"xPxP xP", Untried, 3, 1, Untried},
		{"PP P xF", Held, 0, 0, Untried},
	} {
		list := flights(c.flown)
		got := judged(list, lastOf(list))
		if got.Standing != c.want || got.Needs != c.needs || got.OtherDates != c.other || got.SimStanding != c.sim {
			t.Errorf("%q: %v, needs %d on %d other dates, sim %v; want %v, %d, %d, %v (%s)",
				c.flown, got.Standing, got.Needs, got.OtherDates, got.SimStanding, c.want, c.needs, c.other, c.sim, got.Why)
		}
		if got.Why == "" || (got.NeedsWords() == "") != (c.needs == 0) {
			t.Errorf("%q: why %q, needs %q", c.flown, got.Why, got.NeedsWords())
		}
	}
}

func TestCurrencyDays(t *testing.T) {
	for dates, want := range map[int]int{0: 14, 1: 14, 2: 14, 3: 28, 4: 56, 5: 90, 6: 90, 60: 90} {
		if got := CurrencyDays(dates); got != want {
			t.Errorf("CurrencyDays(%d) = %d, want %d", dates, got, want)
		}
	}
}

func TestCurrencyEndsAtTheWallClockThatMinuteIncluded(t *testing.T) {
	at := func(y int, m time.Month, d, h, min, s int) time.Time { return time.Date(y, m, d, h, min, s, 0, rome) }
	for _, c := range []struct {
		newest, until time.Time
	}{
		{at(2026, 1, 12, 10, 20, 30), at(2026, 1, 26, 10, 20, 30)},
		{at(2026, 3, 20, 10, 20, 0), at(2026, 4, 3, 10, 20, 0)}, // across the change to summer time: 1 h less
		{at(2026, 10, 20, 10, 20, 0), at(2026, 11, 3, 10, 20, 0)},
		{at(2026, 3, 15, 2, 30, 0), at(2026, 3, 29, 3, 0, 0)},                        // 02:30 does not exist on that day
		{at(2026, 10, 11, 2, 30, 0), time.Date(2026, 10, 25, 0, 30, 0, 0, time.UTC)}, // comes twice: the first
		{time.Date(2026, 1, 12, 23, 30, 0, 0, time.UTC), at(2026, 1, 27, 0, 30, 0)},  // a date in the school's zone
	} {
		if got := Until(c.newest, 2, rome); !got.Equal(c.until) {
			t.Errorf("%v is current until %v, want %v", c.newest, got.In(rome), c.until)
		}
		minute := c.until.Truncate(time.Minute)
		if !Current(c.newest, 2, minute.Add(59*time.Second), rome) || Current(c.newest, 2, minute.Add(time.Minute), rome) {
			t.Errorf("%v: the last minute is the one of %v", c.newest, c.until)
		}
	}
}

func TestLapseByAge(t *testing.T) {
	list := flights("PP P")
	newest := lastOf(list)
	if got := judged(list, newest.AddDate(0, 0, 14)); got.Standing != Held {
		t.Errorf("on the fourteenth day: %v", got.Standing)
	}
	got := judged(list, newest.AddDate(0, 0, 15))
	if got.Standing != Lapsed || got.Needs != 1 || got.OtherDates != 0 || !strings.Contains(got.Why, "no pass since") {
		t.Errorf("on the fifteenth day: %+v", got)
	}
	if got := judged(flights("P P P"), newest.AddDate(0, 0, 27)); got.Standing != Held {
		t.Errorf("three dates stay for four weeks: %v", got.Standing)
	}
	if got := judged(list, list[0].At); got.Standing != Building || got.Attempts != 1 {
		t.Errorf("as it stood at the first attempt: %+v", got)
	}
}

func TestCorrectionsReplace(t *testing.T) {
	list := flights("PP P")
	fix := list[1]
	fix.ID, fix.Verdict, fix.Corrects = "9999", score.Fail, list[1].ID
	if got := judged(append(list, fix), lastOf(list)); got.Standing != Building || got.Passes != 2 || got.Attempts != 3 {
		t.Errorf("%+v", got)
	}
}

// plain is the rule again, written as it is said and not as it is computed.
func plain(list []record.Attempt, at time.Time) Standing {
	var e []record.Attempt
	for _, a := range list {
		if a.At.After(at) || a.Verdict == score.Void || a.Source == score.Sim || !a.Counts {
			continue
		}
		same := a.Aids == cell.Aids && a.Level == cell.Level
		harder := a.Verdict == score.Pass && a.Level >= cell.Level && slices.Index(craft.AidsOrder,
			a.Aids) >= slices.Index(craft.AidsOrder, cell.Aids)
		if same || harder {
			e = append(e, a)
		}
	}
	slices.SortFunc(e, func(a, b record.Attempt) int {
		if c := a.At.Compare(b.At); c != 0 {
			return c
		}
		return strings.Compare(a.ID, b.ID)
	})
	held := func(n int, now time.Time) bool {
		passes, dates, newest := 0, map[string]bool{}, time.Time{}
		for i, a := range e[:n] {
			if a.Verdict == score.Pass {
				dates[a.At.In(rome).Format(time.DateOnly)], newest = true, a.At
				if i >= n-4 {
					passes++
				}
			}
		}
		days := min(90, 14<<max(0, min(10, len(dates)-2)))
		l := newest.In(rome)
		until := time.Date(l.Year(), l.Month(), l.Day()+days, l.Hour(), l.Minute(), 59, 999, rome)
		return passes >= 3 && len(dates) >= 2 && !now.After(until)
	}
	if held(len(e), at) {
		return Held
	}
	for n := range e {
		if held(n+1, e[n].At) {
			return Lapsed
		}
	}
	if len(e) > 0 {
		return Building
	}
	return Untried
}

func TestAgainstThePlainRule(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 31))
	seen := map[Standing]int{}
	for range 4000 {
		var b strings.Builder
		for range r.IntN(14) {
			b.WriteString([]string{"P", "P", "P", "F", "I", "V", " ", " ", "rP", "rF", "pP", "2P", "2F", "sP", "xP"}[r.IntN(15)])
		}
		list := flights(b.String())
		r.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
		at := day0.AddDate(0, 0, r.IntN(40)).Add(time.Duration(r.IntN(600)) * time.Minute)
		got := judged(list, at)
		if want := plain(list, at); got.Standing != want {
			t.Fatalf("%q at %v: %v, want %v", b.String(), at, got.Standing, want)
		}
		seen[got.Standing]++
		// What is said to be needed is enough, and one pass fewer is not.
		if got.Standing == Held {
			continue
		}
		for k := 1; k <= got.Needs; k++ {
			more := slices.DeleteFunc(slices.Clone(list), func(a record.Attempt) bool { return a.At.After(at) })
			for i := range k {
				more = append(more, record.Attempt{ID: fmt.Sprintf("z%d", i), At: at.AddDate(0, 0, i+1), Drill: cell.Drill,
					Side: cell.Side,
					Aids: cell.Aids, Level: 1, CraftClass: craft.Light, Verdict: score.Pass, Source: score.Observed, Counts: true})
			}
			if held := judged(more, at.AddDate(0, 0, k)).Standing == Held; held != (k == got.Needs) {
				t.Fatalf("%q: %d more passes, %d said to be needed: held %v", b.String(), k, got.Needs, held)
			}
		}
	}
	if len(seen) != 4 {
		t.Errorf("only %v were reached", seen)
	}
}

func TestReady(t *testing.T) {
	rec := &record.Record{TimeZone: "Europe/Rome", Ladder: "position-hold-first", Attempts: flights("rPrP rP")}
	rep, err := Ready(rec, drill.Shipped(), Options{})
	if err != nil {
		t.Fatal(err)
	}
	byAids := map[craft.Aids]Standing{}
	for _, c := range rep.Cells {
		if c.Drill == cell.Drill && c.Level == 1 {
			byAids[c.Aids] = c.Standing
		}
	}
	for _, a := range craft.AidsOrder {
		if byAids[a] != Held {
			t.Errorf("passes in rate leave %s %v", a, byAids[a])
		}
	}
	if !slices.ContainsFunc(rep.Cells, func(c ReportCell) bool {
		return c.Drill == "yaw-quarter" &&
			c.Standing == Untried
	}) {
		t.Error("the programme's untried cells are not listed")
	}
	data, err := json.Marshal(rep)
	if err != nil || !strings.Contains(string(data), `"standing":"held"`) || !strings.Contains(string(data),
		`"key":"supervised"`) {
		t.Errorf("%s %v", data, err)
	}
	rep, _ = Ready(rec, drill.Shipped(), Options{Class: craft.Heavy})
	for _, c := range rep.Cells {
		if c.CraftClass != craft.Heavy || c.Standing != Untried {
			t.Errorf("asked for heavy: %+v", c)
		}
	}
}

// many writes so many attempts, two of three passed, over three drills.
func many(n int) []record.Attempt {
	r := rand.New(rand.NewPCG(33, 33))
	list := make([]record.Attempt, n)
	for i := range list {
		a := flights("P")[0]
		a.ID, a.At = fmt.Sprint(i), day0.Add(time.Duration(i)*37*time.Minute)
		a.Drill = []string{"hover-tail-in", "yaw-quarter", "landing-pad"}[r.IntN(3)]
		if r.IntN(3) == 0 {
			a.Verdict = score.Fail
		}
		list[i] = a
	}
	return list
}

func BenchmarkReady5000(b *testing.B) {
	list := many(5000)
	rec := &record.Record{TimeZone: "Europe/Rome", Attempts: list}
	cat := drill.Shipped()
	for b.Loop() {
		if _, err := Ready(rec, cat, Options{}); err != nil {
			b.Fatal(err)
		}
	}
}

func TestRingShowsTheWorstOfEachSector(t *testing.T) {
	cat := drill.Shipped()
	lay := func(c drill.Cell) (drill.Task, error) {
		return cat.Drills[c.Drill].Lay(c.Side, c.Level, craft.Light, nil)
	}
	cells := []Cell{
		{Cell: drill.Cell{Drill: "hover-tail-in", Side: field.NoSide, Aids: craft.PositionHold, Level: 1}, Standing: Held},
		{Cell: drill.Cell{Drill: "yaw-quarter", Side: field.LeftSide, Aids: craft.PositionHold, Level: 1}, Standing: Lapsed},
		{Cell: drill.Cell{Drill: "yaw-quarter", Side: field.RightSide, Aids: craft.HeightHold, Level: 1}, Standing: Building},
	}
	r := RingOf(cells, lay)
	r.Add(craft.PositionHold, []float32{7})
	if r.With[0].Standing != Lapsed || r.With[0].Seconds != 7 || r.With[12].Standing != Lapsed || r.With[4].Drills ||
		r.With[8].Drills {
		t.Errorf("with position hold: %+v", r.With)
	}
	if r.Without[4].Standing != Building || !r.Without[0].Drills || r.Without[12].Drills {
		t.Errorf("without: %+v", r.Without)
	}
}

func TestLadderShowsTheWorstOfEachSide(t *testing.T) {
	p := drill.Shipped().Programmes["position-hold-first"]
	halves := Ladder(p, func(c drill.Cell) Cell {
		st := Held
		if c.Side == field.RightSide {
			st = Building
		}
		return Cell{Cell: c, Standing: st}
	})
	for i, r := range p.Rungs {
		sided := r.Cells[0].Side != field.NoSide
		if len(halves[i]) != map[bool]int{true: 2, false: 1}[sided] {
			t.Errorf("rung %s has %d halves", r.Key, len(halves[i]))
		}
		if sided && (halves[i][0].Cell.Standing != Held || halves[i][1].Cell.Standing != Building) {
			t.Errorf("rung %s: %+v", r.Key, halves[i])
		}
	}
	if got := judged(flights("PPF P"), day0.AddDate(0, 0, 1)).Lately(); got != 3 {
		t.Errorf("lately %d", got)
	}
	if got := judged(flights("PF"), day0.AddDate(0, 0, 1)).Lately(); got != 1 {
		t.Errorf("lately %d", got)
	}
}

// BenchmarkStandingAndGates5000 is what a page does once the attempts are read: every cell
// of the ladder and every gate, of evidence that is in order.
func BenchmarkStandingAndGates5000(b *testing.B) {
	list := many(5000)
	e := Sort(list, shipped.Drills, list[len(list)-1].At, rome)
	for b.Loop() {
		for _, c := range shipped.Programmes["position-hold-first"].Cells() {
			e.Plain(Key{c, craft.Light})
		}
		for _, k := range shipped.GateKeys() {
			JudgeGate(shipped.Gates[k], On{Class: craft.Light}, e, nil, nil)
		}
	}
}
