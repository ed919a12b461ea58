package knowledge

import (
	"context"
	"encoding/json"
	"fmt"
	"hash/fnv"
	"maps"
	"slices"
	"time"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/readiness"
	"maestrale/core/record"
	"maestrale/internal/store"
)

// DifferSince is for how long it is said that two eyes differ.
const DifferSince = 28 * 24 * time.Hour

// overviewRules grows with every change of what an overview says.
const overviewRules = 6

// View is what a student's record comes to, and where verdicts on it differ.
type View struct {
	readiness.Overview
	Differ []store.Differing `json:"differ"`
	Of     string            `json:"-"` // what it was made of: the same words mean the same record and the same rules
}

// Views are what the students' records come to. They are kept: those whose chain has grown, or of which something has
// lapsed by time, are worked out anew.
func (b Book) Views(ctx context.Context, tx store.Tx, students []store.Student) (map[uuid.UUID]View, error) {
	kept, err := tx.Views(ctx)
	if err != nil {
		return nil, err
	}
	now, rules := b.Now(), b.rules()
	var good []store.View
	for _, st := range students {
		if v := kept[st.ID]; v.Kept == v.Seq && v.Rules == rules(st) && now.Before(v.ValidUntil) {
			good = append(good, v)
		}
	}
	out, err := b.Shelf.read(ctx, tx, good)
	if err != nil {
		return nil, err
	}
	stale := map[uuid.UUID]*readiness.Evidence{}
	for _, st := range students {
		if _, ok := out[st.ID]; !ok {
			stale[st.ID] = b.NoEvidence()
		}
	}
	if len(stale) == 0 {
		return out, nil
	}
	return out, b.oversee(ctx, tx, students, stale, kept, out)
}

// rules names what a student's view is made by: the gates as they are asked now, the programme as it is written now,
// the craft and the zone.
func (b Book) rules() func(store.Student) string {
	asked := fnv.New64a()
	for _, k := range b.Cat.GateKeys() {
		_, _ = asked.Write(b.Cat.Gates[k].Source)
	}
	ladders := map[string]uint64{}
	return func(st store.Student) string {
		ladder, ok := ladders[st.Programme]
		if !ok {
			sum := fnv.New64a()
			_, _ = sum.Write(b.Cat.Programmes[st.Programme].Source)
			ladder = sum.Sum64()
			ladders[st.Programme] = ladder
		}
		return fmt.Sprintf("%d/%x/%s/%x/%s/%s", overviewRules, asked.Sum64(), st.Programme, ladder, st.CraftType, b.Zone)
	}
}

// oversee works out anew what the records of some students come to, keeps it, and puts it into out.
func (b Book) oversee(ctx context.Context, tx store.Tx, students []store.Student,
	stale map[uuid.UUID]*readiness.Evidence, kept map[uuid.UUID]store.View, out map[uuid.UUID]View) error {
	rules := b.rules()
	ids := slices.Collect(maps.Keys(stale))
	if err := b.EvidenceOf(ctx, tx, stale); err != nil {
		return err
	}
	differs, err := b.differsOf(ctx, tx, ids, b.Now())
	if err != nil {
		return err
	}
	decided, err := tx.DecisionsOf(ctx, ids)
	if err != nil {
		return err
	}
	gates := b.gatesInOrder()
	for _, st := range students {
		e := stale[st.ID]
		if e == nil {
			continue
		}
		t, d := b.Cat.Craft[st.CraftType], decided[st.ID]
		o := View{Differ: differs[st.ID]}
		o.Overview = readiness.Oversee(b.Cat.Programmes[st.Programme], gates, readiness.OnCraft(t), e, d.Seen, d.Signs)
		body, err := json.Marshal(o)
		if err != nil {
			return fmt.Errorf("the overview of %s: %w", st.Name, err)
		}
		if err := tx.KeepView(ctx, store.View{StudentID: st.ID, Seq: kept[st.ID].Seq, Rules: rules(st), ValidUntil: o.Until,
			Body: body}); err != nil {
			return err
		}
		o.made(kept[st.ID].Seq, rules(st), o.Until)
		out[st.ID] = o
	}
	return nil
}

// EvidenceOf reads the evidence of some students into what is given for each.
func (b Book) EvidenceOf(ctx context.Context, tx store.Tx, students map[uuid.UUID]*readiness.Evidence) error {
	if len(students) == 0 {
		return nil
	}
	return tx.Evidence(ctx, slices.Collect(maps.Keys(students)), func(id uuid.UUID, a *record.Attempt) { //nolint:wrapcheck
		if e := students[id]; e != nil { // not the own flights of those who teach
			e.Add(a)
		}
	})
}

// differsOf are the attempts of each student on which two eyes differ.
func (b Book) differsOf(ctx context.Context, tx store.Tx, students []uuid.UUID, now time.Time) (
	map[uuid.UUID][]store.Differing, error,
) {
	differ, err := tx.Differ(ctx, students, now.Add(-DifferSince), b.Zone.String())
	if err != nil {
		return nil, err
	}
	differs := map[uuid.UUID][]store.Differing{}
	for _, d := range differ {
		differs[d.StudentID] = append(differs[d.StudentID], d)
	}
	return differs, nil
}

// gatesInOrder are the school's gates in the order of their keys.
func (b Book) gatesInOrder() (gates []drill.Gate) {
	for _, k := range b.Cat.GateKeys() {
		gates = append(gates, b.Cat.Gates[k])
	}
	return gates
}
