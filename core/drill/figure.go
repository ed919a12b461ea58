package drill

import (
	"fmt"
	"math"

	"maestrale/core/field"
)

// A figure is a chain of straight lines and arcs. Scoring asks it two questions
// for every sample: where is the place so far along, and how far along is the
// place nearest to the craft. Both are answered exactly, piece by piece.

// Shape is the form of a path, as a file names it.
type Shape string

// The shapes.
const (
	Line   Shape = "line"
	Circle Shape = "circle"
	Oval   Shape = "oval"
	Eight  Shape = "eight"
	Orbit  Shape = "orbit"
	Spiral Shape = "spiral"
	Slant  Shape = "slant"
)

// Spot is a place in the field frame with its height, in metres.
type Spot struct{ X, Y, Z float64 }

// Flat is the place without its height.
func (s Spot) Flat() field.Point { return field.Point{X: s.X, Y: s.Y} }

// piece is a straight from a to b or, where r is over 0, an arc round c at the
// height of a. The places of an arc are c + r (sin θ, cos θ), with θ in radians
// clockwise from away, beginning at from and going on by by; a negative by
// turns left.
type piece struct {
	a, b        Spot
	c           field.Point
	r, from, by float64
	length      float64
}

// Figure is a path made concrete: pieces one after the other. A place on it is
// told by how far along it is, in metres from its start; a closed one goes on
// for as many laps as are asked.
type Figure struct {
	Shape Shape
	// Closed figures lead back to their start.
	Closed bool
	Level  bool // its places lie at one height
	// Length and the fields below are in metres.
	Length  float64   // of one lap
	Corners []float64 // where the inner points of a line lie
	// Centre is what the figure goes around; 0, 0 for a line or a slant.
	Centre field.Point
	Radius float64 // of a circle, of an orbit, of the lobes
	Legs   float64 // of an oval: its straight legs
	// Of an eight: how long a diagonal is from the centre to a lobe, 0 where the lobes
	// touch.
	Diagonal float64
	// Parts are how far along each lobe of an eight is over.
	Parts [2]float64
	// starts is how far along each piece begins.
	pieces []piece
	starts []float64
}

// straight is the piece from one spot to another.
func straight(a, b Spot) piece {
	return piece{a: a, b: b, length: math.Sqrt(sq(b.X-a.X) + sq(b.Y-a.Y) + sq(b.Z-a.Z))}
}

// arc is the piece round c at a height, from an angle on, turning by another.
func arc(c field.Point, r, from, by, z float64) piece {
	return piece{c: c, r: r, from: from, by: by, a: Spot{Z: z}, length: r * math.Abs(by)}
}

// sq is the square of v.
func sq(v float64) float64 { return v * v }

// add appends a piece; one without length is left out.
func (f *Figure) add(p piece) {
	// Such pieces come of an eight whose lobes touch; dividing by their length
	// would not do.
	if p.length < 1e-9 {
		return
	}
	f.starts = append(f.starts, f.Length)
	f.pieces = append(f.pieces, p)
	f.Length += p.length
}

// at is the place s metres into the piece, and the course there.
func (p *piece) at(s float64) (Spot, field.Angle) {
	if p.r > 0 {
		way := math.Copysign(1, p.by)
		// An arc so many metres long sweeps that over the radius, in radians;
		// the course is a right angle on from the radius.
		th := p.from + way*s/p.r
		sin, cos := math.Sincos(th)
		return Spot{p.c.X + p.r*sin, p.c.Y + p.r*cos, p.a.Z}, field.Angle(th + way*math.Pi/2).Wrap()
	}
	u := s / p.length
	return Spot{p.a.X + (p.b.X-p.a.X)*u, p.a.Y + (p.b.Y-p.a.Y)*u, p.a.Z + (p.b.Z-p.a.Z)*u},
		field.Bearing(field.Point{X: p.b.X - p.a.X, Y: p.b.Y - p.a.Y})
}

