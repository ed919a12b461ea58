// Package preflight is the check before a flight: what is asked for which
// craft, why, by which rule, and what to do where it fails; the compass
// policies; and the flight by which an instructor proves a craft.
package preflight

import (
	_ "embed"
	"fmt"
	"slices"

	"maestrale/core/craft"
	"maestrale/core/yamldoc"
)

// Stage is a part of the check; the parts follow one another.
type Stage string

// The stages.
const (
	GroundStage Stage = "ground"   // before anything is switched on
	PowerStage  Stage = "power"    // switching on, in order
	ReadyStage  Stage = "ready"    // switched on, before take-off
	AirStage    Stage = "airborne" // in the air, before the lesson
)

// Stages lists the stages in order.
var Stages = []Stage{GroundStage, PowerStage, ReadyStage, AirStage}

// Words says what a stage is.
func (s Stage) Words() string {
	return map[Stage]string{GroundStage: msgStageGround, PowerStage: msgStagePower,
		ReadyStage: msgStageReady, AirStage: msgStageAir}[s]
}

// Ask is the kind of an answer.
type Ask string

// The kinds.
const (
	AskYes      Ask = "yes"      // yes or no
	AskNumber   Ask = "number"   // a number with a unit
	AskCells    Ask = "cells"    // the volts of each cell
	AskText     Ask = "text"     // words
	AskChoice   Ask = "choice"   // one of Choices
	AskComputed Ask = "computed" // nothing is asked
)

// Item is one thing to check.
type Item struct {
	// Key names the item; Title, Why and Do are what people read: what it is,
	// what for, and what to do where it fails.
	Key, Title, Why, Do string
	Stage               Stage
	Ask                 Ask
	// Rule is the name of what judges the answer; empty where yes is enough.
	Rule string
	// Hint and Unit help who answers; Low and High are the bounds of a number.
	Hint, Unit string
	Low, High  float64
	Choices    []string
	// Needs are capabilities of the craft, one of which suffices; none means
	// every craft.
	Needs []string
	// When is first or goggles, one of which suffices; none means always.
	When []string
	// Remembered offers the last answer.
	Remembered bool
	// Never is whether a failure may not be overridden.
	Never bool
	// Seconds is how long a timer runs; 0 for none.
	Seconds int
	Caution string
}

// Template is every item in order.
type Template []Item

//go:embed catalogue/check.yaml
var shipped []byte

// Shipped returns the template that ships with the program.
func Shipped() Template {
	t, err := Parse(shipped)
	if err != nil {
		panic(err) // the shipped file is tested
	}
	return t
}

// Parse reads a maestrale-check/1 file.
func Parse(data []byte) (Template, error) {
	d, top := yamldoc.Read(data)
	m := top.Map()
	m.Need("format").Word("maestrale-check/1")
	var t Template
	seen := map[string]bool{}
	// last is the stage of the item before, by its place.
	last := 0
	for _, n := range m.Need("items").List() {
		im := n.Map()
		it := Item{Key: im.Need("key").Text(), Title: im.Need("title").Text(), Why: im.Need("why").Text(),
			Do:    im.Need("do").Text(),
			Stage: Stage(im.Need("stage").Word("ground", "power", "ready", "airborne")),
			Ask:   Ask(im.Need("ask").Word("yes", "number", "cells", "text", "choice", "computed"))}
		// A rule that is not known is a slip in the file, and is refused.
		if r := im.Get("rule"); r.Present() {
			it.Rule = r.Word(ruleNames()...)
		}
		text := func(key string) string {
			if n := im.Get(key); n.Present() {
				return n.Text()
			}
			return ""
		}
		it.Hint, it.Unit, it.Caution = text("hint"), text("unit"), text("caution")
		it.Low, it.High = im.Get("low").Number(-1e6, 1e6), im.Get("high").Number(-1e6, 1e6)
		words := func(key string, known ...string) []string {
			var out []string
			for _, w := range im.Get(key).List() {
				if len(known) > 0 {
					out = append(out, w.Word(known...))
				} else {
					out = append(out, w.Text())
				}
			}
			return out
		}
		it.Choices = words("choices")
		it.Needs = words("needs", craft.CanHold, craft.CanFilm, craft.IsHobby, craft.IsMicro, craft.OnGoggles,
			craft.HasScreen, craft.HasGuards, craft.HasGimbal, craft.FoldingArm, craft.HasSensors, craft.HasThread)
		it.When = words("when", "first", "goggles")
		it.Remembered, it.Never = im.Get("remembered").Bool(), im.Get("never").Bool()
		it.Seconds = im.Get("seconds").Int(0, 600)
		im.Done()
		it.check(n, seen[it.Key])
		seen[it.Key] = true
		// Items follow the stages, so that a check is gone through once from
		// the top.
		if at := slices.Index(Stages, it.Stage); at < last && d.Err() == nil {
			n.Fail(fmt.Sprintf(msgItemOutOfOrder, it.Key), msgWantStagesInOrder)
		} else {
			last = at
		}
		t = append(t, it)
	}
	m.Done()
	if d.Err() != nil {
		return nil, d.Err()
	}
	return t, nil
}

// check refuses an item that cannot be asked, or that stands in the file already.
func (it *Item) check(n yamldoc.Node, twice bool) {
	switch {
	case twice:
		n.Fail(fmt.Sprintf(msgItemTwice, it.Key), msgWantItemOnce)
	case it.Ask == AskComputed && it.Rule == "":
		n.Fail(fmt.Sprintf(msgItemWithoutRule, it.Key), "a rule")
	case it.Ask == AskChoice && len(it.Choices) < 2:
		n.Fail(fmt.Sprintf(msgItemTooFewChoices, it.Key, len(it.Choices)), msgWantTwoChoices)
	case it.Ask == AskNumber && it.High <= it.Low:
		n.Fail(fmt.Sprintf(msgItemBoundsWrong, it.Key, it.Low, it.High), msgWantLowUnderHigh)
	}
}

// For returns the items that apply to a craft that can do so much: first for a
// beginner's first flights, goggles for a flight on goggles.
func (t Template) For(type_ craft.Type, first, goggles bool) Template {
	can := type_.Capabilities()
	now := map[string]bool{"first": first, "goggles": goggles}
	var out Template
	for _, it := range t {
		fits := len(it.Needs) == 0 || slices.ContainsFunc(it.Needs, func(n string) bool { return slices.Contains(can, n) })
		timely := len(it.When) == 0 || slices.ContainsFunc(it.When, func(w string) bool { return now[w] })
		if fits && timely {
			out = append(out, it)
		}
	}
	return out
}

// Item finds an item by its key.
func (t Template) Item(key string) (Item, bool) {
	i := slices.IndexFunc(t, func(it Item) bool { return it.Key == key })
	if i < 0 {
		return Item{}, false
	}
	return t[i], true
}
