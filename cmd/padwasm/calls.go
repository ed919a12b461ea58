//go:build js && wasm

package main

import (
	"encoding/json"
	"math/rand/v2"
	"syscall/js"

	"maestrale/core/orient"
)

// nextCall is where the craft is carried next and which aspect is shown, in the protocol by
// which it is found how far a student tells it.
func nextCall(args []js.Value) (any, error) {
	var in struct {
		Spacing float64       `json:"spacing_m"`
		Light   orient.Light  `json:"light"`
		Stands  float64       `json:"stands_m"`
		Shown   []int         `json:"shown"`
		Calls   []orient.Call `json:"calls"`
	}
	if err := json.Unmarshal([]byte(text(args, 0)), &in); err != nil {
		return nil, err
	}
	mark, aspect, err := orient.NextCall(in.Spacing, in.Light, in.Calls, in.Stands, in.Shown,
		rand.New(rand.NewPCG(rand.Uint64(), rand.Uint64())))
	if err != nil {
		return nil, err
	}
	x, err := orient.SightOf(in.Spacing, 1, in.Light, in.Calls)
	return map[string]any{"mark_m": mark, "aspect": aspect, "tell_m": x.TellM, "half_m": x.HalfM, "low_m": x.Low,
		"high_m": x.High, "calls": x.Calls, "from_cue": x.FromCue, "enough": x.Enough}, err
}
