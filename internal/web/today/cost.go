package today

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"github.com/gin-gonic/gin"

	"maestrale/internal/fieldday"
	"maestrale/internal/words"
)

// costModel is a change that takes something out of the day, and what the day would be without it.
type costModel struct {
	What, Address string
	Lines         []string
	Fields        []formField // of the form that does it
}

type formField struct{ Name, Value string }

// takesAway tells whether a change takes a pack or a craft out of the day: what can be withdrawn only by planning
// again.
func takesAway(was, is fieldday.Source) bool {
	return len(is.Dead) > len(was.Dead) || len(is.Grounded) > len(was.Grounded)
}

// costOf says what a change costs: flights that are left out, flights that move, and how much later the last one lands.
func costOf(b *fieldday.Board, was, next fieldday.Plan, says string, c *gin.Context) *costModel {
	m := &costModel{What: says, Address: c.Request.URL.Path}
	list, _ := b.ToCome()
	if n := len(list) - len(next.Flights); n > 0 {
		m.Lines = append(m.Lines, fmt.Sprintf(msgFlightsPlannedWould, words.Counted(n, "flight")))
	}
	left := map[string]int{}
	for _, u := range was.Unplaced {
		left[u.Student] = u.Flights
	}
	for _, u := range next.Unplaced {
		if u.Flights <= left[u.Student] {
			continue // as before
		}
		m.Lines = append(m.Lines, fmt.Sprintf(msgWouldLeftOut, b.Name(u.Student),
			words.Counted(u.Flights, "flight"), u.Why))
	}
	if ch := next.Changed; ch != nil && ch.Moved+ch.Swaps > 0 {
		m.Lines = append(m.Lines, fmt.Sprintf(msgWouldAnotherTime,
			words.Counted(ch.Moved+ch.Swaps, "flight")))
	}
	if later := next.MakespanMinutes - was.MakespanMinutes; math.Abs(later) >= 1 && len(next.Flights) > 0 {
		way := "later"
		if later < 0 {
			way = "sooner"
		}
		m.Lines = append(m.Lines, fmt.Sprintf(msgLastLandingWould, math.Abs(later), way))
	}
	if len(m.Lines) == 0 {
		m.Lines = []string{msgCostsNothingEvery}
	}
	for name, values := range c.Request.PostForm {
		for _, v := range values {
			m.Fields = append(m.Fields, formField{name, v})
		}
	}
	slices.SortFunc(m.Fields, func(a, b formField) int { return cmp.Compare(a.Name, b.Name) })
	return m
}
