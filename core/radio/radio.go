// Package radio holds what a pilot's radio is set to: which raw channel is which
// stick, its ends, and what its switches ask for. What a page makes of them is in
// ui/scripts/radio-map.js.
package radio

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"maestrale/core/flight"
)

// Settings are those of one device.
type Settings struct {
	Mode     int                `json:"mode"` // of the sticks, 1 to 4
	Channels map[string]Channel `json:"channels"`
	Switches map[string]Switch  `json:"switches"`
}

// Channel is a raw axis and its travel, in the units of the device, about −1 to 1.
type Channel struct {
	Axis    int     `json:"axis"`
	Reverse bool    `json:"reverse"`
	Low     float64 `json:"low"`
	Centre  float64 `json:"centre"`
	High    float64 `json:"high"`
	Dead    float64 `json:"dead"` // share of the travel round the centre that says nothing
	Expo    float64 `json:"expo"` // 0 straight, 1 a cube
}

// Switch is an axis or a button; Says are what its positions ask for, from low to
// high.
type Switch struct {
	Axis   *int     `json:"axis"`
	Button *int     `json:"button"`
	Says   []string `json:"says"`
}

// Sticks are the channels that a radio has; the wheel of a gimbal may be missing.
var Sticks = []string{"throttle", "yaw", "pitch", "roll", "wheel"}

// switches are what a switch may set, and the words of its positions.
var switches = map[string][]string{"aids": flight.AidsNames[:], "frame": flight.FrameNames[:]}

const (
	inputs    = 64  // axes or buttons of a device
	farthest  = 1.5 // a badly made device goes past its ends
	least     = 0.2 // of travel: less is a stick that was not moved
	mostDead  = 0.3
	positions = 6
)

// Read reads settings as JSON and refuses those that no radio can have, with one
// sentence.
func Read(data []byte) (*Settings, error) {
	var s Settings
	if err := json.Unmarshal(data, &s); err != nil {
		return nil, err
	}
	if s.Mode < 1 || s.Mode > 4 {
		return nil, errors.New("the stick mode is not known; expected 1 to 4")
	}
	for _, name := range Sticks {
		ch, there := s.Channels[name]
		if !there && name == "wheel" {
			continue
		}
		if !there {
			return nil, fmt.Errorf("the channel of %s is missing; expected all four sticks", name)
		}
		if err := ch.check(name); err != nil {
			return nil, err
		}
	}
	for _, name := range slices.Sorted(maps.Keys(s.Channels)) {
		if !slices.Contains(Sticks, name) {
			return nil, errors.New("a channel is not known; expected throttle, yaw, pitch, roll and wheel")
		}
	}
	for _, name := range slices.Sorted(maps.Keys(s.Switches)) {
		if err := s.Switches[name].check(name); err != nil {
			return nil, err
		}
	}
	return &s, nil
}

// check refuses a channel that cannot be read; name is the stick in the error.
func (ch Channel) check(name string) error {
	switch {
	case ch.Axis < 0 || ch.Axis >= inputs:
		return fmt.Errorf("the axis of %s is not one; expected 0 to %d", name, inputs-1)
	case !(ch.Low >= -farthest && ch.Low < ch.Centre && ch.Centre < ch.High && ch.High <= farthest):
		return fmt.Errorf("the ends of %s do not lie round its centre; expected low < centre < high", name)
	case ch.High-ch.Low < least:
		return fmt.Errorf("the ends of %s lie too close together; move the stick to both ends", name)
	case !(ch.Dead >= 0 && ch.Dead <= mostDead):
		return fmt.Errorf("the dead band of %s is out of range; expected 0 to %g", name, mostDead)
	case !(ch.Expo >= 0 && ch.Expo <= 1):
		return fmt.Errorf("the expo of %s is out of range; expected 0 to 1", name)
	}
	return nil
}

// check refuses a switch that cannot be read; name is what it switches.
func (sw Switch) check(name string) error {
	words, known := switches[name]
	if !known {
		return errors.New("a switch is not known; expected aids and frame")
	}
	of := sw.Axis
	if of == nil {
		of = sw.Button
	}
	if (sw.Axis == nil) == (sw.Button == nil) || *of < 0 || *of >= inputs || len(sw.Says) < 2 || len(sw.Says) > positions {
		return fmt.Errorf("the switch for %s needs an axis or a button, 0 to %d, and 2 to %d positions", name, inputs-1,
			positions)
	}
	for _, w := range sw.Says {
		if !slices.Contains(words, w) {
			return fmt.Errorf("a position of the switch for %s is not known; expected %s", name, strings.Join(words, ", "))
		}
	}
	return nil
}
