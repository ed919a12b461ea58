package readiness

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/record"
)

// Who may sign what, when and until when: every refusal is a sentence, and what is signed
// against the rule names what it waives.
func TestSigning(t *testing.T) {
	g := drill.Shipped().Gates["supervised"]
	at := day0.AddDate(0, 0, 5)
	soon, past := at.AddDate(0, 1, 0), at.AddDate(0, 0, -1)
	var seen []record.Witnessed
	for _, a := range g.Witnessed {
		seen = append(seen, record.Witnessed{Act: a.Key, At: day0, By: "I"})
	}
	ready := JudgeGate(g, On{Class: craft.Light}, NewEvidence(nil, at, rome), seen, nil)
	open := JudgeGate(g, On{Class: craft.Light}, NewEvidence(nil, at, rome), seen[:1], nil)
	signed := JudgeGate(g, On{Class: craft.Light}, NewEvidence(nil, at, rome), seen,
		[]record.SignOff{{Gate: g.Key, CraftClass: craft.Light, At: day0.AddDate(0, 0, 1), Until: soon}})
	chief, may, may2, ended, none := Signer{Name: "C", Chief: true}, Signer{Name: "I", Until: &soon}, Signer{Name: "I",
		Until: &at}, Signer{Name: "I", Until: &past}, Signer{Name: "I"}
	for name, c := range map[string]struct {
		r    GateResult
		by   Signer
		ask  SigningAsk
		want string // of a refusal; empty = it is signed
	}{
		"by the chief":      {ready, chief, SigningAsk{}, ""},
		"by who may":        {ready, may, SigningAsk{}, ""},
		"as the right ends": {ready, may2, SigningAsk{}, "Your right to sign ended on"},
		"the right is over": {ready, ended, SigningAsk{}, "Your right to sign ended on"},
		"no right":          {ready, none, SigningAsk{}, "may not sign gates"},
		"not ready":         {open, chief, SigningAsk{}, "cannot be signed"},
		"signed already":    {signed, chief, SigningAsk{}, "signed already"},
		"against, by another": {open, may, SigningAsk{Against: true, Reason: "He flew it for years elsewhere"},
			"Only the chief"},
		"against, without reason": {open, chief, SigningAsk{Against: true, Reason: " ... "}, "needs its reason"},
		"against":                 {open, chief, SigningAsk{Against: true, Reason: "He flew it for years elsewhere."}, ""},
		"an earlier day":          {ready, may, SigningAsk{Until: at.AddDate(0, 0, 9).Format("2006-01-02")}, ""},
		"a day that is over":      {ready, may, SigningAsk{Until: "2020-01-01"}, "ends before it begins"},
		"too late a day":          {ready, may, SigningAsk{Until: "2099-01-01"}, "at most"},
		"no day":                  {ready, may, SigningAsk{Until: "spring"}, "expected a day as"},
	} {
		c.ask.At = at
		sign, err := c.r.SignOff(c.by, c.ask, rome)
		var no Refusal
		if c.want != "" {
			if !errors.As(err, &no) || !strings.Contains(string(no), c.want) || !strings.HasSuffix(string(no), ".") {
				t.Errorf("%s: %v; expected %q", name, err, c.want)
			}
			continue
		}
		if err != nil || sign.Gate != g.Key || sign.CraftClass != craft.Light || sign.By != c.by.Name || !sign.At.Equal(at) ||
			!sign.Until.After(at) || sign.Until.After(c.r.Until(at, rome)) {
			t.Errorf("%s: %+v, %v", name, sign, err)
		}
		if c.ask.Against != (len(sign.Waived) > 0) || c.ask.Against && (!slices.Equal(sign.Waived, open.Unmet()) ||
			strings.HasSuffix(sign.Reason, ".")) {
			t.Errorf("%s: waives %v by %q", name, sign.Waived, sign.Reason)
		}
		if c.ask.Until != "" && sign.Until.In(rome).Format(time.TimeOnly) != "23:59:59" {
			t.Errorf("%s: until %v", name, sign.Until)
		}
	}
}
