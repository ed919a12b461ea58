package plan

import (
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/readiness"
	"maestrale/core/record"
)

// What a lesson has where nobody said otherwise.
const (
	UsualPacks   = 3
	UsualMinutes = 9.0 // of a pack
)

// Steps is how time passes for a list: it is worked out as of the last full
// five minutes, or as of the newest attempt where that is newer, so that what
// one screen says the next one says too.
const Steps = 5 * time.Minute

// LessonAids are the fewest aids that a student's next lesson is flown with:
// those of the lowest rung of the ladder that is not held, and the craft's
// first where there is none or the craft lacks them.
func LessonAids(k *readiness.Known) craft.Aids {
	// What is due sets the aids, as long as the craft has them.
	if next := readiness.Next(k.Programme, k.Cell); next.Drill != "" && k.Craft.Has(next.Aids) {
		return next.Aids
	}
	if len(k.Craft.Aids) == 0 {
		return craft.SelfLevel
	}
	return k.Craft.Aids[0]
}

// Usual fills in what an ask for a student leaves open: the craft and its
// class, the aids of the lesson, the packs and their minutes.
func Usual(k *readiness.Known, a LessonAsk) LessonAsk {
	if a.Class == "" {
		a.Class = k.On.Class
	}
	// Whoever names a craft gets it; otherwise it is the one that the student
	// flies.
	if a.Type == nil && k.Craft.Key != "" {
		a.Type = &k.Craft
	}
	if a.Aids == "" {
		a.Aids = LessonAids(k)
	}
	if a.Packs == 0 {
		a.Packs = UsualPacks
	}
	if a.PackMinutes == 0 {
		a.PackMinutes = UsualMinutes
	}
	return a
}

// WhatNext is today's list for a student: the blocks of the lesson that is
// planned for what there is. It is empty for a student without a programme or a
// craft, or where nothing may be flown today; Says then says why.
func WhatNext(a LessonAsk, k *readiness.Known, practice []record.Practice) LessonPlan {
	// Without a ladder nothing is due, and without a craft nothing can be
	// flown.
	if len(k.Programme.Rungs) == 0 || k.Craft.Key == "" {
		return LessonPlan{}
	}
	l, err := PlanLesson(Usual(k, a), k, practice)
	if err != nil {
		// The error says what was expected, and is what people read.
		return LessonPlan{Says: err.Error()}
	}
	return l
}

// First is the item that comes next; the zero Cell for none.
func (l LessonPlan) First() drill.Cell {
	if len(l.Blocks) == 0 {
		return drill.Cell{}
	}
	return l.Blocks[0].Cell
}

// Flights are what the next n flights are for: the list, one pack a flight,
// from its beginning again where there are more flights than packs.
func (l LessonPlan) Flights(n int) (out []drill.Cell) {
	for pack := 1; len(out) < n && len(l.Blocks) > 0; pack++ {
		// The first block of each pack names the flight.
		found := false
		for _, b := range l.Blocks {
			if b.Pack == pack {
				out, found = append(out, b.Cell), true
				break
			}
		}
		if !found {
			pack = 0 // from the beginning again
			if len(out) == 0 {
				break
			}
		}
	}
	return out
}
