package plan

import (
	"math"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
)

// LessonDocument is a maestrale-lesson/1 document.
type LessonDocument struct {
	Format string        `json:"format"`
	Blocks []LessonBlock `json:"blocks"`
	Toward string        `json:"toward"`
	Says   string        `json:"says,omitempty"`
	// TooFar are the drills that were left out, as they go beyond the visual
	// range.
	TooFar []string `json:"too_far,omitempty"`
}

// LessonBlock is a block of the document.
type LessonBlock struct {
	Pack    int        `json:"pack"`
	Drill   string     `json:"drill"`
	Side    field.Side `json:"side"`
	Aids    craft.Aids `json:"aids"`
	Minutes float64    `json:"minutes"` // at most
	// Passes are enough for today.
	Passes   int     `json:"passes,omitempty"`
	Rest     float64 `json:"rest_minutes,omitempty"`
	Answer   bool    `json:"answering,omitempty"`
	Why      string  `json:"why"`
	Fallback string  `json:"fallback"`
	// Role is renew, back, due, stretch or finish.
	Role Role `json:"role,omitempty"`
	// Chance is that of a pass, to a thousandth, where it was estimated.
	Chance float64 `json:"chance,omitempty"`
}

// Document writes the lesson as a document.
func (l LessonPlan) Document() LessonDocument {
	d := LessonDocument{Format: "maestrale-lesson/1", Blocks: []LessonBlock{}, Toward: l.Toward, Says: l.Says,
		TooFar: l.TooFar}
	for _, b := range l.Blocks {
		d.Blocks = append(d.Blocks, LessonBlock{b.Pack, b.Cell.Drill, b.Cell.Side, b.Cell.Aids, b.Minutes, b.Passes, b.Rest,
			b.Answer, b.Why, b.Fallback, b.Role, math.Round(1000*b.Chance) / 1000})
	}
	return d
}

// Flown is a cell of a lesson as it was planned and as it was flown.
type Flown struct {
	Drill   string
	Side    field.Side
	Aids    craft.Aids
	Title   string // for a screen
	Minutes float64
	// Wanted are the passes that were enough.
	Wanted   int
	Attempts int
	Passes   int
}

// Compare holds a lesson to the attempts that were flown in it: cell by cell
// what was planned, and the cells that were flown without having been planned,
// once for each attempt. Void attempts and corrections are left out.
func Compare(l LessonDocument, flown []record.Attempt) (rows []Flown, others []drill.Cell) {
	at := map[drill.Cell]int{}
	for _, b := range l.Blocks {
		c := drill.Cell{Drill: b.Drill, Side: b.Side, Aids: b.Aids, Level: 1}
		i, ok := at[c]
		if !ok {
			i = len(rows)
			at[c] = i
			rows = append(rows, Flown{Drill: b.Drill, Side: b.Side, Aids: b.Aids})
		}
		rows[i].Minutes += b.Minutes
		rows[i].Wanted += b.Passes
	}
	for _, a := range flown {
		if a.Verdict == score.Void || a.Corrects != "" {
			continue
		}
		c := drill.Cell{Drill: a.Drill, Side: a.Side, Aids: a.Aids, Level: 1}
		i, ok := at[c]
		if !ok {
			// It was flown and not planned, which is told and no fault.
			others = append(others, c)
			continue
		}
		rows[i].Attempts++
		if a.Verdict == score.Pass {
			rows[i].Passes++
		}
	}
	return rows, others
}
