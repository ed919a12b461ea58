// Package craft holds what flies: the craft types with their size classes and
// aids, the log of each single craft, its propellers, and the spares that a day
// wants.
package craft

import (
	"embed"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"sort"

	"maestrale/core/misread"
	"maestrale/core/yamldoc"
)

// Class is a size class; it sets default tolerances.
type Class string

// The classes by span, the largest distance between two rotor axes.
const (
	Micro  Class = "micro"  // under 0.15 m
	Light  Class = "light"  // 0.15 m and over
	Medium Class = "medium" // 0.4 m and over
	Heavy  Class = "heavy"  // 0.8 m and over
)

// Classes lists the classes from small to large.
var Classes = []Class{Micro, Light, Medium, Heavy}

// ClassOf returns the class of a craft by its span in metres.
func ClassOf(span float64) Class {
	switch {
	case span < 0.15:
		return Micro
	case span < 0.4:
		return Light
	case span < 0.8:
		return Medium
	}
	return Heavy
}

// Aids is how much the craft flies itself.
type Aids string

// The aids, most to least.
const (
	PositionHold Aids = "position-hold" // satellite position and height
	HeightHold   Aids = "height-hold"   // levels itself and holds height, drifts with the wind
	SelfLevel    Aids = "self-level"    // levels itself, manual throttle
	Tumble       Aids = "tumble"        // levels near the centre of the stick, lets go at full stick
	Rate         Aids = "rate"          // nothing levels
)

// AidsOrder lists the aids from most to least.
var AidsOrder = []Aids{PositionHold, HeightHold, SelfLevel, Tumble, Rate}

// Rank returns the place of the aids in AidsOrder, or −1 for an unknown word.
func (a Aids) Rank() int { return slices.Index(AidsOrder, a) }

// Fewer tells whether a is flown with fewer aids than b.
func (a Aids) Fewer(b Aids) bool { return a.Rank() > b.Rank() }

// Retreat is what a pilot does when it goes wrong, by what the craft does by itself.
func (a Aids) Retreat() string {
	switch a {
	case PositionHold:
		return msgLetGoSticks
	case HeightHold:
		return msgCentreAndTurn
	case SelfLevel, Tumble:
		return msgCentreTheOther
	}
	return "level first"
}

// Words returns the aids as they are said: "position hold".
func (a Aids) Words() string {
	switch a {
	case PositionHold:
		return "position hold"
	case HeightHold:
		return "height hold"
	case SelfLevel:
		return "self level"
	}
	return string(a)
}

// aidsList reads a list of aids; what is none has been refused already.
func aidsList(n yamldoc.Node) []Aids {
	var out []Aids
	for _, item := range n.List() {
		if a := ReadAids(item); a != "" {
			out = append(out, a)
		}
	}
	return out
}

// ReadAids reads one of the aids' words from a YAML file.
func ReadAids(n yamldoc.Node) Aids {
	words := make([]string, len(AidsOrder))
	for i, a := range AidsOrder {
		words[i] = string(a)
	}
	return Aids(n.Word(words...))
}

// ReadClass reads one of the classes' words from a YAML file.
func ReadClass(n yamldoc.Node) Class {
	return Class(n.Word(string(Micro), string(Light), string(Medium), string(Heavy)))
}

//go:embed catalogue/*.yaml
var shipped embed.FS

// Catalogue is the craft types by key.
type Catalogue map[string]Type

// Files are the catalogue files that ship with the program.
func Files() fs.FS { return shipped }

// Shipped returns the types that ship with the program.
func Shipped() Catalogue {
	c := Catalogue{}
	if err := c.Add(shipped, "catalogue"); err != nil {
		panic(err) // the shipped files are tested
	}
	return c
}

// Add reads every YAML file of dir into the catalogue; a type with a known key
// replaces it. Nothing is added when one of the files is wrong.
func (c Catalogue) Add(files fs.FS, dir string) error {
	names, err := fs.Glob(files, path.Join(dir, "*.yaml"))
	if err != nil {
		return err
	}
	read := Catalogue{}
	for _, name := range names {
		data, err := fs.ReadFile(files, name)
		if err != nil {
			return fmt.Errorf("read craft: %w", err)
		}
		t, err := Parse(data)
		if err != nil {
			return misread.InFile(name, err)
		}
		read[t.Key] = t
	}
	for k, t := range read {
		c[k] = t
	}
	return nil
}

// Keys returns the keys in order of span.
func (c Catalogue) Keys() []string {
	keys := make([]string, 0, len(c))
	for k := range c {
		keys = append(keys, k)
	}
	sort.Slice(keys, func(i, j int) bool {
		if c[keys[i]].SpanM != c[keys[j]].SpanM {
			return c[keys[i]].SpanM < c[keys[j]].SpanM
		}
		return keys[i] < keys[j]
	})
	return keys
}
