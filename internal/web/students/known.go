package students

import (
	"fmt"
	"html/template"
	"math"

	"maestrale/core/drill"
	"maestrale/core/orient"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/internal/draw"
	"maestrale/internal/store"
)

// knownModel is what could be known of a lost craft's nose while it was brought home.
type knownModel struct {
	Rows []knownRow
	Says []string
	Ring template.HTML // at the end
}

type knownRow struct {
	At, Sticks, Seen, Told, Better string
	Against                        bool
	Ring                           template.HTML
}

// knownOf follows the regaining of a log; nil where there is none.
func (s Pages) knownOf(k store.Kept, t *track.Track, task drill.Task) *knownModel {
	if t == nil || task.Steps[0].Kind != drill.Regain {
		return nil
	}
	w := score.Watched(t, task, &k.Result)
	if w == nil || len(w.Stretches) == 0 {
		return nil
	}
	begun := *k.Result.Steps[0].StartS
	m := &knownModel{}
	most, better := orient.ToldMost(w.Stretches), orient.Missed(w.Stretches)
	for i, x := range w.Stretches {
		row := knownRow{At: fmt.Sprintf("%.1f s", x.From-begun), Sticks: x.Input, Seen: seenWords(x),
			Told: fmt.Sprintf("%.1f bits", math.Max(0, x.Bits)), Against: x.Against, Ring: draw.Known(x.After, &x.Aspect)}
		if row.Sticks == "" {
			row.Sticks = "let go"
		}
		if i == most {
			row.Told += ", the most"
		}
		if b := x.Before; b.Next.Input != "" {
			row.Better = b.Words()
		}
		m.Rows = append(m.Rows, row)
	}
	last := w.Stretches[len(w.Stretches)-1]
	m.Ring = draw.Known(last.After, &last.Aspect)
	if at, ok := orient.Found(w.Stretches, orient.Known); ok {
		m.Says = append(m.Says, fmt.Sprintf(msgFromCouldKnown, at-begun))
	} else {
		m.Says = append(m.Says, msgCouldNotKnown)
	}
	if most >= 0 {
		x := w.Stretches[most]
		m.Says = append(m.Says, fmt.Sprintf(msgWhatToldMost, m.Rows[most].Sticks, x.From-begun,
			x.Bits))
	}
	if better >= 0 {
		x := w.Stretches[better]
		m.Says = append(m.Says, fmt.Sprintf(msgTellBitsTold, x.From-begun,
			x.Before.Next.Input.Words(), x.Before.Next.Seconds, x.Before.Next.Bits, m.Rows[better].Sticks, math.Max(0, x.Bits)))
	}
	return m
}

// seenWords say what an eye saw in a stretch.
func seenWords(x orient.Stretch) string {
	switch {
	case !x.Moved:
		return msgTooSlowTell
	case x.Saw == orient.None:
		return msgNothingMovedAcross
	}
	return string(x.Saw)
}