// nearest returns how far into the piece, between two ways, the place nearest
// to q lies, and the square of how far off that is.
func (p *piece) nearest(q Spot, from, to float64) (s, off2 float64) {
	if p.r > 0 {
		way := math.Copysign(1, p.by)
		dx, dy := q.X-p.c.X, q.Y-p.c.Y
		// The angle from the beginning of the arc in the direction of its turn,
		// in [0, 2π), tells how far along the nearest place of the whole circle
		// lies.
		th := way * (math.Atan2(dx, dy) - p.from)
		s = (th - 2*math.Pi*math.Floor(th/(2*math.Pi))) * p.r
		// The foot on the whole circle lies on the part that is looked at.
		if s >= from && s <= to {
			return s, sq(math.Sqrt(dx*dx+dy*dy)-p.r) + sq(q.Z-p.a.Z)
		}
		// An end is nearest: by the angle to each, either way round.
		turn := 2 * math.Pi * p.r
		gap := func(e float64) float64 { d := math.Mod(math.Abs(s-e), turn); return min(d, turn-d) }
		if gap(from) <= gap(to) {
			s = from
		} else {
			s = to
		}
	} else {
		// The foot of the perpendicular, held between the two ways.
		d := Spot{p.b.X - p.a.X, p.b.Y - p.a.Y, p.b.Z - p.a.Z}
		s = max(from, min(to, ((q.X-p.a.X)*d.X+(q.Y-p.a.Y)*d.Y+(q.Z-p.a.Z)*d.Z)/p.length))
	}
	at, _ := p.at(s)
	return s, sq(at.X-q.X) + sq(at.Y-q.Y) + sq(at.Z-q.Z)
}

// At is the place so many metres along, and the course there. Closed figures go
// round; an open one is held at its ends.
func (f *Figure) At(s float64) (Spot, field.Angle) {
	i, off := f.find(s)
	return f.pieces[i].at(off)
}

// find returns the piece so many metres along, and how far into it that is.
func (f *Figure) find(s float64) (int, float64) {
	if f.Closed {
		s -= f.Length * math.Floor(s/f.Length)
	}
	s = math.Max(0, math.Min(f.Length, s))
	// From the end back: figures have few pieces.
	i := len(f.pieces) - 1
	for i > 0 && f.starts[i] > s {
		i--
	}
	return i, math.Min(s-f.starts[i], f.pieces[i].length)
}

// Far is how far one place is from another in metres, in the plane where the
// figure is level: its height is then judged by itself.
func (f *Figure) Far(a, b Spot) float64 {
	if f.Level {
		return math.Hypot(a.X-b.X, a.Y-b.Y)
	}
	return math.Sqrt(sq(a.X-b.X) + sq(a.Y-b.Y) + sq(a.Z-b.Z))
}

// Height is that of a level figure.
func (f *Figure) Height() float64 { return f.pieces[0].a.Z }

// Nearest returns how far along, between two ways, the figure comes nearest to
// q, and how far off that is, both in metres. On a closed figure the ways may
// lie beyond a lap, and so may the answer. The height is left out where the
// figure is level.
func (f *Figure) Nearest(q Spot, from, to float64) (s, off float64) {
	if !f.Closed {
		from, to = math.Max(0, from), math.Min(f.Length, to)
	}
	s, off = from, math.Inf(1)
	lap := 0.0
	if f.Closed {
		lap = math.Floor(from/f.Length) * f.Length
	}
	if f.Level {
		q.Z = f.pieces[0].a.Z
	}
	// base is where the lap that is looked at begins.
	for base := lap; base <= to; base += f.Length {
		for i := range f.pieces {
			// A piece outside the two ways is passed over.
			if base+f.starts[i] > to || base+f.starts[i]+f.pieces[i].length < from {
				continue
			}
			// The part of the piece that lies between the two ways.
			low, high := max(0, from-base-f.starts[i]), min(f.pieces[i].length, to-base-f.starts[i])
			if low > high {
				continue
			}
			if w, d := f.pieces[i].nearest(q, low, high); d < off {
				s, off = base+f.starts[i]+w, d
			}
		}
		if !f.Closed {
			break
		}
	}
	return s, math.Sqrt(off)
}

// mirror turns the figure over in x around the line x = at. Arcs then turn the
// other way.
func (f *Figure) mirror(at float64) {
	for i := range f.pieces {
		p := &f.pieces[i]
		p.a.X, p.b.X, p.c.X = 2*at-p.a.X, 2*at-p.b.X, 2*at-p.c.X
		// Angles are clockwise from away, so turning over in x changes their
		// sign.
		p.from, p.by = -p.from, -p.by
	}
}

