package demo

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"time"

	"github.com/google/uuid"

	"maestrale/core/field"
	"maestrale/core/flight/trace"
	"maestrale/core/orient"
	"maestrale/core/record"
	"maestrale/core/rig"
	"maestrale/core/score"
	"maestrale/internal/attempt"
	"maestrale/internal/demo/pilot"
	"maestrale/internal/store"
)

// eyes are a made-up learner's: where the nose is told from, and where the reflexes are
// slow.
type eyes struct {
	tellM   float64     // at which a call is right half way between a guess and always; 0 = never called
	calls   int         // that were made
	answers int         // of the reflex trainer
	weak    field.Angle // the aspect at which the reflexes are weak
	lost    []string    // grades of the lost-craft trainer that were flown
	skill   float64     // of those flights, as a share of a beginner's errors
}

var eyesOf = map[string]eyes{
	"Nives Torcellan": {tellM: 74, calls: 24},
	"Ilario Penzoval": {tellM: 52, calls: 30, answers: 210, weak: field.Degrees(100), lost: []string{"still", "still",
		"still", "wind", "wind"}, skill: 0.05},
	"Sauro Bradamel":  {answers: 160, weak: field.Degrees(180)},
	"Ginevra Altamor": {tellM: 61, calls: 18, lost: []string{"still", "still"}, skill: 0.3},
	"Radu Petrinel":   {tellM: 15, calls: 24},
	"Bruno Fasolar":   {tellM: 88, calls: 26},
	"Olga Stivanel":   {calls: 5, tellM: 90},
}

// orientation makes what the learner did at the orientation trainers: by chance from a
// seed, and by flights of the pilot model.
func (t *training) orientation(ctx context.Context, tx store.Tx, days []time.Time) error {
	e, ok := eyesOf[t.Name]
	if !ok {
		return nil
	}
	r := rand.New(rand.NewPCG(uint64(len(t.Name)), 77))
	last := days[t.To]
	if err := t.called(ctx, tx, e, last.Add(2*time.Hour), r); err != nil {
		return err
	}
	if err := t.answered(ctx, tx, e, last, r); err != nil {
		return err
	}
	for i, grade := range e.lost {
		at := last.Add(13*time.Hour + time.Duration(5*i)*time.Minute)
		if err := t.lostCraft(ctx, tx, grade, e.skill, at, uint32(100*i+7)); err != nil {
			return fmt.Errorf("%s, a lost craft: %w", t.Name, err)
		}
	}
	return nil
}

// called walks the field protocol with a caller of a known threshold.
func (t *training) called(ctx context.Context, tx store.Tx, e eyes, at time.Time, r *rand.Rand) error {
	cue := t.cat.Craft[t.Craft].CueSpaceM
	var calls []orient.Call
	var shown []int
	stands := 0.0
	for i := range e.calls {
		mark, aspect, err := orient.NextCall(cue, orient.Day, calls, stands, shown, r)
		if err != nil {
			return fmt.Errorf("the calls of %s: %w", t.Name, err)
		}
		said := aspect
		if r.Float64() > 0.98/(1+math.Pow(mark/e.tellM, 5)) { // the eye cannot tell, and guesses
			said = r.IntN(len(orient.CalledAmong))
		}
		stands, shown, calls = mark, append(shown, aspect), append(calls, orient.Call{DistanceM: mark, Right: said == aspect})
		when := at.Add(time.Duration(i) * 40 * time.Second)
		if err := tx.AddCall(ctx, t.student.ID, store.Call{ID: uuid.MustParse(idAt(when)), CraftType: t.Craft, At: when.UTC(),
			DistanceM: mark, Light: string(orient.Day), Shown: aspect, Called: said, NotedBy: t.by[0]}); err != nil {
			return err
		}
	}
	return nil
}

// answered sits at the reflex trainer for three evenings.
func (t *training) answered(ctx context.Context, tx store.Tx, e eyes, last time.Time, r *rand.Rand) error {
	known := orient.ReflexesOf(nil)
	for i := range e.answers {
		when := last.Add(time.Duration(12-24*(2-i*3/e.answers))*time.Hour + time.Duration(4*i)*time.Second)
		item := known.Next(when, r)
		off := (item.Aspect() - e.weak).Wrap().Abs().Deg()
		wrong := 0.06 + 0.5*math.Exp(-off*off/(2*28*28))
		a := orient.Answer{Item: item, At: when.UTC(), Right: r.Float64() > wrong, Seconds: 0.55 +
			0.5*math.Exp(0.5*r.NormFloat64())*(0.7+wrong)}
		known.Add(a)
		if err := tx.AddReflex(ctx, uuid.MustParse(idAt(when)), t.student.ID, a); err != nil {
			return err
		}
	}
	return nil
}

// lostCraft flies a run of the lost-craft trainer.
func (t *training) lostCraft(ctx context.Context, tx store.Tx, grade string, share float64, at time.Time,
	seed uint32) error {
	l, err := orient.LevelOf(grade)
	if err != nil {
		return err
	}
	kind := t.cat.Craft[t.Craft]
	d := t.cat.Drills["regain-read"]
	aids := rig.LostAids(kind, l)
	spec := trace.Spec{Craft: t.Craft, Drill: d.Key, Side: string(field.NoSide), Level: l.Drill, Aids: string(aids),
		WindMps: l.WindMps, WindFromDeg: 90, Gusts: "none", Seed: seed, Lost: grade}
	if spec, _, err = rig.Lost(spec, t.cat); err != nil {
		return err
	}
	flown, err := pilot.Fly(spec, t.cat, pilot.Of(share, pilot.Wide[kind.Class()]), uint64(seed))
	if err != nil {
		return err
	}
	tr, err := trace.Read(strings.NewReader(flown.Run))
	if err != nil {
		return err
	}
	again, err := rig.Replay(tr, t.cat, nil)
	if err != nil {
		return err
	}
	file, err := again.CSV()
	if err != nil {
		return err
	}
	id := uuid.MustParse(idAt(at))
	if _, err := tx.AddRun(ctx, store.Run{ID: id, StudentID: t.student.ID, FlownAt: at, SentBy: t.by[0],
		Trace: []byte(flown.Run), Claimed: tr.Hash, Reflown: tr.Hash, Lost: grade}); err != nil {
		return err
	}
	wind, from := spec.WindMps, spec.WindFromDeg
	a := &attempt.Evidence{Student: t.student.ID, Drill: d, By: t.by[0], RecordedAt: at.Add(2 * time.Minute),
		Result: again.Result, Track: &store.TrackFile{File: file}}
	a.Attempt = record.Attempt{ID: id.String(), At: at, Drill: d.Key, Side: field.NoSide, Aids: aids, Level: l.Drill,
		Frame: "nose", CraftClass: kind.Class(), CraftType: t.Craft, Source: score.Sim,
		Verdict: again.Result.Verdict, Margin: again.Result.Margin, WindMps: &wind, WindFromDeg: &from}
	_, err = attempt.Recorder{}.KeepAll(ctx, tx, t.student.ID, a)
	return err
}
