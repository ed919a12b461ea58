package knowledge

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/orient"
	"maestrale/core/plan"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/internal/store"
)

// Air is the wind and the light that today's list is made for. A WindMps under 0 is not known.
type Air struct {
	WindMps float64
	From    *float64 // field heading; nil where it is not known
	Light   orient.Light
}

// AirNow is the wind that somebody's school knows now, which is that of the newest reading while it is fresh, and the
// light over its site.
func AirNow(p *store.Person, now time.Time) Air {
	a := Unknown
	if w := p.WindNow(now); w != nil && w.Fresh {
		a.WindMps, a.From = w.Mean, p.From()
	}
	a.Light = p.LightAt(now)
	return a
}

// Unknown is the air where no wind is known: nothing is left out for it. It is by day.
var Unknown = Air{WindMps: -1, Light: orient.Day}

// tenseFor is for how long it counts that a student said how they feel.
const tenseFor = 3 * time.Hour

// Facts reads what decides what comes next, besides the record, for some students or for all.
func (b Book) Facts(ctx context.Context, tx store.Tx, students ...uuid.UUID) (map[uuid.UUID]store.NextFacts, error) {
	return tx.NextFactsOf(ctx, b.Now().Add(-tenseFor), MostCalls, students...) //nolint:wrapcheck // it says what failed
}

// FactsAndDecisions reads the facts of some students, and what was decided of each.
func (b Book) FactsAndDecisions(ctx context.Context, tx store.Tx, students []uuid.UUID) (map[uuid.UUID]store.NextFacts,
	map[uuid.UUID]store.Decision, error) {
	return tx.FactsAndDecisions(ctx, b.Now().Add(-tenseFor), MostCalls, students) //nolint:wrapcheck // it says what failed
}

// IsTense tells whether the student said lately that they are tense or shaken.
func IsTense(f store.NextFacts) bool {
	return f.Feels == string(readiness.Tense) || f.Feels == string(readiness.Shaken)
}

// Ask is what a student's list is asked with: the wind, how far the nose is told, how the student feels and what the
// school has switched on. What it leaves open is filled in by plan.Usual.
func (b Book) Ask(s *Student, f store.NextFacts, a Air) (ask plan.LessonAsk, practice []record.Practice, err error) {
	ask.WindMps, ask.WindFrom, ask.HandCatch = a.WindMps, a.From, f.HandCatch
	ask.Tense = IsTense(f)
	if t := b.Cat.Craft[s.Student.CraftType]; t.CueSpaceM > 0 {
		x, err := sightOf(t.CueSpaceM, a.Light, store.OrientCalls(f.Calls))
		if err != nil {
			return ask, nil, fmt.Errorf("the visual range: %w", err)
		}
		ask.TellM = x.TellM
	}
	for _, key := range f.Practised {
		practice = append(practice, record.Practice{Drill: key, Minutes: 1})
	}
	return ask, practice, nil
}

// WhatNext is today's list for a student. Every screen that says what comes next asks it.
func (b Book) WhatNext(ctx context.Context, tx store.Tx, s *Student, a Air) (plan.LessonPlan, error) {
	facts, err := b.Facts(ctx, tx, s.Student.ID)
	if err != nil {
		return plan.LessonPlan{}, err
	}
	return b.NextFrom(s, facts[s.Student.ID], a)
}

// NextFrom is WhatNext with the facts at hand.
func (b Book) NextFrom(s *Student, f store.NextFacts, a Air) (plan.LessonPlan, error) {
	ask, practice, err := b.Ask(s, f, a)
	if err != nil {
		return plan.LessonPlan{}, err
	}
	return plan.WhatNext(ask, s.Known, practice), nil
}
