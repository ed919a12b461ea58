package marking

import (
	"errors"
	"fmt"
	"math"
	"time"

	"maestrale/core/drill"
	"maestrale/core/orient"
)

// TooFar says that a task goes farther than a student tells the nose. Both
// distances are from the pilot's eyes, m. It is empty where the task stays
// within, and where how far the student tells the nose is not known (tellM 0).
func TooFar(t drill.Task, name string, tellM float64) string {
	far := t.ReachM()
	if tellM <= 0 || far <= tellM {
		return ""
	}
	return fmt.Sprintf(msgTooFarForEyes, far, name, math.Floor(tellM))
}

// Calls is what a device needs to note calls of a craft's nose: a student says
// which way it points, and the device notes how far away it was and whether
// that was right.
type Calls struct {
	Student  string        `json:"student"`
	Name     string        `json:"name"`
	Craft    string        `json:"craft"`     // key of the craft type
	Title    string        `json:"title"`     // of the craft type
	SpacingM float64       `json:"spacing_m"` // between the marks that tell its nose from its tail, m
	Light    orient.Light  `json:"light"`     // in which the calls are made
	Calls    []orient.Call `json:"calls"`     // the newest that are known, in any light
	Names    []string      `json:"names"`     // of orient.CalledAmong, in its order
}

// CalledNames name orient.CalledAmong, in its order.
var CalledNames = []string{"tail-in", "nose right", "nose-in", "nose left"}

// errNoCue is a craft type of which it is not known what tells its nose, so
// that no distance can be worked out.
var errNoCue = errors.New("the craft's type says no colour cue; expected cue: {spacing_m} in its file")

// CallsOf is what is known of a student's calls, in a light. It refuses a
// student who is not of the day, and a craft type without a cue.
func (d *Desk) CallsOf(student string, light orient.Light) (Calls, error) {
	st, err := d.student(student)
	if err != nil {
		return Calls{}, err
	}
	t := d.cat.Craft[st.Craft]
	if t.CueSpaceM <= 0 {
		return Calls{}, errNoCue
	}
	return Calls{st.ID, st.Name, t.Key, t.Title, t.CueSpaceM, light, append([]orient.Call{}, st.Calls...), CalledNames},
		nil
}

// told is whose nose is told in which light.
type told struct {
	student string
	light   orient.Light
}

// tellM is how far a student tells the nose in the light of a moment, m, by the
// calls that the bundle has or, where they are too few, by the craft's cue; 0
// for a craft without one. It is worked out once for a light: the calls of a
// day are not in its own bundle.
func (d *Desk) tellM(st *StudentOf, now time.Time) float64 {
	of := told{st.ID, d.Light.LightAt(now, d.Place)}
	m, ok := d.tells[of]
	if !ok {
		if x, err := orient.SightOf(d.cat.Craft[st.Craft].CueSpaceM, 1, of.light, st.Calls); err == nil {
			m = x.TellM
		}
		d.tells[of] = m
	}
	return m
}
