package daylogs

import (
	"context"
	"errors"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"maestrale/core/rehearse"
	"maestrale/core/score"
	"maestrale/core/track"
)

// Whatever the clocks of the recorders say and in whatever order the files come, each log is given to the flight that
// it is of, or asks; none is given to a wrong one.
func TestEveryLogFindsItsFlight(t *testing.T) {
	days := uint64(3)
	if testing.Short() {
		days = 1
	}
	for name, clocks := range map[string][3]float64{
		"right":              {1, -3, 2},
		"two hours behind":   {7200, 7195, 7210},
		"each its own":       {-431, 3600, 12.5},
		"a day and a bit on": {-88000, 40, -1800},
	} {
		for _, named := range []naming{byCraft, inFolders, inAHeap} {
			right, asked := 0, 0
			for seed := range days {
				m := makeDay(t, seed+100, 24, clocks, named)
				r := rand.New(rand.NewPCG(seed, 1))
				r.Shuffle(len(m.logs), func(i, j int) {
					m.logs[i], m.logs[j] = m.logs[j], m.logs[i]
					m.truth[i], m.truth[j] = m.truth[j], m.truth[i]
				})
				found, err := Sort(context.Background(), m.day, m.logs, layOf(m.cat), nil)
				if err != nil {
					t.Fatal(err)
				}
				for _, it := range found.Items {
					tr := m.truth[it.Log]
					if it.Asks == Whose {
						asked++
						continue
					}
					if tr.copy {
						continue // which of two same files is kept follows their order
					}
					if it.Flight != tr.flight {
						t.Errorf("%s, names %d: %s is taken for %s, and is %s", name, named, m.logs[it.Log].Name, it.Flight,
							tr.flight)
					} else {
						right++
					}
					if off := found.Logs[it.Log].ClockS - tr.clock; math.Abs(off) > 6 && (named != inAHeap || math.Abs(off) > 20) {
						t.Errorf("%s, names %d: the clock of %s is %.1f s off what it is", name, named, m.logs[it.Log].Name, off)
					}
				}
			}
			// Of a heap of logs by several recorders little is certain; a wrong flight would be worse.
			if named != inAHeap && float64(asked) > 0.1*float64(right+asked) {
				t.Errorf("%s, names %d: %d logs ask whose they are, %d are known", name, named, asked, right)
			}
		}
	}
}

// What was marked is found as what was marked; what was not marked is the planned drill, or asks which; where mark and
// log disagree it is asked which stands.
func TestDrillsAndVerdicts(t *testing.T) {
	m := makeDay(t, 41, 30, [3]float64{0, 0, 0}, byCraft)
	found, err := Sort(context.Background(), m.day, m.logs, layOf(m.cat), nil)
	if err != nil {
		t.Fatal(err)
	}
	marked, stands, which, sure := 0, 0, 0, 0
	for _, it := range found.Items {
		switch {
		case it.Mark != nil && m.logs[it.Log].Track.Heading == nil:
			// The format has no nose: what asks for it is left to the mark.
		case it.Mark != nil && it.Mark.Verdict == score.Pass:
			marked++
			if it.Asks != Certain || it.Result.Verdict != score.Pass {
				t.Errorf("%s marked as passed: %s, %v", it.Cell.Drill, it.Why, it.Asks)
			}
		case it.Mark != nil:
			if stands++; it.Asks != WhichStands {
				t.Errorf("%s marked as failed and flown without a fault: %s", it.Cell.Drill, it.Why)
			}
		case it.Asks == WhichDrill:
			which++
		case it.Result != nil:
			sure++
			if it.Result.Verdict != score.Pass {
				t.Errorf("%s, flown without a fault: %s", it.Cell.Drill, it.Result.Summary())
			}
		}
	}
	if marked < 15 || stands < 3 || sure < 3 {
		t.Errorf("%d marked as passed, %d as failed, %d of another drill, %d sure", marked, stands, which, sure)
	}
}

// Copies, the same flight in another format, what cannot be read, and logs of other days are left out, each with its
// reason; nothing else is.
func TestStraysAreLeftOut(t *testing.T) {
	m := makeDay(t, 5, 12, [3]float64{0, 0, 0}, byCraft)
	n := len(m.logs)
	other := *m.logs[0].Track
	other.Start = other.Start.AddDate(0, -1, 0)
	still := &track.Track{Start: m.day.Starts, T: []float64{0, 1, 2, 3, 4, 5}, X: make([]float64, 6), Y: make([]float64,
		6),
		Z: make([]float64, 6)}
	clockless := *m.logs[0].Track
	clockless.Start = time.Time{}
	thin := thinned(m.logs[1].Track)
	m.logs = append(m.logs,
		Log{Name: "alba-1 of May.csv", Sum: [32]byte{1}, Track: &other},
		Log{Name: "alba-1 on the bench.csv", Sum: [32]byte{2}, Track: still},
		Log{Name: "alba-1 without a clock.csv", Sum: [32]byte{3}, Track: &clockless},
		Log{Name: m.logs[1].Name + ".gpx", Sum: [32]byte{4}, Track: thin},
		Read("holiday.jpg", []byte{0xff, 0xd8, 0, 1, 2}, track.Options{}))
	found, err := Sort(context.Background(), m.day, m.logs, layOf(m.cat), nil)
	if err != nil {
		t.Fatal(err)
	}
	for i, l := range found.Logs {
		if want := i >= n || m.truth[i].copy; want != (l.LeftOut != "") {
			t.Errorf("%s: left out %q", l.Name, l.LeftOut)
		}
	}
}

