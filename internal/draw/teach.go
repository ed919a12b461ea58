package draw

import (
	"encoding/json"
	"fmt"
	"html"
	"html/template"
	"math"
	"slices"
	"strings"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/score"
)

// Teach draws a drill from above as it is taught: the limits to scale, and the craft with its nose at each step, with
// the numbers of the steps. What it plays is in data-poses: [step, x, y, heading in degrees, turned in degrees] of
// each pose.
func Teach(t drill.Task, windFrom string) template.HTML {
	f := Flight{Task: t, Result: &score.Result{}}
	const w, h = planWide, planTall
	p := f.planOf(w, h)
	var s svg
	s.add(`<svg class="plan teach" viewBox="-24 -34 %s %s" role="img" aria-label="%s" data-poses="%s">`, n(w+48), n(h+34),
		taughtLabel, html.EscapeString(posesOf(t, p)))
	s.scaleBar(p)
	s.limits(f, p)
	s.legs(t, p)
	for _, g := range gathered(t.Poses()) {
		s.gather(g, p)
	}
	s.add(`<path class="nose player" hidden d="%s"/>`, noseShape)
	s.you(f, p, w, h)
	s.taughtWind(windFrom, w)
	return s.done()
}

// taughtLabel is what the drawing is for who does not see it.
const taughtLabel = msgDrillFromAbove

// Thumb is a drill from above, small: its places and its path, and the craft with its nose at each of them. It stands
// beside the drill's title, and says nothing that the title does not lead to.
func Thumb(t drill.Task) template.HTML {
	const w, h, size = 84.0, 70.0, 0.42
	f := Flight{Task: t, Result: &score.Result{}}
	p := f.planOf(w, h+planFoot)
	var s svg
	s.add(`<svg class="plan thumb" viewBox="-8 -8 %s %s" aria-hidden="true">`, n(w+16), n(h+16))
	for _, st := range t.Steps {
		if st.Path != nil {
			s.add(`<path class="figure" d="%s"/>`, line(st.Path, p))
		}
	}
	for _, g := range gathered(t.Poses()) {
		x, y, apart := p.x(g.at.X), p.y(g.at.Y), 0.0
		if len(g.noses) > 1 {
			apart = 11
		}
		s.circle(x, y, 13, "limit")
		for _, k := range g.noses {
			s.add(`<path class="nose" transform="translate(%s %s) rotate(%s) scale(%g)" d="%s"/>`,
				n(x+apart*math.Sin(float64(k.to))), n(y-apart*math.Cos(float64(k.to))), n(k.to.Deg()), size, noseShape)
		}
	}
	return s.done()
}

// line is the middle of a figure as a path.
func line(f *drill.Figure, p plan) string {
	var b strings.Builder
	for i, at := range outline(f) {
		if i%4 == 0 {
			b.WriteString(map[bool]string{true: "M", false: "L"}[i == 0] + n(p.x(at.X)) + " " + n(p.y(at.Y)))
		}
	}
	return b.String()
}

// noseShape is a craft from above, with its nose up.
const noseShape = "M0 -18L14 15L0 7L-14 15Z"

// posesOf are the poses as the page plays them.
func posesOf(t drill.Task, p plan) string {
	var out [][5]float64
	round := func(v float64) float64 { return math.Round(v*10) / 10 }
	for _, q := range t.Poses() {
		out = append(out, [5]float64{float64(q.Step), round(p.x(q.At.X)), round(p.y(q.At.Y)), round(q.Heading.Deg()),
			round(q.Turned.Deg())})
	}
	data, _ := json.Marshal(out) // numbers alone
	return string(data)
}

// spot is a place of a drill, and what is flown there: the steps by the way the nose points, and the turns.
type spot struct {
	at    field.Point
	noses []nose
	turns []turned
}

// nose is a way in which the nose points, and in which steps.
type nose struct {
	to    field.Angle
	steps []int
}

// turned is a turn of a step.
type turned struct {
	from, by field.Angle
	step     int
}

// near is how near places are that are drawn as one, m.
const near = 0.25

// gathered are the places of poses in order.
func gathered(poses []drill.Pose) (out []spot) {
	var before drill.Pose
	for k, q := range poses {
		i := slices.IndexFunc(out, func(s spot) bool { return s.at.Dist(q.At) < near })
		if i < 0 {
			i, out = len(out), append(out, spot{at: q.At})
		}
		if k > 0 && q.Turned != 0 {
			out[i].turns = append(out[i].turns, turned{before.Heading, q.Turned, q.Step})
			before = q
			continue // where it ends is the next step's
		}
		before = q
		j := slices.IndexFunc(out[i].noses, func(x nose) bool {
			return math.Abs(float64((x.to - q.Heading).Wrap())) < 0.01
		})
		if j < 0 {
			j, out[i].noses = len(out[i].noses), append(out[i].noses, nose{to: q.Heading})
		}
		if !slices.Contains(out[i].noses[j].steps, q.Step) {
			out[i].noses[j].steps = append(out[i].noses[j].steps, q.Step)
		}
	}
	return out
}

