package draw

import (
	"fmt"
	"html/template"
	"math"

	"maestrale/core/field"
	"maestrale/core/orient"
)

// Known draws what could be known of a nose: the posterior as a ring, tail-in at the top,
// the pilot at the bottom. A bar is the longer the likelier; the tick outside is where the
// nose was, where that is given.
func Known(p orient.Posterior, nose *field.Angle) template.HTML {
	const c, inner, outer = 60.0, 20.0, 50.0
	var s svg
	at, share := p.Likeliest()
	label := fmt.Sprintf("likeliest %s, %.0f %% within 20°", AspectWords(at), 100*share)
	if nose != nil {
		label += fmt.Sprintf(msgAndItWas, AspectWords(*nose))
	}
	s.open(120, 120, "known-ring", label)
	s.circle(c, c, outer, "known-all")
	s.circle(c, c, inner, "known-hub")
	bins := p.Bins36()
	most := 1.0 / 36 // a ring that knows nothing is a low even one
	for _, v := range bins {
		most = math.Max(most, v)
	}
	full := math.Max(most, 0.12)
	for i, v := range bins {
		a, b := (float64(i)-0.46)*math.Pi/18, (float64(i)+0.46)*math.Pi/18
		r := inner + (outer-inner)*v/full
		if r < inner+0.3 {
			continue
		}
		q := func(r, a float64) string { return n(c+r*math.Sin(a)) + " " + n(c-r*math.Cos(a)) }
		s.add(`<path class="known-bar" d="M%sL%sA%s %s 0 0 1 %sL%sA%s %s 0 0 0 %sZ"/>`, q(inner, a), q(r, a), n(r), n(r),
			q(r, b), q(inner, b), n(inner), n(inner), q(inner, a))
	}
	if nose != nil {
		s.add(`<path class="known-nose" transform="rotate(%s 60 60)" d="M60 9L55 1H65Z"/>`, n(nose.Deg()))
	}
	s.add(`<g class="pilot" transform="translate(60 116) scale(.5)"><circle cy="-6" r="4"/><path d="M-9 8Q0 -6 9 8Z"/>` +
		`</g>`)
	return s.done()
}

// AspectWords say an aspect: tail-in, nose-in, or so many degrees of nose left or right.
func AspectWords(a field.Angle) string {
	switch d := math.Round(a.Wrap().Deg()); {
	case math.Abs(d) <= 10:
		return "tail-in"
	case math.Abs(d) >= 170:
		return "nose-in"
	case d > 0:
		return fmt.Sprintf("nose %.0f° right", d)
	default:
		return fmt.Sprintf("nose %.0f° left", -d)
	}
}
