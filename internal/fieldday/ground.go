package fieldday

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/pack"
	"maestrale/internal/store"
)

// FirstDays is on how many field days a learner's flights are the first ones.
const FirstDays = 3

// today is where the school flies today: the place of its course, its site, and
// the course; nil where none is set.
func (s Days) SiteToday(ctx context.Context, tx store.Tx, set store.Settings) (*field.Geo, string, *course.Course,
	error) {
	if set.CourseID == nil {
		return nil, "", nil, nil
	}
	k, err := tx.Course(ctx, *set.CourseID)
	if errors.Is(err, store.ErrNotFound) {
		return nil, "", nil, nil
	}
	if err != nil {
		return nil, "", nil, err
	}
	laid, err := course.Parse([]byte(k.Source))
	if err != nil {
		return nil, k.Site, nil, fmt.Errorf("read the course of the day: %w", err)
	}
	if laid.Plane == nil {
		return nil, k.Site, laid, nil
	}
	where := laid.Plane.Origin()
	return &where, k.Site, laid, nil
}

// Ask gathers what a course is asked with: the craft, its aids, the wind, and
// the room that every drill takes.
func (s Days) Ask(laid *course.Course, t craft.Type, aids craft.Aids, p *store.Person, density float64) course.Ask {
	a := course.Ask{Craft: t, Aids: aids, Density: density, PaceM: p.PaceM}
	if w := p.WindNow(s.Now()); w != nil && w.Fresh {
		if from := fromOn(laid, p); from != nil {
			a.WindMps, a.WindFrom, a.WindKnown = w.Mean, field.Degrees(*from), true
		}
	}
	a.Envelopes, _ = s.Cat.Rooms(laid, t.Class(), aids)
	return a
}

// fromOn is where the wind comes from in a course's own field headings.
func fromOn(laid *course.Course, p *store.Person) *float64 {
	if p.FromTrueDeg != nil && laid.Plane != nil {
		from := laid.Plane.ToFieldHeading(field.Degrees(*p.FromTrueDeg)).Compass()
		return &from
	}
	return p.From()
}

func WindOr(p *store.Person) float64 {
	if p.WindMps == nil {
		return 0
	}
	return *p.WindMps
}

// tellAloft reads how far the students who are in the air tell the nose of what they fly.
func (s Days) tellAloft(ctx context.Context, tx store.Tx, b *Board) error {
	b.Tell = map[uuid.UUID]float64{}
	for i := range b.Flown {
		f := &b.Flown[i]
		if !f.InAir() || f.StudentID == nil {
			continue
		}
		x, err := s.students(b.Person).SightOn(ctx, tx, *f.StudentID, s.Cat.Craft[b.Craft[f.CraftID].Type],
			b.Person.LightAt(b.Now))
		if err != nil {
			return err
		}
		b.Tell[f.ID] = x.TellM
	}
	return nil
}

// ReachWords say how far a flight may go, and why no farther.
func ReachWords(r pack.Reach) string {
	m, by, known := r.Least()
	if !known {
		return msgPackChargeNot
	}
	return fmt.Sprintf(msgNoFarther, MetresWords(m), map[pack.Bound]string{
		pack.ByPack:  msgFromWherePack,
		pack.BySight: msgWhichNoseTail,
		pack.ByFence: msgWhereFenceSet,
	}[by])
}

// FenceM is the radius in m of the fence that was read at a craft's check today; 0 where none is set or known.
func (b *Board) FenceM(craft uuid.UUID) float64 {
	m, err := strconv.ParseFloat(strings.Replace(b.Checks[craft].Fence, ",", ".", 1), 64)
	if err != nil {
		return 0
	}
	return m
}
