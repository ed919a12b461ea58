package store

import (
	"maps"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"maestrale/core/score"
)

// The kept count of flights is what counting them anew comes to, after random histories of flights in the field and in
// the simulator, of corrections, and of what was sent twice.
func TestFlightsByTypeAreWhatCountingComesTo(t *testing.T) {
	s, rng := newSchool(t), rand.New(rand.NewPCG(32, 1))
	var all []NewAttempt
	corrected := map[string]bool{}
	for range 60 {
		a := s.attempt(score.Pass, time.Now())
		a.CraftType = []string{"gheppio", "poiana", "rondine"}[rng.IntN(3)]
		a.Source = []score.Source{score.Observed, score.Sim, score.FromLog}[rng.IntN(3)]
		switch n := rng.IntN(10); {
		case n == 0 && len(all) > 0: // once more
			a = all[rng.IntN(len(all))]
		case n < 3 && len(all) > 0:
			if last := all[len(all)-1]; !corrected[last.ID] {
				a.Corrects, corrected[last.ID] = last.ID, true
			}
		}
		s.keep(t, a)
		all = append(all, a)
		s.in(t, func(tx Tx) error {
			kept, err := tx.FlightsByType(ctx)
			if err != nil {
				return err
			}
			anew := map[string]int{}
			var of string
			var n int
			rows, _ := tx.Query(ctx, `SELECT craft_type, count(*) FROM attempts WHERE source <> 'sim' AND corrects IS NULL
				GROUP BY 1`)
			_, err = pgx.ForEachRow(rows, []any{&of, &n}, func() error { anew[of] = n; return nil })
			if !maps.Equal(kept, anew) {
				t.Fatalf("kept %v, counted %v", kept, anew)
			}
			return err
		})
	}
}
