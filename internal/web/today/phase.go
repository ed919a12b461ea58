package today

import (
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/internal/fieldday"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// needs sets what is to be called out: the worst by itself, the rest below it.
func (m *todayModel) needs(calls []plan.Call) {
	for i, c := range calls {
		row := needRow{Call: c}
		if c.Do == plan.Land {
			row.Flight = m.Aloft[c.At].ID
		}
		if i == 0 {
			m.Need = &row
		} else {
			m.Calls = append(m.Calls, row)
		}
	}
	m.More = say.Say("more calls", len(m.Calls))
}

// phase sets how the day stands, and what its one button does.
func (m *todayModel) phase(b *fieldday.Board, next []plan.Next, clock func(time.Time) string) {
	flying, flown := 0, 0
	last := b.Day.Starts
	for i := range b.Flown {
		switch f := &b.Flown[i]; {
		case f.InAir() && b.Now.Sub(plannedEnd(f)) < plan.AbandonedAfter:
			flying++
		case f.InAir():
			last = later(last, plannedEnd(f))
		case f.Void == "":
			flown++
			last = later(last, *f.EndedAt)
		}
	}
	m.Phase = plan.PhaseOf(b.Now, b.Day.Ends, flying, flown, next)
	switch {
	case m.Phase == plan.Abandoned:
		m.PhaseSays, m.PhaseDo = say.Say("abandoned", clock(last), len(next)), "plan"
		if b.Day.Ends.Sub(b.Now) < plan.AbandonedAfter {
			m.PhaseDo = "close"
		}
	case m.Phase == plan.Finished && len(next)+len(m.Aloft) > 0:
		m.PhaseSays, m.PhaseDo = say.Say("finished", flown)+" "+say.Say("not flown", len(next)), "close"
	case m.Phase == plan.Finished:
		m.PhaseSays = say.Say("finished", flown)
	}
}

// plannedEnd is when a flight was to end.
func plannedEnd(f *store.FlownFlight) time.Time {
	return f.BegunAt.Add(time.Duration(f.Minutes * float64(time.Minute)))
}

func later(a, b time.Time) time.Time {
	if b.After(a) {
		return b
	}
	return a
}

// laterSays says who flies after those that stand in full.
func laterSays(list []nextFlight) string {
	const named = 2
	if len(list) == 0 {
		return ""
	}
	var names []string
	for _, n := range list[:min(named, len(list))] {
		names = append(names, n.At+" "+strings.Fields(n.Who)[0])
	}
	if rest := len(list) - len(names); rest > 0 {
		return say.Say(msgLaterMore, strings.Join(names, ", "), rest)
	}
	return strings.Join(names, ", ")
}

// craftSays counts the craft, and how many of them are not fit to fly.
func craftSays(list []craftToday) string {
	not := 0
	for _, k := range list {
		if !k.Fit {
			not++
		}
	}
	if not == 0 {
		return say.Say(msgAllCraftChecked, len(list))
	}
	return say.Say("craft unchecked", len(list), not)
}

// RunDay lets the sample day run by itself, or stops it. A school's own day does not.
func (s Pages) RunDay(c *gin.Context) {
	if s.Runner == nil {
		s.Failed(c, store.ErrNotFound)
		return
	}
	s.Runner.Run(c.PostForm("on") == "yes", *frame.Person(c))
	c.Redirect(http.StatusSeeOther, "/today")
}

// CloseDay closes a day that is over: a flight that nobody ended has ended when it was planned to, and what is still
// planned is not flown.
func (s Pages) CloseDay(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	s.ToBoard(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		b, err := s.Days().BoardOf(ctx, tx, p)
		if err != nil {
			return err
		}
		if !b.Is() {
			return refusal.Error(msgNoFieldDayClose)
		}
		for i := range b.Flown {
			f := &b.Flown[i]
			if !f.InAir() {
				continue
			}
			end := plannedEnd(f)
			if b.Now.Before(end) {
				return refusal.Error(say.Say("still flying", b.Who(f)))
			}
			if _, err := tx.NoteFlight(ctx, store.NewID(), f.ID, p.ID, end, "end", ""); err != nil {
				return err
			}
			if err := tx.AddPackEvent(ctx, store.NewID(), f.PackID, p.ID, pack.Event{At: end, Kind: pack.Used,
				Minutes: f.Minutes, Says: msgCountedDayClosed}); err != nil {
				return err
			}
		}
		left := b.Plan
		left.Flights, left.Charges, left.Unplaced = nil, nil, nil
		return tx.PlanDay(ctx, b.Day.ID, p.ID, b.Day.Seq, b.Now, say.Say("closed"), b.Source, left)
	}))
}