// A context that ends ends the work; nothing of it is given back.
func TestSortIsCancelled(t *testing.T) {
	m := makeDay(t, 6, 6, [3]float64{0, 0, 0}, byCraft)
	ctx, stop := context.WithCancel(context.Background())
	found, err := Sort(ctx, m.day, m.logs, layOf(m.cat), func(done, _ int) {
		if done == 2 {
			stop()
		}
	})
	if !errors.Is(err, context.Canceled) || found != nil {
		t.Errorf("%v, %v", found, err)
	}
}

// Every question has an answer that ends it; an answer that is not offered is refused.
func TestAnswersEndTheirQuestions(t *testing.T) {
	asked := map[Question]int{}
	for seed := range uint64(6) {
		m := makeDay(t, 60+seed, 9, [3]float64{50000, -9, 4}, naming(seed%3))
		lost := rehearseAt(m, 300)
		m.logs = append(m.logs, lost)
		found, err := Sort(context.Background(), m.day, m.logs, layOf(m.cat), nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, it := range found.Items {
			if it.Asks == Certain {
				continue
			}
			asked[it.Asks]++
			if _, err := Answer(m.day, m.logs, layOf(m.cat), it, "what is not offered"); err == nil {
				t.Errorf("%s takes any answer", it.Asks)
			}
			for _, c := range it.Choices {
				list, err := Answer(m.day, m.logs, layOf(m.cat), it, c.Key)
				if err != nil {
					t.Errorf("%s: %v", it.Asks, err)
				}
				for _, x := range list {
					if x.Asks != Certain && x.Answer == "" {
						t.Errorf("%s, answered with %s, asks %s", it.Asks, c.Words, x.Asks)
					}
					if c.Key == Neither && x.Keeps() {
						t.Errorf("%s, answered with %s, keeps something", it.Asks, c.Words)
					}
				}
			}
		}
	}
	if asked[Whose] == 0 || asked[WhichDrill] == 0 || asked[WhichStands] == 0 {
		t.Errorf("asked were %v", asked)
	}
}

// A log that holds a part of a long flight keeps its own time when it is said whose it is.
func TestAPartOfAFlightKeepsItsTime(t *testing.T) {
	m := makeDay(t, 3, 1, [3]float64{}, byCraft)
	m.day.Marks = nil
	two := m.day.Flights[0]
	two.From, two.To = m.after(0), m.after(3000)
	other := two
	other.ID, other.Student, other.Tail = "other", "student-9", "alba-2"
	m.day.Flights = []Flight{two, other}
	l := rehearseAt(m, 0)
	l.Track.Start = m.after(1000)
	found, err := Sort(context.Background(), m.day, []Log{l}, layOf(m.cat), nil)
	if err != nil || len(found.Items) != 1 || found.Items[0].Asks != Whose {
		t.Fatalf("%+v %v", found, err)
	}
	list, err := Answer(m.day, []Log{l}, layOf(m.cat), found.Items[0], "other")
	if err != nil || len(list) != 1 || !list[0].At.Equal(found.Items[0].At) || list[0].Student != "student-9" {
		t.Errorf("%+v %v", list, err)
	}
}

// rehearseAt is a log of a flight that nobody noted, after the day's last.
func rehearseAt(m *made, after float64) Log {
	task, err := layOf(m.cat)(cellOf(m.cat, "hover-tail-in"), "")
	if err != nil {
		panic(err)
	}
	one := rehearse.Of(task, rehearse.Usual(), rehearse.Error{}).Track(10)
	one.Start = m.day.Ends.Add(time.Duration(after) * time.Second)
	return Log{Name: "somebody's.gpx", Sum: [32]byte{9}, Track: one}
}

func thinned(t *track.Track) *track.Track {
	out := &track.Track{Start: t.Start}
	for i := 0; i < t.Len(); i += 2 {
		out.T, out.X, out.Y, out.Z = append(out.T, t.T[i]), append(out.X, t.X[i]), append(out.Y, t.Y[i]),
			append(out.Z, t.Z[i])
		out.Heading = append(out.Heading, t.Heading[i])
	}
	return out
}

// Sixty logs of ten minutes at 10 Hz, read and sorted.
func BenchmarkSixtyLogs(b *testing.B) {
	standS = 600
	defer func() { standS = 0 }()
	m := makeDay(b, 1, 60, [3]float64{30, -400, 7200}, byCraft)
	bytes := 0
	for _, f := range m.files {
		bytes += len(f.data)
	}
	b.SetBytes(int64(bytes))
	for b.Loop() {
		logs := make([]Log, len(m.files))
		for i, f := range m.files {
			logs[i] = Read(f.name, f.data, m.o)
		}
		if _, err := Sort(context.Background(), m.day, logs, layOf(m.cat), nil); err != nil {
			b.Fatal(err)
		}
	}
}
