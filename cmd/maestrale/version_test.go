package main

import (
	"runtime/debug"
	"strings"
	"testing"
)

func TestVersion(t *testing.T) {
	var b strings.Builder
	info := &debug.BuildInfo{GoVersion: "go1.25", Settings: []debug.BuildSetting{{Key: "vcs.revision",
		Value: "0123456789abcdef0123"},
		{Key: "vcs.time", Value: "2026-11-29T18:00:00Z"}, {Key: "vcs.modified", Value: "true"}}}
	if err := writeVersion(&b, info); err != nil ||
		b.String() != "maestrale 0123456789ab of 2026-11-29T18:00:00Z, with changes, go1.25\n" {
		t.Errorf("%q %v", b.String(), err)
	}
	b.Reset()
	if err := writeVersion(&b, nil); err != nil || b.String() != "maestrale unknown, unknown\n" {
		t.Errorf("%q %v", b.String(), err)
	}
}
