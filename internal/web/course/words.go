package course

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"maestrale/core/course"
	"maestrale/core/field"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
	"maestrale/internal/words"
)

// courseWords says what the survey found.
func (s Pages) courseWords(m *courseModel, p *store.Person) {
	loc := p.Zone()
	for i, h := range m.Laid.Hazards {
		m.Hazards = append(m.Hazards, hazardRow{h, i, placesWords(h.At)})
	}
	laid := map[string]bool{}
	for _, e := range m.Ask.Envelopes {
		laid[e.Key] = true
	}
	for _, d := range s.Cat.InOrder() {
		if !laid[d.Key] {
			m.Left = append(m.Left, d.Title)
		}
	}
	m.warn()
	m.advise()
	for _, k := range m.Survey.Sights {
		row := sightRow{Sight: k, Says: "the horizon"}
		if k.Behind != "" {
			row.Says = fmt.Sprintf("%s, %.0f° up", k.Behind, k.Rise.Deg())
			if k.Hides {
				row.Says = "hidden by " + row.Says
			}
		}
		m.Sights = append(m.Sights, row)
		if !k.Against {
			m.Below++
		}
	}
	r := m.Survey.Return
	over := msgNothingTallWay
	if r.Tallest != "" {
		over = fmt.Sprintf("%s, %.0f m", r.Tallest, r.TallestM)
	}
	m.Return = fmt.Sprintf("%.0f m (%.0f ft) over %s", r.HeightM, course.Feet(r.HeightM), over)
	if r.AnywhereM > r.HeightM {
		m.Return += fmt.Sprintf(msgFromElsewhereFt, r.AnywhereM, course.Feet(r.AnywhereM))
	}
	m.sun(loc)
	if m.Laid.Plane != nil {
		m.Away = frame.CompassWords(field.Degrees(m.Laid.Plane.AwayDeg()).Compass())
	}
	m.windWords()
}

// warn says, of each thing that drills come too near to, the drill that comes nearest, and how many others there are.
func (m *courseModel) warn() {
	type near struct {
		worst course.Clearance
		n     int
	}
	by := map[string]*near{}
	for _, k := range m.Survey.Clearances {
		if !k.Warn() {
			m.Nearest = append(m.Nearest, k)
			continue
		}
		m.Short = append(m.Short, k)
		x := by[k.Name]
		if x == nil {
			x = &near{worst: k}
			by[k.Name] = x
		}
		if x.n++; k.LeftM < x.worst.LeftM {
			x.worst = k
		}
	}
	for _, x := range by {
		w := warning{Says: x.worst.Says(), Do: fmt.Sprintf(msgMoreWanted, -x.worst.LeftM), short: -x.worst.LeftM}
		if x.n > 1 {
			w.Do += fmt.Sprintf(msgComeTooNear, words.Counted(x.n-1, "other drill"), x.worst.Name)
			if x.n == 2 {
				w.Do = strings.Replace(w.Do, " come too", " comes too", 1)
			}
		}
		m.Warnings = append(m.Warnings, w)
	}
	slices.SortFunc(m.Warnings, func(a, b warning) int {
		return cmp.Or(cmp.Compare(b.short, a.short), cmp.Compare(a.Says, b.Says))
	})
}

// advise says what to change so that every drill is clear.
func (m *courseModel) advise() {
	a := m.Survey.Advice
	switch {
	case len(m.Ask.Envelopes) == 0:
		m.Advice = msgNoDrillFlown
	case a.OK:
		m.Advice = msgEveryDrillKeeps
	case a.Found:
		m.TurnBy = int(a.Turn.Deg())
		m.Advice = fmt.Sprintf(msgTurnedEveryDrill, turnWords(m.TurnBy))
	case a.Toward == "":
		m.Advice = fmt.Sprintf(msgNoTurnHelps, a.From)
	default:
		m.Advice = fmt.Sprintf(msgNoTurnHelpsMove, a.MoveM,
			wayWords(a.Toward), a.From)
	}
	if m.Survey.Heavier != "" {
		class := m.Ask.Craft.Class()
		centre, across := course.HowToLay(class)
		m.Heavier = fmt.Sprintf(msgCourseLaidOut, m.Survey.Heavier,
			m.Ask.Craft.Title, class, class, centre, across)
	}
}

// windWords says where the wind comes from, and how the course turns to have it behind the pilot.
func (m *courseModel) windWords() {
	if !m.Ask.WindKnown {
		return
	}
	toward, right := course.Components(m.Ask.WindMps, m.Ask.WindFrom)
	m.Wind = courseWind{Known: true, By: int(5 * math.Round(m.Survey.WindTurn.Deg()/5)),
		Says: fmt.Sprintf("%.1f m/s from %s: %s, %s", m.Ask.WindMps, draw.WindWords(m.Ask.WindFrom.Compass()),
			pushWords(-toward, "away", msgTowardPilot), pushWords(right, msgToTheRight, msgToTheLeft))}
	m.Wind.Turn = msgBehindPilot
	if course.IsBehind(m.Ask.WindFrom) {
		m.Wind.By = 0
	} else {
		m.Wind.Turn = fmt.Sprintf(msgTurnedBehindPilot, turnWords(m.Wind.By))
	}
}

func (m *courseModel) sun(loc *time.Location) {
	g := m.Survey.Glare
	switch {
	case g == nil:
		m.Sun.Says = fmt.Sprintf(msgNotWorkedOut, m.Survey.GlareWhy)
	case g.NeverRises:
		m.Sun.Says = msgSunStaysDown
	case !g.Any && g.First.Elevation <= 0:
		m.Sun.Says = msgSunDownOver
	case !g.Any:
		m.Sun.Says = msgSunStandsToo
	default:
		m.Sun.Says = fmt.Sprintf(msgFromSunStands, g.Begins.In(loc).Format("15:04"),
			g.Ends.In(loc).Format("15:04"), g.Low.Deg(), g.High.Deg())
		m.Sun.Sector = fmt.Sprintf(msgBlindsBetweenPilot, bearingWords(g.From),
			bearingWords(g.To))
		m.Sun.Blinds = m.Survey.Blinded
	}
}

func bearingWords(a field.Angle) string {
	d := a.Wrap().Deg()
	switch {
	case d >= -0.5 && d < 0.5:
		return "straight ahead"
	case d < 0:
		return fmt.Sprintf("%.0f° left", -d)
	}
	return fmt.Sprintf("%.0f° right", d)
}

func turnWords(deg int) string {
	if deg < 0 {
		return fmt.Sprintf(msgDegreesToTheLeft, -deg)
	}
	return fmt.Sprintf(msgDegreesToTheRight, deg)
}

func wayWords(w string) string {
	return map[string]string{"left": msgToTheLeft, "right": msgToTheRight, "toward": msgTowardPilot,
		"away": "away"}[w]
}

func pushWords(v float64, plus, minus string) string {
	if v < 0 {
		v, plus = -v, minus
	}
	return fmt.Sprintf("%.1f %s", v, plus)
}

func placesWords(at []field.Point) string {
	var out []string
	for _, p := range at {
		out = append(out, fmt.Sprintf("%s, %s", words.Number(p.X), words.Number(p.Y)))
	}
	return strings.Join(out, "; ")
}
