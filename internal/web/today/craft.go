package today

import (
	"cmp"
	"slices"
	"time"

	"github.com/google/uuid"

	"maestrale/internal/fieldday"
)

// craftToday is a craft of the day, with its check.
type craftToday struct {
	Name, Says, At, Do string
	Fit                bool
}

// craftOf lists the craft of the day with the check of each, what cannot be flown first.
func (s Pages) craftOf(b *fieldday.Board, clock func(time.Time) string) (out []craftToday) {
	for _, id := range b.Source.Craft {
		row := craftToday{Name: b.Craft[id].Name, At: "/fleet/craft/" + id.String() + "#begin", Do: "Check it"}
		check := b.Checks[id]
		switch not, at := notYet(b, id); {
		case slices.Contains(b.Source.Grounded, id):
			row.Says, row.Do, row.At = msgGroundedToday, msgLookAtIt, "/fleet/craft/"+id.String()
		case not != "" && b.Checked(id):
			row.Says, row.At, row.Do = not, at, msgPutRight
		case check.Cleared != nil:
			row.Fit, row.Says, row.At, row.Do = true, "checked at "+clock(*check.Cleared), "/checks/"+check.ID.String(), "Look"
		case check.ID != uuid.Nil:
			row.Says, row.At, row.Do = msgCheckNotOver, "/checks/"+check.ID.String(), msgGoOnWith
		default:
			row.Says = not
		}
		out = append(out, row)
	}
	slices.SortStableFunc(out, func(a, b craftToday) int {
		if a.Fit != b.Fit {
			return map[bool]int{false: -1, true: 1}[a.Fit]
		}
		return cmp.Compare(a.Name, b.Name)
	})
	return out
}

// notYet is why a craft is not for a student now, and where that is put right; empty for one that is.
func notYet(b *fieldday.Board, id uuid.UUID) (why, at string) {
	why, unchecked := b.NotYet(id)
	at = "/fleet/craft/" + id.String()
	switch check := b.Checks[id].ID; {
	case why == "":
		return "", ""
	case unchecked && check != uuid.Nil:
		return msgCheckNotOver, "/checks/" + check.String()
	case unchecked:
		return why, at + "#begin"
	}
	return why, at
}
