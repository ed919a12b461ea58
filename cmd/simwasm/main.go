//go:build js && wasm

// Simwasm is the simulator in the browser: core/flight behind a handful of
// functions. The page draws and listens; what flies is this, and the trace that it
// keeps is flown again by the server.
package main

import (
	"fmt"
	"syscall/js"
	"unsafe"

	"maestrale/core/flight"
	"maestrale/core/flight/trace"
)

var (
	run  *trace.Recorder
	spec trace.Spec
)

func main() {
	names := map[string]any{}
	for i, n := range trace.Fields {
		names[n] = i
	}
	js.Global().Set("maestraleSim", js.ValueOf(map[string]any{
		"fields":  names,
		"begin":   js.FuncOf(begin),
		"happen":  js.FuncOf(happen),
		"refused": js.FuncOf(refused),
		"said":    js.FuncOf(said),
		"trace":   js.FuncOf(traceOf),
		"watch":   js.FuncOf(watchFor),
		"coach":   js.FuncOf(coach),
	}))
	setBench()
	if ready := js.Global().Get("maestraleSimReady"); ready.Type() == js.TypeFunction {
		ready.Invoke()
	}
	select {}
}

// begin(numbers, names, spec, gateNumbers, gateNames) makes a run ready; it returns ""
// or what is wrong.
func begin(_ js.Value, args []js.Value) any {
	if len(args) != 5 {
		return "begin takes numbers, names, a spec, and the numbers and names of its gates"
	}
	cfg, err := configOf(args)
	if err != nil {
		return err.Error()
	}
	f, err := flight.New(cfg)
	if err != nil {
		return err.Error()
	}
	s := args[2]
	spec = trace.Spec{Craft: s.Get("craft").String(), Drill: s.Get("drill").String(), Side: s.Get("side").String(),
		Level: s.Get("level").Int(), Aids: s.Get("aids").String(),
		WindMps: s.Get("wind_mps").Float(), WindFromDeg: s.Get("wind_from_deg").Float(), Gusts: s.Get("gusts").String(),
		Seed: uint32(s.Get("seed").Float())}
	for name, to := range map[string]*string{"course": &spec.Course, "drill_sha256": &spec.DrillSHA, "lost": &spec.Lost} {
		if v := s.Get(name); v.Type() == js.TypeString {
			*to = v.String()
		}
	}
	gates, err := trace.UnflattenGates(floats(args[3]), strs(args[4]))
	if err != nil {
		return err.Error()
	}
	run, watch = trace.Record(f), nil
	run.Follow(gates)
	return ""
}

// state is what reading fills; the page looks at it where it lies.
var state [len(trace.Fields)]float64

// reading flies n readings of the sticks and fills the state; it tells whether the
// run goes on. It is called past syscall/js, whose call takes as long as the flying.
//
//go:wasmexport reading
func reading(n int32, throttle, yaw, pitch, roll, wheel float64, aids, frame int32) bool {
	if run == nil {
		return false
	}
	on := true
	for ; n > 0 && on; n-- {
		on = run.Reading(throttle, yaw, pitch, roll, wheel, int(aids), int(frame))
		look()
	}
	copy(state[:], run.Drawn())
	return on
}

//go:wasmexport stateAt
func stateAt() unsafe.Pointer { return unsafe.Pointer(&state) }

// calls is how often something was called out to the pilot so far.
//
//go:wasmexport calls
func calls() int32 {
	if run == nil {
		return 0
	}
	return int32(len(run.Said)) //nolint:gosec // a handful
}

// said() is what was called out last.
func said(js.Value, []js.Value) any {
	if run == nil || len(run.Said) == 0 {
		return ""
	}
	return run.Said[len(run.Said)-1]
}

// happen(text, who) lets an event happen at the next reading; it returns "" or
// what is wrong with it.
func happen(_ js.Value, args []js.Value) any {
	if run == nil || len(args) != 2 {
		return "nothing is flown"
	}
	if err := run.Event(args[0].String(), args[1].String()); err != nil {
		return err.Error()
	}
	return ""
}

// refused() lists what was refused so far, as "event: why", and what ended the run.
func refused(js.Value, []js.Value) any {
	if run == nil {
		return ""
	}
	out := ""
	for _, r := range run.Refused {
		out += fmt.Sprintf("%s: %s\n", r.Event, r.Why)
	}
	if run.State.Cause != "" {
		out += "end: " + run.State.Cause + "\n"
	}
	return out
}

// trace(zoom) ends the run and returns its trace as JSON.
func traceOf(_ js.Value, args []js.Value) any {
	if run == nil || len(args) != 1 {
		return ""
	}
	return run.JSON(spec, args[0].Bool())
}
