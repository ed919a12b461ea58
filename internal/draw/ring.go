package draw

import (
	"fmt"
	"html/template"
	"math"

	"maestrale/core/field"
	"maestrale/core/readiness"
)

// fullRim is the time flown in a sector, in seconds, at which its rim mark is
// as long as the sector.
const fullRim = 120

// leastRim is the time in seconds under which a sector was only passed through.
const leastRim = 3

// Ring draws the aspect ring: tail-in at the top, the pilot at the bottom; the
// inner band with position hold, the outer without.
func Ring(r readiness.Ring) template.HTML {
	const cx, cy = 200.0, 190.0
	var s svg
	s.open(400, 392, "aspect-ring",
		msgAspectRingStanding)
	bands := []struct {
		name    string
		in, out float64
		sectors [field.Sectors]readiness.Sector
	}{{msgPositionHold, 86, 122, r.With}, {msgWithoutPositionHold, 126, 156, r.Without}}
	for _, b := range bands {
		for i, sec := range b.sectors {
			mid := float64(i) * 22.5
			class := "no-drill"
			words := msgNoDrillProgramme
			if sec.Drills {
				class = sec.Standing.String()
				words = class
			}
			title := fmt.Sprintf("%s, %s: %s, %.0f s flown inside", readiness.SectorNames[i], b.name, words, sec.Seconds)
			// The gap stays as wide outside as inside.
			s.add(`<path class="%s" d="%s">%s</path>`, class, sector(cx, cy, b.in, b.out, mid-11.25, mid+11.25, 1.5),
				titled(title))
			if share := math.Min(1, sec.Seconds/fullRim); sec.Seconds >= leastRim {
				s.add(`<path class="rim" d="%s"/>`, arc(cx, cy, b.out-2.5, mid-9*share, mid+9*share))
			}
		}
	}
	s.add(`<g class="craft" transform="translate(200 190)"><path d="M-26 -26L26 26M26 -26L-26 26"/><circle cx="-30" ` +
		`cy="-30" r="13"/><circle cx="30" cy="-30" r="13"/><circle cx="-30" cy="30" r="13"/><circle cx="30" cy="30" ` +
		`r="13"/><path class="nose" d="M-8 -20L0 -34L8 -20Z"/></g>`)
	s.text(200, 24, "", "middle", "tail-in")
	s.text(36, 194, "", "end", "left")
	s.text(364, 194, "", "start", "right")
	s.pilot(200, 374)
	s.text(222, 372, "soft", "start", msgNoseTowardYou)
	return s.done()
}

func polar(cx, cy, r, deg float64) (float64, float64) {
	sin, cos := math.Sincos(deg * math.Pi / 180)
	return cx + r*sin, cy - r*cos
}

// sector outlines a ring sector with a gap of so many units on either side.
func sector(cx, cy, in, out, from, to, gap float64) string {
	gi, gout := gap/in*180/math.Pi, gap/out*180/math.Pi
	ax, ay := polar(cx, cy, out, from+gout)
	bx, by := polar(cx, cy, out, to-gout)
	px, py := polar(cx, cy, in, to-gi)
	qx, qy := polar(cx, cy, in, from+gi)
	return fmt.Sprintf("M%s %sA%s %s 0 0 1 %s %sL%s %sA%s %s 0 0 0 %s %sZ", n(ax), n(ay), n(out), n(out), n(bx), n(by),
		n(px), n(py), n(in), n(in), n(qx), n(qy))
}

func arc(cx, cy, r, from, to float64) string {
	ax, ay := polar(cx, cy, r, from)
	bx, by := polar(cx, cy, r, to)
	return fmt.Sprintf("M%s %sA%s %s 0 0 1 %s %s", n(ax), n(ay), n(r), n(r), n(bx), n(by))
}