// PathSpec is a path as a drill's file says it. Which fields mean something
// depends on Shape.
type PathSpec struct {
	Shape Shape
	// Points are the corners of a line.
	Points []Place
	Closed bool
	// Laps is how often a closed figure is flown.
	Laps                      int
	Centre, Subject, From, To *Place
	RadiusM, LengthM, WidthM  Limit
	FromM, ToM                Limit
	// Turns are those of a spiral; CrossingDeg is the angle between the
	// diagonals of an eight.
	Turns, CrossingDeg float64
	Away               bool // an eight that goes away from the pilot at its crossing
}

// lowest is the lowest height in metres that the path names, toward which it
// shrinks on a smaller course; 0 where it names none, or there is no path.
func (s *PathSpec) lowest() float64 {
	low, named := math.Inf(1), false
	for _, p := range s.places() {
		if p.HasZ {
			low, named = math.Min(low, p.Z), true
		}
	}
	if !named {
		return 0
	}
	return low
}

// places are the points of a line and the ends of a slant.
func (s *PathSpec) places() []Place {
	if s == nil {
		return nil
	}
	out := s.Points
	for _, p := range []*Place{s.From, s.To} {
		if p != nil {
			out = append(out[:len(out):len(out)], *p)
		}
	}
	return out
}

// lay makes the figure at a height, mirrored for the right side. num reads a
// size for the class, and where finds a place on the course. It fails where a
// place is not on the course, or the figure is too small to be flown.
func (s *PathSpec) lay(height float64, right bool, num func(Limit, string) float64, where func(*Place) (Spot, error),
) (*Figure, error) {
	f := &Figure{Shape: s.Shape, Level: true}
	spot := func(p *Place) (Spot, error) {
		at, err := where(p)
		if err == nil && !p.HasZ {
			at.Z = height
		}
		return at, err
	}
	if err := s.centre(f, height, where); err != nil {
		return nil, err
	}
	c := f.Centre
	switch s.Shape {
	case Line:
		var spots []Spot
		for i := range s.Points {
			p, err := spot(&s.Points[i])
			if err != nil {
				return nil, err
			}
			// One corner at another height makes the figure one in space.
			f.Level = f.Level && p.Z == height
			spots = append(spots, p)
		}
		f.line(spots, s.Closed)
	case Slant:
		a, err := spot(s.From)
		if err != nil {
			return nil, err
		}
		b, err := spot(s.To)
		if err != nil {
			return nil, err
		}
		f.Level = false
		f.add(straight(a, b))
	case Circle, Orbit:
		f.Closed, f.Radius = true, num(s.RadiusM, "radius_m")
		f.add(arc(c, f.Radius, math.Pi, -2*math.Pi, height))
	case Oval:
		f.Closed = true
		f.Legs, f.Radius = num(s.LengthM, "length_m"), num(s.WidthM, "width_m")/2
		f.oval(c, height)
	case Eight:
		f.eight(c, num(s.RadiusM, "radius_m"), s.CrossingDeg*math.Pi/180, s.Away, height)
	case Spiral:
		from, to := num(s.FromM, "from_m"), num(s.ToM, "to_m")
		f.spiral(c, from, to, s.Turns, height)
	}
	// Sizes are checked one by one when the file is read, but a figure may
	// vanish on a small course.
	if f.Length < 0.1 {
		return nil, fmt.Errorf("the %s is %.2f m long; expected a figure that can be flown", s.Shape, f.Length)
	}
	if right && s.Shape != Line && s.Shape != Slant { // those were mirrored with their places
		f.mirror(c.X)
	}
	return f, nil
}

// centre sets what a figure goes around: its centre, or the subject of an
// orbit. A figure that goes around nothing keeps the zero point.
func (s *PathSpec) centre(f *Figure, height float64, where func(*Place) (Spot, error)) error {
	about := s.Centre
	if s.Shape == Orbit {
		about = s.Subject
	}
	if about != nil {
		centre, err := where(about)
		if err != nil {
			return err
		}
		centre.Z = height
		f.Centre = centre.Flat()
	}
	return nil
}

