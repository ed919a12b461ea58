package fieldday

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/pack"
	"maestrale/core/plan"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// MayFly refuses a flight whose craft or pack is out, or that does not belong together,
// and every flight while everybody holds.
func (s Days) MayFly(b *Board, f *store.Flight) error {
	k, ok := b.Craft[f.CraftID]
	row, has := b.Packs[f.PackID]
	switch {
	case !ok || !has:
		return refusal.Error(msgCraftOrPack)
	case row.Type != k.Type:
		return refusal.Error(fmt.Sprintf(msgDoesNotFit, row.Name, k.Name))
	case row.Fitness == pack.Retire:
		return refusal.Error(fmt.Sprintf(msgNotFlown, row.Name, row.Says))
	case slices.Contains(b.Source.Grounded, f.CraftID):
		return refusal.Error(fmt.Sprintf(msgGroundedToday, k.Name))
	case b.Hold.On:
		return refusal.Error("Everyone holds: " + cmp.Or(b.Hold.Why, msgNoFlightBegins) + ".")
	}
	if why, unchecked := b.NotYet(f.CraftID); f.StudentID != nil && unchecked {
		return refusal.Error(fmt.Sprintf(msgNotCheckedTodayGo, k.Name))
	} else if f.StudentID != nil && why != "" {
		_, first := b.States[f.CraftID].Unfit()
		return refusal.Error(fmt.Sprintf("%s is %s. %s", k.Name, why, first))
	}
	if t := s.Cat.Craft[k.Type]; !t.Has(craft.Aids(f.Aids)) {
		f.Aids = string(t.Aids[0])
	}
	if b.Is() {
		f.DayID = &b.Day.ID
	}
	return nil
}

// NotYet is why a craft is not for a student now; empty for one that is. It is unchecked where only its check is
// missing.
func (b *Board) NotYet(craft uuid.UUID) (why string, unchecked bool) {
	if why, _ = b.States[craft].Unfit(); why == "" && !b.Checked(craft) {
		return msgNotCheckedToday, true
	}
	return why, false
}

// ChargesToCome are the planned chargings that have not begun, as far as packs are not on
// a charger already.
func (b *Board) ChargesToCome() (out []plan.Charging) {
	for _, g := range b.Plan.Charges {
		id, err := uuid.Parse(g.Pack)
		if err == nil && b.Packs[id].OnCharger == "" && g.Start.After(b.Now.Add(-time.Minute)) {
			out = append(out, g)
		}
	}
	return out
}

// Moods are what a student says of himself or herself with one tap.
var Moods = []string{"calm", "tense", "shaken"}

func (b *Board) Who(f *store.FlownFlight) string {
	if f.StudentID != nil {
		return b.Students[*f.StudentID].Name
	}
	by := f.BegunBy
	if f.InstructorID != nil {
		by = *f.InstructorID
	}
	return b.Staff[by].Name + ", " + f.Kind
}
