package orient

import (
	"fmt"
	"math"

	"maestrale/core/field"
)

// A camera's nose is kept on a subject by yawing as the bearing turns. How fast
// that is follows from speed and offset, and may be more than the craft can do.

// YawPlan is the nose kept on a subject, planned: along a straight run past it,
// or round it.
type YawPlan struct {
	SpeedMps float64
	OffsetM  float64 // from the run to the subject; of an orbit its radius
	Peak     field.Angle
	PeakAcc  field.Angle // a second squared
	LeadIn   float64     // seconds before the subject is abeam from which the nose turns by a degree a second or more
	Can      bool        // the craft's fastest yaw suffices, with a fifth to spare
	// Slowest offset and fastest speed with which it would.
	LeastOffsetM, MostSpeedMps float64
	Curve                      []YawAt
}

// YawAt is the yaw at a moment, 0 where the subject is abeam.
type YawAt struct {
	T    float64
	Rate field.Angle // a second
	Nose field.Angle // from the direction of flight, + toward the subject's side
}

// Half is how many moments of a run's curve stand before abeam, and how many after.
const Half = 60

// spare is the share of its fastest yaw that a craft keeps for corrections.
const spare = 0.2

// PastSubject plans the yaw of a straight run at a speed v that passes a
// subject at an offset d, in metres. With s the way still to go to abeam, the
// bearing to the subject turns at v·d/(d² + s²): at v/d at most, abeam. The
// rate itself changes fastest, by 3√3/8 (v/d)², at s = d/√3. fastest is the
// craft's fastest yaw per second.
func PastSubject(speed, offset float64, fastest field.Angle) (YawPlan, error) {
	if err := checkYaw(speed, offset, fastest); err != nil {
		return YawPlan{}, err
	}
	w := speed / offset
	p := YawPlan{SpeedMps: speed, OffsetM: offset, Peak: field.Angle(w),
		PeakAcc: field.Angle(3 * math.Sqrt(3) / 8 * w * w)}
	p.fit(fastest)
	// Slower than a degree a second nobody has to lead in.
	if one := float64(field.Degrees(1)); w > one {
		p.LeadIn = math.Sqrt(speed*offset/one-offset*offset) / speed
	}
	reach := math.Max(p.LeadIn, 2*offset/speed)
	for i := -Half; i <= Half; i++ {
		t := reach * float64(i) / Half
		// s is the way past abeam, negative before it.
		s := -speed * t
		p.Curve = append(p.Curve, YawAt{t, field.Angle(speed * offset / (offset*offset + s*s)),
			field.Angle(math.Atan2(offset, s))})
	}
	return p, nil
}

// Orbit plans the yaw around a subject: the nose turns as the craft goes round,
// at v/r.
func Orbit(speed, radius float64, fastest field.Angle) (YawPlan, error) {
	if err := checkYaw(speed, radius, fastest); err != nil {
		return YawPlan{}, err
	}
	p := YawPlan{SpeedMps: speed, OffsetM: radius, Peak: field.Angle(speed / radius)}
	p.fit(fastest)
	p.Curve = []YawAt{{0, p.Peak, field.Degrees(90)}, {2 * math.Pi * radius / speed, p.Peak, field.Degrees(90)}}
	return p, nil
}

// fit says whether a craft's fastest yaw suffices, and with which offset or
// speed it would.
func (p *YawPlan) fit(fastest field.Angle) {
	most := (1 - spare) * float64(fastest)
	p.Can = float64(p.Peak) <= most
	p.LeastOffsetM, p.MostSpeedMps = p.SpeedMps/most, most*p.OffsetM
}

// checkYaw refuses what cannot be flown; the error says which figure and what
// was expected.
func checkYaw(speed, offset float64, fastest field.Angle) error {
	switch {
	case !(speed > 0 && speed <= 60):
		return fmt.Errorf("the speed is %v m/s; expected over 0 and 60 at most", speed)
	case !(offset > 0 && offset <= 1000):
		return fmt.Errorf("the offset is %v m; expected over 0 and 1000 at most", offset)
	case !(fastest > 0):
		return fmt.Errorf("the craft's fastest yaw is %v °/s; expected over 0", fastest.Deg())
	}
	return nil
}
