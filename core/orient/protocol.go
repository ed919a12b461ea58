package orient

import (
	"fmt"
	"math"
	"math/rand/v2"

	"maestrale/core/field"
)

// Site is what a field protocol is made for; distances are from the pilot.
type Site struct {
	TellM   float64     // how far the student tells the craft's aspect
	FromM   float64     // the least that the drill asks
	MostM   float64     // from where the craft still gets home; 0 = not known
	LostM   float64     // that the drill lets it be lost
	LimitS  float64     // of the drill
	HeightM float64     // over the ground
	Yaw     field.Angle // a second, of the yaw that is held
	SpoilS  [2]float64  // the shortest and the longest yaw each way
}

// Protocol is how an orientation is lost on purpose at the field: the spotter reads it.
type Protocol struct {
	DistanceM float64
	Told      bool        // the aspect can still be told there
	Left      float64     // s of yaw
	Right     float64     // s after it
	Nose      field.Angle // where the nose then points, from away, by the yaw that is held
	EndM      float64     // farther than that it is ended
	EndS      float64
}

// beyond is how much farther than the aspect can be told an orientation is lost.
const beyond = 1.1

// NewProtocol makes one. The craft hangs tail-in a tenth beyond where its
// aspect can be told, or as far as the drill asks, and no farther away than it
// gets home from with what may be lost of the way. The yaw each way is drawn by
// chance, so that the nose ends up no nearer than 30° to where it began. It
// refuses a site from which the craft would not get home.
func NewProtocol(s Site, random *rand.Rand) (Protocol, error) {
	switch {
	case !(s.FromM > 0 && s.TellM >= 0 && s.LostM >= 0):
		return Protocol{}, fmt.Errorf("the distance is %v m, told to %v m, lost by %v m; expected over 0, and 0 or more",
			s.FromM, s.TellM, s.LostM)
	case !(s.SpoilS[0] > 0 && s.SpoilS[1] >= s.SpoilS[0] && s.Yaw > 0):
		return Protocol{}, fmt.Errorf("a yaw of %v to %v s at %v°/s; expected over 0, the shortest first", s.SpoilS[0],
			s.SpoilS[1], s.Yaw.Deg())
	case s.MostM > 0 && s.MostM < s.FromM+s.LostM:
		return Protocol{}, fmt.Errorf("the craft gets home from %.0f m; the drill is begun at %.0f m and may lose %.0f m "+
			"more", s.MostM, s.FromM, s.LostM)
	}
	// In whole steps of five metres, as a field is paced out.
	p := Protocol{DistanceM: math.Max(s.FromM, math.Ceil(beyond*s.TellM/5)*5), EndS: s.LimitS}
	if most := s.MostM - s.LostM; s.MostM > 0 && p.DistanceM > most {
		p.DistanceM = math.Max(s.FromM, math.Floor(most/5)*5)
	}
	// Where the craft cannot go far enough, the student may still tell its
	// nose.
	p.Told = s.TellM >= p.DistanceM
	p.EndM = p.DistanceM + s.LostM
	// A few draws are enough; with a yaw that hardly turns, none would ever do.
	for range 100 {
		// Times are read aloud, so they are tenths of a second.
		draw := func() float64 { return math.Round(10*(s.SpoilS[0]+(s.SpoilS[1]-s.SpoilS[0])*random.Float64())) / 10 }
		p.Left, p.Right = draw(), draw()
		if p.Nose = (s.Yaw * field.Angle(p.Right-p.Left)).Wrap(); p.Nose.Abs() >= field.Degrees(30) {
			break
		}
	}
	return p, nil
}
