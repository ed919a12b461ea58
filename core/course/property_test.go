package course

import (
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"maestrale/core/craft"
	"maestrale/core/field"
)

// anyCourse is a sound course of chance: markers in front, hazards of every kind
// round it, and a crowd line behind.
func anyCourse(r *rand.Rand) *Course {
	any := func(spread float64) field.Point {
		return pt(math.Round((r.Float64()*2-1)*spread*1000)/1000, math.Round((r.Float64()*2-1)*spread*1000)/1000)
	}
	c := &Course{Name: "of chance", Station: any(5), Markers: map[string]field.Point{},
		Surface: Surfaces[r.IntN(len(Surfaces))]}
	for i := range 1 + r.IntN(8) {
		c.Markers[fmt.Sprintf("marker-%d", i)] = ahead(c.Station, any(20).X, r.Float64()*25)
	}
	for _, k := range Reserved[:1+r.IntN(len(Reserved)-1)] {
		c.Markers[k] = ahead(c.Station, any(12).X, 3+r.Float64()*12)
	}
	for range r.IntN(6) {
		h := Hazard{Kind: HazardKinds[r.IntN(len(HazardKinds))], HeightM: math.Round(r.Float64()*300) / 10}
		if r.IntN(2) == 0 {
			h.Name = "number " + fmt.Sprint(r.IntN(99))
		}
		for range 1 + r.IntN(4) {
			h.At = append(h.At, any(60))
		}
		h.Closed = len(h.At) > 2 && r.IntN(2) == 0
		c.Hazards = append(c.Hazards, h)
	}
	if r.IntN(2) == 0 {
		c.Crowd = [][]field.Point{{pt(-30, -15), pt(30, -18)}}
	}
	c.Plane, _ = field.NewPlane(field.Geo{LatDeg: r.Float64()*120 - 60, LonDeg: r.Float64()*360 - 180,
		AltM: r.Float64() * 900}, math.Floor(r.Float64()*360))
	return c
}

// ahead is a place so far to the right and ahead of a station, to the millimetre.
func ahead(station field.Point, right, away float64) field.Point {
	return pt(math.Round((station.X+right)*1000)/1000, math.Round((station.Y+away)*1000)/1000)
}

func TestAnyCourseIsWrittenAndRead(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 3))
	for range 300 {
		c := anyCourse(r)
		if err := c.Check(); err != nil {
			t.Fatal(err)
		}
		data, err := c.YAML()
		if err != nil {
			t.Fatal(err)
		}
		back, err := Parse(data)
		if err != nil {
			t.Fatalf("%v\n%s", err, data)
		}
		if !reflect.DeepEqual(back.Markers, c.Markers) || !reflect.DeepEqual(back.Hazards, c.Hazards) ||
			!slices.EqualFunc(back.Crowd, c.Crowd, slices.Equal) || back.Station != c.Station {
			t.Fatalf("read back as\n%+v\nfrom\n%+v", back, c)
		}
		again, err := back.YAML()
		if err != nil || string(again) != string(data) {
			t.Fatalf("written again it differs: %v", err)
		}
	}
}

// Through the map formats everything lands within 2.5 mm of where it was: eight
// decimals of a degree are a millimetre, of the station and of the place.
func TestAnyCourseThroughTheMapFormats(t *testing.T) {
	r := rand.New(rand.NewPCG(12, 3))
	for i := range 200 {
		c := anyCourse(r)
		for name, f := range map[string]struct {
			write func() ([]byte, error)
			read  func([]byte, *field.Plane) (*Course, []string, error)
		}{"GeoJSON": {c.GeoJSON, ReadGeoJSON}, "KML": {c.KML, ReadKML}} {
			data, err := f.write()
			if err != nil {
				t.Fatal(err)
			}
			back, _, err := f.read(data, c.Plane)
			if err != nil {
				t.Fatalf("course %d through %s: %v", i, name, err)
			}
			if len(back.Markers) != len(c.Markers) || len(back.Hazards) != len(c.Hazards) || len(back.Crowd) != len(c.Crowd) {
				t.Fatalf("course %d through %s: %d markers, %d hazards, %d crowd lines of %d, %d, %d", i, name, len(back.Markers),
					len(back.Hazards), len(back.Crowd), len(c.Markers), len(c.Hazards), len(c.Crowd))
			}
			for k, p := range c.Markers {
				// A map knows no frame: the station becomes its middle.
				if d := p.Sub(c.Station).Dist(back.Markers[k].Sub(back.Station)); d > 0.0025 {
					t.Errorf("course %d through %s: %s is %.4f m off", i, name, k, d)
				}
			}
			for j, h := range c.Hazards {
				b := back.Hazards[j]
				if b.Kind != h.Kind || b.Closed != h.Closed || len(b.At) != len(h.At) || math.Abs(b.HeightM-h.HeightM) > 1e-9 {
					t.Fatalf("course %d through %s: %+v became %+v", i, name, h, b)
				}
			}
		}
	}
}

