package marking

import (
	"errors"
	"fmt"
	"math"

	"maestrale/core/drill"
	"maestrale/core/orient"
)

// TooFar says that a task goes farther than a student tells the nose; empty where it does
// not, or how far that is is not known (0).
func TooFar(t drill.Task, name string, tellM float64) string {
	far := t.ReachM()
	if tellM <= 0 || far <= tellM {
		return ""
	}
	return fmt.Sprintf("It goes %.0f m from the eyes; %s tells the nose to %.0f m", far, name, math.Floor(tellM))
}

// Calls is what a device needs to note calls of a craft's nose.
type Calls struct {
	Student  string        `json:"student"`
	Name     string        `json:"name"`
	Craft    string        `json:"craft"`
	Title    string        `json:"title"` // of the craft
	SpacingM float64       `json:"spacing_m"`
	Light    orient.Light  `json:"light"`
	Calls    []orient.Call `json:"calls"`
	Names    []string      `json:"names"` // of orient.CalledAmong
}

// CalledNames name orient.CalledAmong.
var CalledNames = []string{"tail-in", "nose right", "nose-in", "nose left"}

var errNoCue = errors.New("the craft's type says no colour cue; expected cue: {spacing_m} in its file")

// CallsOf is what is known of a student's calls, in a light.
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

// tellM is how far a student tells the nose by day; 0 where that is not known.
func (d *Desk) tellM(st *StudentOf) float64 {
	m, ok := d.tells[st.ID]
	if !ok {
		if x, err := orient.SightOf(d.cat.Craft[st.Craft].CueSpaceM, 1, orient.Day, st.Calls); err == nil {
			m = x.TellM
		}
		d.tells[st.ID] = m
	}
	return m
}
