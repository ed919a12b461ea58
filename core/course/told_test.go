package course

import (
	"math"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// Drills that go farther than nose and tail can be told apart are named, those begun far out on purpose
// are not, and up counts as well as away.
func TestBeyondWhereTheNoseIsTold(t *testing.T) {
	laid, ok := Lay("box", craft.Light)
	if !ok {
		t.Fatal("no box")
	}
	at := func(y float64) []field.Point { return []field.Point{{X: laid.Station.X, Y: laid.Station.Y + y}} }
	list := []Envelope{
		{Key: "near", Title: "Near", Path: at(20), FlownM: 2},
		{Key: "far", Title: "Far", Path: append(at(10), at(45)...), FlownM: 2},
		{Key: "high", Title: "High", Path: at(10), FlownM: 45},
		{Key: "lost", Title: "Lost", Path: at(60), FlownM: 10, Far: true},
	}
	a := Ask{Craft: craft.Shipped()["poiana"], Aids: craft.PositionHold, Density: 1.2, Envelopes: list, TellM: 40}
	s, err := laid.SurveyOf(a)
	if err != nil {
		t.Fatal(err)
	}
	if len(s.Beyond) != 2 || s.Beyond[0].Key != "far" || s.Beyond[1].Key != "high" {
		t.Fatalf("%+v", s.Beyond)
	}
	if want := math.Hypot(10, 45-EyeM); math.Abs(s.Beyond[1].FarM-want) > 1e-9 {
		t.Errorf("%.2f m, %.2f by hand", s.Beyond[1].FarM, want)
	}
	a.TellM = 0
	if s, err = laid.SurveyOf(a); err != nil || len(s.Beyond) != 0 {
		t.Errorf("nothing is known of the eyes: %+v, %v", s.Beyond, err)
	}
}