// A turn there and back again changes nothing, and neither does any turn what the
// pilot has in front; what stands on the ground keeps its place on the earth.
func TestTurnsOfAnyCourse(t *testing.T) {
	r := rand.New(rand.NewPCG(13, 3))
	for range 300 {
		c := anyCourse(r)
		c.Crowd = nil // turned it could run through the station, and cross nothing
		by := field.Degrees(r.Float64()*360 - 180)
		was, geo := c.Clone(), c.Plane
		if err := c.Turn(by); err != nil {
			t.Fatal(err)
		}
		for i, l := range was.Legs(0.8) {
			if k := c.Legs(0.8)[i]; k.Marker != l.Marker || math.Abs(k.DistM-l.DistM)+math.Abs(k.SideM-l.SideM) > 1e-9 {
				t.Fatalf("%+v became %+v", l, k)
			}
		}
		for i, h := range was.Hazards {
			for j, p := range h.At {
				now := c.Plane.ToGeo(c.Hazards[i].At[j], 0)
				then := geo.ToGeo(p, 0)
				if north, east := (now.LatDeg-then.LatDeg)*111_320,
					(now.LonDeg-then.LonDeg)*111_320*math.Cos(then.LatDeg*math.Pi/180); math.Hypot(north, east) > 0.01 {
					t.Fatalf("hazard %d moved %.3f m on the earth", i, math.Hypot(north, east))
				}
			}
		}
		if err := c.Turn(-by); err != nil {
			t.Fatal(err)
		}
		for i, h := range was.Hazards {
			for j, p := range h.At {
				a, b := p.Sub(was.Station), c.Hazards[i].At[j].Sub(c.Station)
				if a.Sub(b).Dist(field.Point{}) > 1e-6 {
					t.Fatalf("there and back again: %v became %v", a, b)
				}
			}
		}
	}
}

// anyDrill is a drill over some markers of the course.
func anyDrill(r *rand.Rand, c *Course) Envelope {
	e := Envelope{Title: "of chance", RadiusM: 0.3 + 2*r.Float64(), HighM: 1 + 4*r.Float64(), SpeedMps: 3 * r.Float64(),
		Aids: []craft.Aids{craft.PositionHold, craft.HeightHold, craft.SelfLevel}[r.IntN(3)]}
	for _, name := range c.MarkerNames() {
		if len(e.Path) == 0 || r.IntN(2) == 0 {
			e.Path = append(e.Path, c.Markers[name])
		}
	}
	return e
}

// Clearances against a plain reckoning: the nearest of many places along the drill
// and along the hazard; and they only shrink with more tolerance, speed and wind.
func TestClearancesOfAnyCourse(t *testing.T) {
	r := rand.New(rand.NewPCG(14, 3))
	fall := Falling{0.92, 0.04, 1.2}
	for range 150 {
		c := anyCourse(r)
		e := anyDrill(r, c)
		w := Conditions{Braking: 2, Falling: fall, Wind: pt(4*r.Float64()-2, 4*r.Float64()-2)}
		all := c.Clear(e, w)
		if len(all) != len(c.Hazards)+len(c.Crowd)+1 { // and the pilot
			t.Fatalf("%d clearances to %d things", len(all), len(c.Hazards)+len(c.Crowd)+1)
		}
		for _, k := range all {
			if k.Ceiling {
				continue
			}
			at, closed := []field.Point{c.Station}, false
			switch {
			case k.Hazard >= 0:
				at, closed = c.Hazards[k.Hazard].At, c.Hazards[k.Hazard].Closed
			case k.Hazard != ThePilot:
				at = c.Crowd[-1-k.Hazard]
			}
			if closed && k.DistM+e.RadiusM <= 1e-9 {
				continue // inside a ring; the plain reckoning sees only its sides
			}
			best := math.Inf(1)
			walk(e.Path, false, func(p field.Point) {
				walk(at, closed, func(q field.Point) {
					best = math.Min(best,
						p.Dist(q))
				})
			})
			if d := k.DistM + e.RadiusM; d > best+1e-9 || d < best-0.6 {
				t.Errorf("%s: %.3f m, by plain reckoning %.3f m", k.Name, d, best)
			}
			if k.DriftM < -1e-9 {
				t.Errorf("a drift of %.3f m that comes nearer and counts for it", k.DriftM)
			}
		}
		worse := map[string]func(*Envelope, *Conditions){
			"tolerance": func(e *Envelope, _ *Conditions) { e.RadiusM += 0.5 },
			"speed":     func(e *Envelope, _ *Conditions) { e.SpeedMps++ },
			"brake":     func(_ *Envelope, w *Conditions) { w.Braking /= 2 },
			"wind":      func(_ *Envelope, w *Conditions) { w.Wind.X, w.Wind.Y = 2*w.Wind.X, 2*w.Wind.Y },
		}
		for what, f := range worse {
			e2, w2 := e, w
			f(&e2, &w2)
			for i, k := range c.Clear(e2, w2) {
				if k.LeftM > all[i].LeftM+0.02 { // the fall is integrated in steps
					t.Errorf("more %s leaves %.3f m to %s and not %.3f m", what, k.LeftM, k.Name, all[i].LeftM)
				}
			}
		}
	}
}

