//go:build js && wasm

package main

import (
	"encoding/json"
	"fmt"
	"strings"
	"syscall/js"

	"maestrale/core/bench"
	"maestrale/core/flight"
	"maestrale/core/flight/trace"
)

var (
	stand  *bench.Bench
	rotors int
)

// benchFields name the numbers of the bench that the page draws.
var benchFields = []string{"height", "heading", "roll", "pitch", "climb", "turning", "lift", "yaw",
	"share1", "share2", "share3", "share4", "share5", "share6", "share7", "share8", "torque1", "torque2", "torque3",
	"torque4", "torque5", "torque6", "torque7", "torque8"}

func setBench() {
	names := map[string]any{}
	for i, n := range benchFields {
		names[n] = i
	}
	js.Global().Set("maestraleBench", js.ValueOf(map[string]any{
		"fields": names, "begin": js.FuncOf(benchBegin), "rotors": js.FuncOf(benchRotors), "sticks": js.FuncOf(benchSticks),
		"step":  js.FuncOf(benchStep),
		"level": js.FuncOf(benchLevel), "questions": js.FuncOf(benchQuestions), "answer": js.FuncOf(benchAnswer),
		"fastest": js.FuncOf(benchFastest),
	}))
}

// benchBegin(numbers, names) puts the craft of a configuration on the bench; it
// returns "" or what is wrong.
func benchBegin(_ js.Value, args []js.Value) any {
	cfg, err := configOf(args)
	if err == nil {
		stand, err = bench.New(cfg.Craft)
		rotors = len(cfg.Craft.Rotors)
	}
	if err != nil {
		return err.Error()
	}
	return ""
}

func benchRotors(_ js.Value, args []js.Value) any {
	if stand == nil || len(args) != 1 {
		return "nothing stands on the bench"
	}
	if err := stand.Rotors(floats(args[0])); err != nil {
		return err.Error()
	}
	return ""
}

// benchSticks(throttle, yaw, pitch, roll) returns as JSON what the mixer makes of
// them and what it had to give up.
func benchSticks(_ js.Value, args []js.Value) any {
	if stand == nil || len(args) != 4 {
		return "{}"
	}
	stand.Sticks(flight.Sticks{Throttle: args[0].Float(), Yaw: args[1].Float(), Pitch: args[2].Float(),
		Roll: args[3].Float()})
	return text(map[string]any{"rotors": stand.Set(), "said": stand.State.Kept.Words()})
}

// benchStep(seconds, out) moves the bench on and fills out, a Float64Array.
func benchStep(_ js.Value, args []js.Value) any {
	if stand == nil || len(args) != 2 {
		return nil
	}
	stand.Step(args[0].Float())
	s := &stand.State
	out := append([]float64{s.Height, s.Heading, s.Roll, s.Pitch, s.Climb, s.Turning, s.Lift, s.Yaw}, s.Share[:]...)
	for i, v := range append(out, s.Torque[:]...) {
		args[1].SetIndex(i, v)
	}
	return nil
}

func benchLevel(js.Value, []js.Value) any {
	if stand != nil {
		stand.Level()
	}
	return nil
}

func benchQuestions(js.Value, []js.Value) any {
	if stand == nil {
		return "[]"
	}
	var out []map[string]any
	for _, q := range stand.Questions() {
		out = append(out, map[string]any{"key": q.Key, "ask": q.Ask, "rotors": q.Rotors, "shown": q.Shown})
	}
	return text(out)
}

func benchAnswer(_ js.Value, args []js.Value) any {
	if stand == nil || len(args) != 1 {
		return "{}"
	}
	right, why, err := stand.Answer(args[0].String())
	if err != nil {
		why = err.Error()
	}
	return text(map[string]any{"right": right, "why": why})
}

func benchFastest(js.Value, []js.Value) any {
	if stand == nil {
		return 1
	}
	return stand.Fastest()
}

func text(v any) string {
	data, err := json.Marshal(v)
	if err != nil {
		return "{}"
	}
	return string(data)
}

func floats(v js.Value) []float64 {
	out := make([]float64, v.Length())
	for i := range out {
		out[i] = v.Index(i).Float()
	}
	return out
}

// configOf reads a configuration from numbers and names.
func configOf(args []js.Value) (flight.Config, error) {
	if len(args) < 2 {
		return flight.Config{}, fmt.Errorf("expected numbers and names")
	}
	return trace.Unflatten(floats(args[0]), strs(args[1]))
}

// strs copies a list of strings.
func strs(v js.Value) []string {
	out := make([]string, v.Length())
	for i := range out {
		out[i] = strings.Clone(v.Index(i).String())
	}
	return out
}
