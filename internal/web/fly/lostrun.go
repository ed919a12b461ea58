package fly

import (
	"fmt"
	"math"
	"math/rand/v2"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/flight/trace"
	"maestrale/core/orient"
	"maestrale/core/rig"
	"maestrale/core/score"
)

// lostModel is the Fly screen as the lost-craft trainer: the craft is a dot until it is
// nearer.
type lostModel struct {
	Level   orient.Level
	Levels  []orient.Level
	Schools []lostSchool
	scene   sceneLost
}

// lostSchool is a drill in which the orientation is regained by one of the schools.
type lostSchool struct {
	Key, Title string
	Chosen     bool
}

// sceneLost is what the page needs to show a dot.
type sceneLost struct {
	Level string     `json:"level"`
	Birds int        `json:"birds"`
	Seed  uint32     `json:"seed"`   // of the birds
	NearM float64    `json:"near_m"` // from the station, at which it is seen as it is
	At    [2]float64 `json:"station"`
	Speed float64    `json:"speed_mps"` // of a usual push
	Yaw   float64    `json:"yaw_dps"`
}

// lostSchools are the drills that begin with an orientation to regain.
func lostSchools(cat *drill.Catalogue, chosen string) (out []lostSchool) {
	for _, d := range cat.InOrder() {
		if d.Steps[0].Kind == drill.Regain && !d.Sided {
			out = append(out, lostSchool{d.Key, d.Title, d.Key == chosen})
		}
	}
	return out
}

// lostRun makes a run of the trainer's grade.
func (s Pages) lostRun(key string, spec trace.Spec, m *flyModel) (trace.Spec, rig.Setup, error) {
	l, err := orient.LevelOf(key)
	if err != nil {
		return spec, rig.Setup{}, err
	}
	if m.Drill == nil {
		return spec, rig.Setup{}, fmt.Errorf("no drill is named; expected one in which the orientation is regained")
	}
	m.WindMps, m.From, m.Gusts, m.Level = l.WindMps, 0, "none", l.Drill
	if l.WindMps > 0 {
		m.From = []float64{90, 270}[rand.IntN(2)] //nolint:gosec // a side, no secret
	}
	m.Aids = rig.LostAids(m.Craft, l)
	spec.Lost, spec.Course, spec.Aids, spec.Level, spec.WindMps, spec.WindFromDeg, spec.Gusts = l.Key, "", string(m.Aids),
		l.Drill, l.WindMps, m.From, "none"
	spec, setup, err := rig.Lost(spec, s.Cat)
	if err != nil {
		return spec, setup, err
	}
	first := setup.Task.Steps[0]
	e := score.EyeOn(m.Craft, m.Aids, l.WindMps, field.Degrees(m.From))
	m.Lost = &lostModel{Level: l, Levels: orient.Levels, Schools: lostSchools(s.Cat, m.Drill.Key),
		scene: sceneLost{Level: l.Key, Birds: l.Birds, Seed: spec.Seed, NearM: score.Nearer * first.FromM,
			At: [2]float64{setup.Task.Station.X, setup.Task.Station.Y}, Speed: e.AirspeedMps, Yaw: math.Round(e.YawRate.Deg())}}
	return spec, setup, nil
}
