package school

import (
	"bytes"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"
)

func TestZonesAndAddresses(t *testing.T) {
	for zone, good := range map[string]bool{"Europe/Rome": true, "UTC": true, "America/Argentina/Ushuaia": true, "": false,
		"Local": false, "Rome": false, "europe/atlantis": false, "../../etc/passwd": false, "+02:00": false} {
		if err := CheckZone(zone); (err == nil) != good {
			t.Errorf("zone %q: %v", zone, err)
		}
	}
	for text, want := range map[string]string{" Lia@School.Example ": "lia@school.example",
		"a.b+c@x.y.example": "a.b+c@x.y.example",
		"":                  "", "lia": "", "lia@": "", "@x.example": "",
		"lia@local": "", "Lia <lia@x.example>": "", "a b@x.example": "",
		"lia@x.example, b@x.example": "", "lia@x.example\nBcc: b@x.example": "",
		strings.Repeat("a", 250) + "@x.example": ""} {
		got, err := ReadEmail(text)
		if got != want || (err == nil) != (want != "") {
			t.Errorf("%q: %q, %v", text, got, err)
		}
	}
	for name, good := range map[string]bool{"Lia": true, "  ": false, "": false, strings.Repeat("å", 120): true,
		strings.Repeat("å", 121): false, "a\x00b": false, "a\xffb": false} {
		if err := CheckName("The school", name); (err == nil) != good {
			t.Errorf("name %q: %v", name, err)
		}
	}
}

// Whatever is changed in whatever order, a school keeps a chief who can sign in.
func TestASchoolKeepsAChief(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for range 2000 {
		people := []Member{{Role: Chief}, {Role: Instructor}, {Role: Student, Linked: true}, {Role: Chief}}
		for range 30 {
			chiefs := 0
			for _, m := range people {
				if m.Role == Chief && !m.Closed {
					chiefs++
				}
			}
			if chiefs == 0 {
				t.Fatal("nobody is chief")
			}
			i := r.IntN(len(people))
			to := Member{Role: append(slices.Clone(Roles), "owner")[r.IntN(5)], Closed: r.IntN(2) == 0,
				Linked: people[i].Linked}
			if MayChange(people[i], to, chiefs) == nil {
				people[i] = to
			}
			if people[i].Linked != (people[i].Role == Student) || !people[i].Role.Known() {
				t.Fatalf("became %+v", people[i])
			}
		}
	}
}

func TestLinks(t *testing.T) {
	at := func(d time.Duration) *time.Time {
		m := time.Date(2026, 3, 1, 8, 0, 0, 0, time.UTC).Add(d)
		return &m
	}
	ends := *at(7 * 24 * time.Hour)
	for _, c := range []struct {
		used, revoked *time.Time
		now           time.Time
		want          LinkState
	}{
		{nil, nil, *at(0), LinkOpen},
		{nil, nil, ends.Add(-time.Nanosecond), LinkOpen},
		{nil, nil, ends, LinkOver},
		{at(time.Hour), nil, *at(2 * time.Hour), LinkUsed},
		{at(time.Hour), nil, ends.Add(time.Hour), LinkUsed},
		{nil, at(time.Hour), *at(2 * time.Hour), LinkRevoked},
		{at(time.Hour), at(2 * time.Hour), *at(3 * time.Hour), LinkUsed},
	} {
		if got := StateOf(ends, c.used, c.revoked, c.now); got != c.want || (got.Words() == "") != (got == LinkOpen) {
			t.Errorf("%+v: %s", c, got)
		}
	}
	if a, b := NewAddress(), NewAddress(); a == b || len(a) != 32 || bytes.Equal(HashOf(a), HashOf(b)) {
		t.Errorf("%s %s", a, b)
	}
}

// A code is the same however it is typed, and no other.
func TestCodes(t *testing.T) {
	for range 500 {
		code := NewCode()
		if len(code) != 14 || strings.Trim(code, letters+"-") != "" {
			t.Fatalf("code %q", code)
		}
		typed := strings.NewReplacer("-", " ", "0", "o", "1", "l").Replace(strings.ToLower(code))
		if !bytes.Equal(CodeHash(code), CodeHash(" "+typed+" ")) {
			t.Fatalf("%q and %q differ", code, typed)
		}
		if bytes.Equal(CodeHash(code), CodeHash(NewCode())) {
			t.Fatal("two codes are the same")
		}
	}
}

func TestFirstSteps(t *testing.T) {
	p := ProgressOf(Has{}, nil)
	if p.Next != SiteStep || len(p.Left) != len(Steps) || p.States[CourseStep] != StepWaits ||
		p.States[DrillStep] != StepWaits {
		t.Errorf("at the beginning: %+v", p)
	}
	if p = ProgressOf(Has{Sites: 1}, []Step{CraftStep}); p.Next != CourseStep || p.States[CraftStep] != StepSkipped {
		t.Errorf("with a site: %+v", p)
	}
	// Who skips the site is not asked for a course, and comes back to both with the first site.
	if p = ProgressOf(Has{}, []Step{SiteStep}); p.States[CourseStep] != StepSkipped || p.Next != CraftStep {
		t.Errorf("without a site: %+v", p)
	}
	if p = ProgressOf(Has{Sites: 1}, []Step{SiteStep}); p.States[SiteStep] != StepDone || p.Next != CourseStep {
		t.Errorf("a site after all: %+v", p)
	}
	if p = ProgressOf(Has{1, 1, 1, 1, 1, 1, 1}, nil); p.Next != "" || len(p.Left) != 0 {
		t.Errorf("at the end: %+v", p)
	}
	if p = ProgressOf(Has{}, Steps); p.Next != "" || len(p.Left) != 0 {
		t.Errorf("all skipped: %+v", p)
	}
	for _, s := range Steps {
		if s.Words() == "" {
			t.Errorf("%s has no words", s)
		}
	}
}
