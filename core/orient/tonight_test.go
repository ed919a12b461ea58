package orient

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"maestrale/core/field"
)

var sectorNames = func() (n [field.Sectors]string) {
	for i := range n {
		n[i] = "s"
	}
	n[4] = "right"
	return n
}()

// answered are so many answers, wrong where the sector is the weak one.
func answered(n, weak int) *Reflexes {
	r := ReflexesOf(nil)
	at := time.Date(2026, 3, 1, 20, 0, 0, 0, time.UTC)
	items := Items()
	for i := range n {
		it := items[(7*i)%len(items)]
		r.Add(Answer{Item: it, At: at.Add(time.Duration(i) * time.Second), Seconds: 0.7, Right: it.Sector != weak})
	}
	return r
}

func TestTonight(t *testing.T) {
	pass := func(level string, n int) (out []Run) {
		for range n {
			out = append(out, Run{Level: level, Pass: true})
		}
		return out
	}
	for name, c := range map[string]struct {
		r    *Reflexes
		runs []Run
		want string
	}{
		"nothing":        {answered(5, -1), nil, "Two minutes a day"},
		"weak":           {answered(400, 4), nil, "weak at s, right"},
		"never lost":     {answered(400, -1), nil, "about 6 minutes: still air"},
		"one grade on":   {answered(400, -1), pass("still", 3), "about 6 minutes: wind"},
		"a fail between": {answered(400, -1), append(pass("still", 2), Run{Level: "still"}), "about 6 minutes: still air"},
		"with the coach": {answered(400, -1), []Run{{Level: "still", Pass: true, Coached: true}, {Level: "still", Pass: true,
			Coached: true}, {Level: "still", Pass: true, Coached: true}}, "still air"},
		"every grade": {answered(400, -1), append(append(append(pass("still", 3), pass("wind", 3)...),
			pass("along", 3)...), pass("birds", 3)...), "two minutes keep it"},
		"the last begins": {answered(400, -1), append(append(append(pass("still", 3), pass("wind", 3)...),
			pass("along", 3)...), pass("birds", 1)...), "about 6 minutes: birds"},
	} {
		got, with := Tonight(c.r, c.runs, sectorNames)
		if !strings.Contains(got[0], c.want) || got[1] == "" || (with == WithLost) != strings.Contains(c.want, ": ") &&
			name != "with the coach" {
			t.Errorf("%s: %q with %s", name, got, with)
		}
	}
}

func TestLevelsBeginAsTheySay(t *testing.T) {
	for _, l := range Levels {
		if got, err := LevelOf(l.Key); err != nil || got != l || l.How == "" {
			t.Errorf("%s: %+v, %v", l.Key, got, err)
		}
		n := 0
		for deg := range 360 {
			a := field.Degrees(float64(deg))
			if l.Begins(a) {
				n++
				if across := math.Abs(math.Sin(float64(a))); l.Along && across > 0.21 || l.Key == "still" && across < 0.49 {
					t.Errorf("%s begins at %d°", l.Key, deg)
				}
			}
		}
		if n < 30 {
			t.Errorf("%s begins at %d aspects", l.Key, n)
		}
	}
	if _, err := LevelOf("moon"); err == nil || !strings.Contains(err.Error(), "expected still") {
		t.Error(err)
	}
}

// A protocol hangs the craft where its aspect cannot be told, keeps it where it gets home
// from, and turns the nose away from where it was.
func TestProtocol(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	base := Site{TellM: 48, FromM: 35, LostM: 10, LimitS: 22, HeightM: 10, Yaw: field.Degrees(45), SpoilS: [2]float64{2,
		8}}
	for range 300 {
		p, err := NewProtocol(base, r)
		if err != nil || p.DistanceM != 55 || p.EndM != 65 || p.Told || p.EndS != 22 {
			t.Fatalf("%+v, %v", p, err)
		}
		if p.Left < 2 || p.Left > 8 || p.Right < 2 || p.Right > 8 || p.Nose.Abs().Deg() < 30 {
			t.Fatalf("%+v", p)
		}
		if want := field.Degrees(45 * (p.Right - p.Left)).Wrap(); (p.Nose - want).Wrap().Abs() > 1e-9 {
			t.Fatalf("%v for %v", p.Nose.Deg(), want.Deg())
		}
	}
	for name, c := range map[string]struct {
		change func(*Site)
		metres float64
		told   bool
		wrong  string
	}{
		"near eyes":      {func(s *Site) { s.TellM = 20 }, 35, false, ""},
		"a short pack":   {func(s *Site) { s.MostM = 60 }, 50, false, ""},
		"far eyes":       {func(s *Site) { s.TellM, s.MostM = 200, 80 }, 70, true, ""},
		"a shorter pack": {func(s *Site) { s.MostM = 40 }, 0, false, "gets home from 40 m"},
		"no distance":    {func(s *Site) { s.FromM = 0 }, 0, false, "expected over 0"},
		"no yaw":         {func(s *Site) { s.Yaw = 0 }, 0, false, "expected over 0"},
	} {
		s := base
		c.change(&s)
		p, err := NewProtocol(s, r)
		if c.wrong != "" {
			if err == nil || !strings.Contains(err.Error(), c.wrong) {
				t.Errorf("%s: %v", name, err)
			}
			continue
		}
		if err != nil || p.DistanceM != c.metres || p.Told != c.told {
			t.Errorf("%s: %+v, %v", name, p, err)
		}
	}
}

// What a grade came to leaves the coached runs out, and means home over those that came home.
func TestGradedOf(t *testing.T) {
	list := []Run{
		{Level: "still", Pass: true, Ended: true, HomeS: 8, LostM: 1},
		{Level: "still", LostM: 5, Wrong: 3},
		{Level: "still", Pass: true, Ended: true, HomeS: 2, Coached: true},
		{Level: "wind", Ended: true, HomeS: 20, LostM: 6, Wrong: 1},
	}
	if g := GradedOf("still", list); g != (Graded{Flown: 2, Passed: 1, Home: 1, HomeS: 8, LostM: 3, Wrong: 1.5}) {
		t.Errorf("%+v", g)
	}
	if g := GradedOf("", list); g.Flown != 3 || g.Passed != 1 || g.HomeS != 14 {
		t.Errorf("of all: %+v", g)
	}
	if g := GradedOf("birds", list); g != (Graded{}) {
		t.Errorf("of none: %+v", g)
	}
}

// A look is missed where another input was to tell clearly more, the most of them named.
func TestMissed(t *testing.T) {
	at := func(did string, told float64, best Input, bits float64, home bool) Stretch {
		return Stretch{Input: did, Bits: told, Before: Advice{Next: Choice{Input: best, Bits: bits}, GoHome: home}}
	}
	for name, c := range map[string]struct {
		list []Stretch
		want int
	}{
		"none":          {nil, -1},
		"done":          {[]Stretch{at("ahead", 0, Forward, 2, false)}, -1},
		"little more":   {[]Stretch{at("ahead", 0.8, YawLeft, 1, false)}, -1},
		"home was best": {[]Stretch{at("ahead", 0, YawLeft, 2, true)}, -1},
		"goes on":       {[]Stretch{{Input: "ahead"}}, -1},
		"the most": {[]Stretch{at("ahead", 0.1, YawLeft, 0.6, false), at("let go", 0, YawRight, 1.4, false),
			at("back", 0, Forward, 0.9, false)}, 1},
	} {
		if got := Missed(c.list); got != c.want {
			t.Errorf("%s: %d, want %d", name, got, c.want)
		}
	}
}
