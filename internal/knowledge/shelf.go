package knowledge

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"

	"maestrale/internal/store"
)

// shelfHolds is how many views a shelf holds; each is about two kilobytes.
const shelfHolds = 8192

// Shelf holds in memory the views that were read from the database. Each stands under all that decides what it says, so
// that a view of a chain that has grown, or of other rules, is never found. It is safe for several goroutines.
type Shelf struct {
	views *lru.Cache[shelved, View]
}

// shelved is what a view on the shelf was made of.
type shelved struct {
	student uuid.UUID
	seq     int64
	rules   string
	until   int64 // in microseconds of Unix time
}

// NewShelf makes an empty shelf.
func NewShelf() *Shelf {
	c, err := lru.New[shelved, View](shelfHolds)
	if err != nil {
		panic(err) // its size is wrong
	}
	return &Shelf{c}
}

func shelvedOf(v *store.View) shelved {
	return shelved{v.StudentID, v.Seq, v.Rules, v.ValidUntil.UnixMicro()}
}

// read gives the views that are good still, from the shelf or from the database.
func (s *Shelf) read(ctx context.Context, tx store.Tx, good []store.View) (map[uuid.UUID]View, error) {
	out := make(map[uuid.UUID]View, len(good))
	var missing []uuid.UUID
	for i := range good {
		if s != nil {
			if o, ok := s.views.Get(shelvedOf(&good[i])); ok {
				out[good[i].StudentID] = o
				continue
			}
		}
		missing = append(missing, good[i].StudentID)
	}
	if len(missing) == 0 {
		return out, nil
	}
	whole, err := tx.ViewsWhole(ctx, missing)
	if err != nil {
		return nil, fmt.Errorf("the views: %w", err)
	}
	for i := range good {
		v := &good[i]
		w, ok := whole[v.StudentID]
		if _, is := out[v.StudentID]; is || !ok || shelvedOf(&w) != shelvedOf(v) {
			continue // somebody has kept another one meanwhile
		}
		var o View
		if json.Unmarshal(w.Body, &o) != nil {
			continue // it is worked out anew
		}
		o.made(v.Seq, v.Rules, v.ValidUntil)
		out[v.StudentID] = o
		if s != nil {
			s.views.Add(shelvedOf(v), o)
		}
	}
	return out, nil
}

// made notes what a view was made of.
func (v *View) made(seq int64, rules string, until time.Time) {
	v.Of = fmt.Sprintf("%d/%d/%s", seq, until.UnixMicro(), rules)
}
