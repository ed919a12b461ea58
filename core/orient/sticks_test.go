package orient_test

import (
	"math"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/flight"
	"maestrale/core/orient"
	"maestrale/core/rig"
)

// Pushing the answer in the simulator moves the craft as it was wanted, at every aspect
// and in every stick frame; and the inverse says so.
func TestTheAnswerMovesTheCraftAsWanted(t *testing.T) {
	kind, err := rig.Craft(craft.Shipped()["poiana"])
	if err != nil {
		t.Fatal(err)
	}
	at := flight.Vec{X: 6, Y: 20, Z: 8}
	bearing := field.Angle(math.Atan2(at.X, at.Y))
	for aspect := -165.0; aspect <= 180; aspect += 15 {
		for frame, simFrame := range map[orient.Frame]flight.Frame{orient.NoseFrame: flight.Nose,
			orient.FrozenFrame: flight.Frozen, orient.PilotFrame: flight.Pilot} {
			for _, toward := range []orient.Toward{orient.Away, orient.Right, orient.Nearer, orient.Left, field.Degrees(37)} {
				heading := bearing + field.Degrees(aspect)
				f, err := flight.New(flight.Config{Craft: kind, Start: at, Heading: float64(heading), Airborne: true,
					Aids: flight.PositionHold, Still: true, Seed: 1})
				if err != nil {
					t.Fatal(err)
				}
				s := orient.Stance{Heading: heading, Bearing: bearing, Frame: frame, Captured: heading}
				if frame == orient.FrozenFrame { // captured, and then turned away from it
					f.Happen(flight.Event{Kind: flight.Freeze}, flight.Sticks{})
					for range int(0.6 / flight.Tick) {
						f.Step(flight.Sticks{Yaw: 0.6, Aids: flight.PositionHold, Frame: simFrame})
					}
					s.Heading = field.Angle(f.Sample(flight.Sticks{}).Heading)
				}
				k, err := orient.Push(s, toward)
				if err != nil {
					t.Fatal(err)
				}
				from := f.Sample(flight.Sticks{})
				for range int(1.5 / flight.Tick) {
					f.Step(flight.Sticks{Pitch: 0.5 * k.Pitch, Roll: 0.5 * k.Roll, Aids: flight.PositionHold, Frame: simFrame})
				}
				to := f.Sample(flight.Sticks{})
				dx, dy := to.X-from.X, to.Y-from.Y
				went := (field.Angle(math.Atan2(dx, dy)) - bearing).Wrap()
				if off := (went - toward).Wrap().Abs().Deg(); off > 12 || math.Hypot(dx, dy) < 0.5 {
					t.Errorf("aspect %.0f°, frame %s, toward %.0f°: it went %.0f° by %.1f m", aspect, frame, toward.Deg(), went.Deg(),
						math.Hypot(dx, dy))
				}
				if back, ok := orient.Moves(s, k); !ok || (back-toward).Wrap().Abs().Deg() > 1e-6 {
					t.Errorf("the inverse of %+v is %.1f°, wanted %.1f°", k, back.Deg(), toward.Deg())
				}
			}
		}
	}
}

func TestStopAndTail(t *testing.T) {
	noseIn := orient.Stance{Heading: field.Degrees(180), Frame: orient.NoseFrame}
	// Nose-in: push toward the side it drifts to.
	if k, err := orient.Stop(noseIn, orient.Right); err != nil || k.Roll < 0.99 {
		t.Errorf("drifting right, nose-in: %+v %v", k, err)
	}
	tailIn := orient.Stance{Frame: orient.NoseFrame}
	if k, _ := orient.Stop(tailIn, orient.Right); k.Roll > -0.99 {
		t.Errorf("drifting right, tail-in: %+v", k)
	}
	for aspect, want := range map[float64]int{0: 0, 90: -1, -90: 1, 170: -1, -170: 1} {
		if got := orient.TailToYou(orient.Stance{Heading: field.Degrees(aspect + 20),
			Bearing: field.Degrees(20)}); got != want {
			t.Errorf("at %v°: %d, want %d", aspect, got, want)
		}
	}
	if _, err := orient.Push(orient.Stance{Frame: "sideways"}, orient.Left); err == nil {
		t.Error("a frame that is none was taken")
	}
	if _, ok := orient.Moves(tailIn, orient.Stick{}); ok {
		t.Error("a stick in the middle moves it")
	}
}
