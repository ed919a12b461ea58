package drill

import "testing"

// What trains to read the nose is known by what its steps ask for; a drill flown with the tail to the pilot is none.
func TestWhichDrillsReadTheNose(t *testing.T) {
	c := Shipped()
	for key, want := range map[string]bool{"hover-tail-in": false, "ground-effect-hover": false, "landing-pad": false,
		"square-kept": false, "nose-in-hover": true, "yaw-quarter": true, "eight-kept": false, "oval-along": true,
		"regain-read": true,
		"off-tail-45": true, "spin-and-catch": true} {
		d, ok := c.Drills[key]
		if !ok {
			t.Fatalf("no drill %s", key)
		}
		if got := d.ReadsNose(); got != want {
			t.Errorf("%s reads the nose: %v", key, got)
		}
	}
	n := 0
	for _, d := range c.Drills {
		if d.ReadsNose() {
			n++
		}
	}
	if n < 20 || n > len(c.Drills)-15 {
		t.Errorf("%d of %d drills read the nose", n, len(c.Drills))
	}
}
