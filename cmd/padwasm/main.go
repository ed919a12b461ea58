//go:build js && wasm

// Command padwasm is the marking pad's judge for the browser: the rules of core, where no
// network reaches.
package main

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"syscall/js"
	"time"

	"maestrale/core/marking"
	"maestrale/core/orient"
	"maestrale/core/score"
	"maestrale/core/yamldoc"
)

var desk *marking.Desk

// trees is the shipped catalogue as it was parsed when the program was built.
//
//go:embed trees.bin
var trees []byte

// answer turns a rule's answer into what the page reads: {"ok": …} or {"error": "…"}.
func answer(f func(args []js.Value) (any, error)) js.Func {
	return js.FuncOf(func(_ js.Value, args []js.Value) (out any) {
		defer func() {
			if p := recover(); p != nil {
				out = wrong(fmt.Errorf("the judge failed: %v", p))
			}
		}()
		v, err := f(args)
		if err != nil {
			return wrong(err)
		}
		data, err := json.Marshal(map[string]any{"ok": v})
		if err != nil {
			return wrong(err)
		}
		if desk != nil {
			return desk.Says(string(data))
		}
		return string(data)
	})
}

func wrong(err error) string {
	data, _ := json.Marshal(map[string]string{"error": err.Error()}) // of texts
	return string(data)
}

func text(args []js.Value, i int) string {
	if i < len(args) && args[i].Type() == js.TypeString {
		return args[i].String()
	}
	return ""
}

var errNoDay = fmt.Errorf("no day is on this device")

func moment(args []js.Value, i int) time.Time {
	if i < len(args) && args[i].Type() == js.TypeNumber {
		return time.UnixMilli(int64(args[i].Float()))
	}
	return time.Time{}
}

func main() {
	if err := yamldoc.RememberPacked(trees); err != nil {
		panic(err) // of the build
	}
	js.Global().Set("maestralePad", js.ValueOf(map[string]any{
		"open": answer(func(args []js.Value) (any, error) {
			d, err := marking.Open([]byte(text(args, 0)))
			if err != nil {
				return nil, err
			}
			desk = d
			return true, nil
		}),
		"add": answer(onDesk(func(args []js.Value) (any, error) {
			var e marking.Evidence
			if err := json.Unmarshal([]byte(text(args, 1)), &e); err != nil {
				return nil, err
			}
			desk.Add(text(args, 0), e)
			return true, nil
		})),
		"rows": answer(onDesk(func(args []js.Value) (any, error) {
			return desk.Rows(moment(args, 0)), nil
		})),
		"page": answer(onDesk(func(args []js.Value) (any, error) {
			var w marking.Wanted
			if err := json.Unmarshal([]byte(text(args, 0)), &w); err != nil {
				return nil, err
			}
			return desk.Page(w, moment(args, 1))
		})),
		"judge": answer(onDesk(func(args []js.Value) (any, error) {
			var in struct {
				Opening marking.Opening `json:"opening"`
				Marks   []score.Mark    `json:"marks"`
				NowS    float64         `json:"now_s"`
			}
			if err := json.Unmarshal([]byte(text(args, 0)), &in); err != nil {
				return nil, err
			}
			state, evidence, err := desk.Judge(in.Opening, in.Marks, in.NowS, moment(args, 1))
			return map[string]any{"state": state, "evidence": evidence}, err
		})),
		"nextCall": answer(nextCall),
		"calls": answer(onDesk(func(args []js.Value) (any, error) {
			return desk.CallsOf(text(args, 0), orient.LightOf(text(args, 1)))
		})),
	}))
	select {}
}

// onDesk lets a function work once a day is open, and refuses before.
func onDesk(do func(args []js.Value) (any, error)) func(args []js.Value) (any, error) {
	return func(args []js.Value) (any, error) {
		if desk == nil {
			return nil, errNoDay
		}
		return do(args)
	}
}
