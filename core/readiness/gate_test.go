package readiness

import (
	"strings"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/record"
)

func TestSupervisedGate(t *testing.T) {
	g := drill.Shipped().Gates["supervised"]
	if len(g.Witnessed) != 3 || g.Meaning == "" {
		t.Fatalf("%+v", g)
	}
	at := func(days int) time.Time { return day0.AddDate(0, 0, days) }
	seen := func(days ...int) (out []record.Witnessed) {
		for i, d := range days {
			out = append(out, record.Witnessed{Act: g.Witnessed[i].Key, At: at(d), By: "I"})
		}
		return out
	}
	sign := []record.SignOff{{Gate: "supervised", CraftClass: craft.Light, At: at(3), By: "I", Until: at(183)}}
	for _, c := range []struct {
		name  string
		day   int
		seen  []record.Witnessed
		signs []record.SignOff
		want  State
		may   bool
	}{
		{"nothing yet", 1, nil, nil, GateNotReady, false},
		{"two of three", 1, seen(0, 0), nil, GateNotReady, false},
		{"all three", 1, seen(0, 0, 1), nil, GateReady, true},
		{"all three, but later", 1, seen(0, 0, 2), nil, GateNotReady, false},
		{"signed", 10, seen(0, 0, 1), sign, GateSigned, false},
		{"before it was signed", 2, seen(0, 0, 1), sign, GateReady, true},
		{"the sign-off ran out", 184, seen(0, 0, 1), sign, GateLapsed, true},
		{"an act ran out", 366, seen(0, 0, 1), sign, GateLapsed, false},
		{"an act ran out, not signed", 366, seen(0, 0, 1), nil, GateNotReady, false},
	} {
		e := NewEvidence(nil, at(c.day), rome)
		r := JudgeGate(g, On{Class: craft.Light}, e, c.seen, c.signs)
		if r.State != c.want || r.Signable() != c.may || r.Why() == "" {
			t.Errorf("%s: %s, may be signed %v (%s); want %s, %v", c.name, r.State, r.Signable(), r.Why(), c.want, c.may)
		}
	}
	if r := JudgeGate(g, On{Class: craft.Heavy}, NewEvidence(nil, at(10), rome), seen(0, 0, 1),
		sign); r.State != GateReady {
		t.Errorf("a sign-off for another class counts: %s", r.State)
	}
}

func TestAGateOfCells(t *testing.T) {
	g := drill.Gate{Key: "g", Cells: []drill.Cell{cell}, SignedDays: 30}
	at := day0.AddDate(0, 0, 2)
	judgedGate := func(flown string) GateResult {
		return JudgeGate(g, On{Class: craft.Light}, Sort(flights(flown), nil, at, rome), nil, nil)
	}
	if r := judgedGate("PP P"); r.State != GateReady || len(r.Missing) != 0 {
		t.Errorf("held: %s", r.State)
	}
	if r := judgedGate("PP"); r.State != GateNotReady || len(r.Missing) != 1 || r.Missing[0].Needs != 1 ||
		!strings.Contains(r.Why(), "1 of 1 drills") {
		t.Errorf("not held: %+v", r)
	}
	if r := judgedGate("sPsP sP"); r.State != GateNotReady {
		t.Error("the simulator satisfied a gate")
	}
	if got := (&GateResult{Gate: g}).Until(day0, rome); !got.Equal(day0.AddDate(0, 0, 30)) {
		t.Errorf("a sign-off lasts until %v", got)
	}
}

func TestReportListsGates(t *testing.T) {
	rec := &record.Record{TimeZone: "Europe/Rome", Attempts: flights("PP P"),
		Witnessed: []record.Witnessed{{Act: "briefing", At: day0, By: "I"}}}
	rep, err := Ready(rec, drill.Shipped(), Options{})
	if err != nil || len(rep.Gates) != 4 || rep.Gates[0].State != GateNotReady || strings.Join(rep.Gates[0].MissingActs,
		" ") != "cautions preflight-unprompted" {
		t.Errorf("%+v %v", rep.Gates, err)
	}
}