// gather draws what is flown at one place. Where the nose points several ways each craft stands a little toward its
// own.
func (s *svg) gather(g spot, p plan) {
	x, y := p.x(g.at.X), p.y(g.at.Y)
	apart := 0.0
	if len(g.noses) > 1 || len(g.turns) > 0 {
		apart = 30
	}
	for _, k := range g.noses {
		sin, cos := math.Sin(float64(k.to)), math.Cos(float64(k.to))
		cx, cy := x+apart*sin, y-apart*cos
		s.add(`<path class="nose" transform="translate(%s %s) rotate(%s)" d="%s"/>`, n(cx), n(cy), n(k.to.Deg()), noseShape)
		tx, ty := clearOf(others(g, k.to, x, y, apart), [2]float64{cx + 22*cos, cy + 24*sin}, [2]float64{cx - 22*cos,
			cy - 24*sin}, [2]float64{cx + 30*sin, cy - 30*cos})
		anchor := "middle"
		if tx > cx+12 {
			anchor = "start"
		} else if tx < cx-12 {
			anchor = "end"
		}
		s.text(tx, ty+6, "step-number", anchor, stepNumbers(k.steps))
	}
	for i, k := range g.turns {
		s.arc(x, y, 60+22*float64(i), k)
	}
}

// others are where the craft of a place stand whose nose points another way, and where the numbers of its turns stand.
func others(g spot, to field.Angle, x, y, apart float64) (out [][2]float64) {
	for _, k := range g.noses {
		if k.to != to {
			out = append(out, [2]float64{x + apart*math.Sin(float64(k.to)), y - apart*math.Cos(float64(k.to))})
		}
	}
	for i, k := range g.turns {
		r, a := 72+22*float64(i), float64(k.from)+float64(k.by)/2
		out = append(out, [2]float64{x + r*math.Sin(a), y - r*math.Cos(a)})
	}
	return out
}

// clearOf is the place of some that is farthest from all others; the first where there are none.
func clearOf(others [][2]float64, places ...[2]float64) (x, y float64) {
	best, most := places[0], -1.0
	for _, p := range places {
		least := math.Inf(1)
		for _, o := range others {
			least = math.Min(least, math.Hypot(p[0]-o[0], p[1]-o[1]))
		}
		if least > most && !math.IsInf(least, 1) {
			best, most = p, least
		}
	}
	return best[0], best[1]
}

// arc draws a turn round a place, with the number of its step at its middle.
func (s *svg) arc(x, y, r float64, k turned) {
	by := math.Max(-1.9*math.Pi, math.Min(1.9*math.Pi,
		float64(k.by))) // a turn of more than a round is drawn as nearly one
	point := func(a float64) (float64, float64) { return x + r*math.Sin(a), y - r*math.Cos(a) }
	from, to := float64(k.from), float64(k.from)+by
	x1, y1 := point(from + 0.12*sign(by))
	x2, y2 := point(to - 0.12*sign(by))
	s.add(`<path class="turn-arc" d="M%s %sA%s %s 0 %d %d %s %s"/>`, n(x1), n(y1), n(r), n(r),
		flag(math.Abs(by) > math.Pi+0.24),
		flag(by > 0), n(x2), n(y2))
	s.add(`<path class="turn-head" transform="translate(%s %s) rotate(%s)" d="M0 -7L6 5H-6Z"/>`, n(x2), n(y2),
		n((to+sign(by)*math.Pi/2)*180/math.Pi))
	mx, my := point(from + by/2)
	s.text(mx+12*math.Sin(from+by/2), my-12*math.Cos(from+by/2)+5, "step-number", "middle", fmt.Sprint(k.step+1))
}

func sign(v float64) float64 { return math.Copysign(1, v) }

func flag(b bool) int {
	if b {
		return 1
	}
	return 0
}

// stepNumbers are the numbers of steps, as people count: "1, 3".
func stepNumbers(steps []int) string {
	var out []string
	for _, i := range steps {
		out = append(out, fmt.Sprint(i+1))
	}
	if len(out) > 4 {
		return out[0] + "–" + out[len(out)-1]
	}
	return strings.Join(out, ", ")
}

// legs draws the ways between the places of steps that lead to one.
func (s *svg) legs(t drill.Task, p plan) {
	var from *field.Point
	for i := range t.Steps {
		st := &t.Steps[i]
		if st.HasAt {
			if from != nil && st.Kind == drill.GoTo && from.Dist(st.At) > near {
				s.leg(p.x(from.X), p.y(from.Y), p.x(st.At.X), p.y(st.At.Y))
			}
			from = &st.At
		}
	}
}

// leg draws a way that stops short of both its ends, with a head.
func (s *svg) leg(x1, y1, x2, y2 float64) {
	const short = 26
	d := math.Hypot(x2-x1, y2-y1)
	if d < 3*short {
		return
	}
	ux, uy := (x2-x1)/d, (y2-y1)/d
	ex, ey := x2-short*ux, y2-short*uy
	s.line(x1+short*ux, y1+short*uy, ex, ey, "leg")
	s.add(`<path class="turn-head" transform="translate(%s %s) rotate(%s)" d="M0 -7L6 5H-6Z"/>`, n(ex), n(ey),
		n(math.Atan2(ux, -uy)*180/math.Pi))
}

// taughtWind draws from where a drill wants the wind; nothing where it does not say.
func (s *svg) taughtWind(from string, w float64) {
	deg, ok := map[string]float64{"ahead": 180, "right": 270, "behind": 0, "left": 90}[from]
	if !ok {
		return
	}
	s.add(`<g class="wind" transform="translate(%s 26) rotate(%s)"><path class="streak" d="M0 13V-13M-5 -6L0 -13L5 -6"/>`+
		`<path class="streak faint" d="M-8 12V0M8 12V0"/></g>`, n(w-24), n(deg))
	s.text(w-44, 30, "small", "end", "wind")
}