// walk visits places along a line, two to a metre and more.
func walk(at []field.Point, closed bool, visit func(field.Point)) {
	for _, s := range pieces(at, closed) {
		n := 1 + int(2*s.A.Dist(s.B))
		for i := range n + 1 {
			f := float64(i) / float64(n)
			visit(pt(s.A.X+f*(s.B.X-s.A.X), s.A.Y+f*(s.B.Y-s.A.Y)))
		}
	}
}

// What is advised helps: turned as it says, every drill is clear.
func TestTheAdviceHolds(t *testing.T) {
	r := rand.New(rand.NewPCG(15, 3))
	turned, moved := 0, false
	for range 400 {
		c := anyCourse(r)
		list := []Envelope{anyDrill(r, c)}
		w := Conditions{Braking: 2, Falling: Falling{0.92, 0.04, 1.2}, Wind: pt(3, 1)}
		a := c.Advise(list, w)
		_, clear := c.worst(w.falls(list), w, math.Inf(1))
		if a.OK != clear {
			t.Fatalf("all is well: %v, and %v", a.OK, clear)
		}
		if a.OK || !a.Found {
			if !a.OK && a.From == "" || a.Toward == "" && a.MoveM != 0 {
				t.Errorf("nothing is said: %+v", a)
			}
			if way, ok := field.Way(a.Toward); !a.OK && ok &&
				c.nearerToPeople(list, w, pt(way.X*a.MoveM, way.Y*a.MoveM)) {
				t.Errorf("nearer to people: %+v", a)
			}
			moved = moved || a.MoveM > 0
			continue
		}
		turned++
		was := c.Station
		if err := c.Turn(a.Turn); err != nil {
			t.Fatal(err)
		}
		// The frame turned with the pilot; so does the wind that is felt in it, and the
		// drill keeps its place in the pilot's eyes.
		sin, cos := math.Sincos(float64(a.Turn))
		w.Wind = pt(w.Wind.X*cos-w.Wind.Y*sin, w.Wind.X*sin+w.Wind.Y*cos)
		for i := range list[0].Path {
			p := list[0].Path[i].Sub(was)
			list[0].Path[i] = pt(c.Station.X+p.X, c.Station.Y+p.Y)
		}
		for _, k := range c.Clear(list[0], w) {
			if k.LeftM < -0.05 {
				t.Errorf("turned %.0f° and still: %s", a.Turn.Deg(), k.Says())
			}
		}
	}
	if turned < 20 || !moved {
		t.Errorf("only %d courses could be turned clear, moved %v: the test shows little", turned, moved)
	}
}

// The return height clears what stands in the sector, and everything more only
// raises it.
func TestReturnHeightOfAnyCourse(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 3))
	for range 300 {
		c := anyCourse(r)
		home, places := c.Markers["pad"], anyDrill(r, c).Path
		h := c.Return(home, places, 50)
		if math.Mod(h.HeightM, 5) != 0 || h.HeightM < ReturnLeast || h.HeightM < h.TallestM+ReturnMargin ||
			h.AnywhereM < h.HeightM {
			t.Fatalf("%+v", h)
		}
		more := c.Clone()
		more.Hazards = append(more.Hazards, Hazard{Kind: "post", At: []field.Point{home}, HeightM: 47})
		if m := more.Return(home, places, 50); m.HeightM != 60 || m.Tallest != "the post" {
			t.Fatalf("with a post of 47 m on the pad: %+v", m)
		}
		if f := c.Return(home, places, 80); f.HeightM < h.HeightM {
			t.Fatalf("%v m for 80 m of straying, %v m for 50", f.HeightM, h.HeightM)
		}
	}
}

// A crowd line that crosses another is found wherever it does, and one beside it
// is let be: against the sides of the ends, reckoned by hand.
func TestCrossingCrowdLines(t *testing.T) {
	r := rand.New(rand.NewPCG(17, 3))
	side := func(a, b, p field.Point) float64 { return (b.X-a.X)*(p.Y-a.Y) - (b.Y-a.Y)*(p.X-a.X) }
	seen := map[bool]int{}
	for range 2000 {
		p := func() field.Point { return pt(40*r.Float64()-20, 40*r.Float64()-20) }
		a, b, c, d := p(), p(), p(), p()
		want := side(a, b, c)*side(a, b, d) < 0 && side(c, d, a)*side(c, d, b) < 0
		err := (&Course{Crowd: [][]field.Point{{a, b}, {c, d}}}).Check()
		if (err != nil) != want || (err != nil && !strings.Contains(err.Error(), "crosses")) {
			t.Fatalf("%v-%v, %v-%v: %v; they cross: %v", a, b, c, d, err, want)
		}
		seen[want]++
	}
	if seen[true] < 200 || seen[false] < 200 {
		t.Errorf("%v", seen)
	}
}