// line adds straight pieces from spot to spot, with a corner between each two;
// closed, the last piece leads back to the first spot.
func (f *Figure) line(spots []Spot, closed bool) {
	f.Closed = closed
	if closed {
		spots = append(spots, spots[0])
	}
	for i := 1; i < len(spots); i++ {
		// A corner lies between two pieces; the start and the end are none.
		if i > 1 {
			f.Corners = append(f.Corners, f.Length)
		}
		f.add(straight(spots[i-1], spots[i]))
	}
}

// oval adds the two legs and the two ends, from the near leg's left end on.
// Legs and Radius are set.
func (f *Figure) oval(c field.Point, height float64) {
	// Half of a leg, and the radius of the ends.
	h, r := f.Legs/2, f.Radius
	f.add(straight(Spot{c.X - h, c.Y - r, height}, Spot{c.X + h, c.Y - r, height}))
	f.add(arc(field.Point{X: c.X + h, Y: c.Y}, r, math.Pi, -math.Pi, height))
	f.add(straight(Spot{c.X + h, c.Y + r, height}, Spot{c.X - h, c.Y + r, height}))
	f.add(arc(field.Point{X: c.X - h, Y: c.Y}, r, 0, -math.Pi, height))
}

// spiral adds turns whose radius goes evenly from one to another, as straight
// pieces of five degrees: finer than any tolerance can tell.
func (f *Figure) spiral(c field.Point, from, to, turns, height float64) {
	const grain = 5 * math.Pi / 180
	n := int(math.Ceil(turns * 2 * math.Pi / grain))
	last := Spot{}
	for i := 0; i <= n; i++ {
		u := float64(i) / float64(n)
		sin, cos := math.Sincos(math.Pi - u*turns*2*math.Pi)
		// The radius goes evenly with the angle: a spiral of Archimedes.
		r := from + (to-from)*u
		at := Spot{c.X + r*sin, c.Y + r*cos, height}
		if i > 0 {
			f.add(straight(last, at))
		}
		last = at
	}
}

// eight builds two lobes of radius r whose diagonals cross at an angle, in
// radians; at 0 the lobes touch and there are no diagonals. It starts at its
// centre, the left lobe first, toward the pilot or away.
func (f *Figure) eight(c field.Point, r, crossing float64, away bool, z float64) {
	f.Closed, f.Radius = true, r
	// The diagonals are tangents of the lobes, so that the nose never turns on
	// the spot.
	phi := math.Pi/2 - crossing/2 // between a diagonal and the line through both lobes
	d := r / math.Sin(phi)        // from the centre to that of a lobe
	sin, cos := math.Sincos(phi)
	up := 1.0
	if away {
		up = -1
	}
	lobe := func(side float64) field.Point { return field.Point{X: c.X + side*d, Y: c.Y} }
	touch := func(side, high float64) Spot { // where a diagonal meets a lobe
		return Spot{c.X + side*(d-r*sin), c.Y + up*high*r*cos, z}
	}
	centre := Spot{c.X, c.Y, z}
	// Round a lobe from one diagonal to the other is more than half a turn, by
	// twice phi.
	turn := math.Pi + 2*phi
	from := func(side float64) float64 {
		// Where the lower diagonal meets a lobe, as an angle clockwise from away.
		th := math.Atan2(-side*sin, -up*cos)
		return th
	}
	f.add(straight(centre, touch(-1, -1)))
	f.add(arc(lobe(-1), r, from(-1), up*turn, z))
	// Parts are where the lobes end: the first at the crossing, half along the
	// second diagonal.
	f.Parts[0] = f.Length
	f.add(straight(touch(-1, 1), touch(1, -1)))
	f.Parts[0] += math.Hypot(touch(-1, 1).X-c.X, touch(-1, 1).Y-c.Y)
	f.add(arc(lobe(1), r, from(1), -up*turn, z))
	f.add(straight(touch(1, 1), centre))
	f.Parts[1] = f.Length
	f.Diagonal = math.Hypot(touch(-1, -1).X-c.X, touch(-1, -1).Y-c.Y)
}
