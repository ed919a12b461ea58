package score

import (
	"math"
	"slices"

	"maestrale/core/drill"
	"maestrale/core/field"
)

// measureSeen fills in what an eye measured and lists what it did not.
func (o *observer) measureSeen() []float64 {
	const byEye = "not measured by eye"
	var shares []float64
	for i, target := range o.task.Steps {
		r := &o.res.Steps[i]
		// measured keeps what an eye measured, and its share of a limit.
		measured := func(name string, v, limit float64) {
			r.Metrics[name] = v
			if limit > 0 {
				shares = append(shares, v/limit)
			}
		}
		limit := func(name string, v float64, measured bool) {
			if v <= 0 {
				return
			}
			r.Limits[name] = v
			if !measured {
				o.unjudged(i, name, byEye)
			}
		}
		lim := target.Limits
		began := !math.IsNaN(o.spans[i].from)
		switch target.Kind {
		case drill.Hold:
			limit("radius_max_m", lim.Radius, false)
			limit("height_max_m", lim.Height, false)
			limit("nose_max_deg", lim.Nose.Deg(), false)
			limit("inside_s", target.Seconds, true)
			if in := o.stays[i].length(); !math.IsNaN(o.spans[i].to) {
				r.Metrics["inside_s"] = in
				if !r.Done && in > 0 && !asksResponse(target) {
					shares = append(shares, target.Seconds/in)
				}
			}
		case drill.Turn:
			limit("drift_max_m", lim.Radius, false)
			limit("height_max_m", lim.Height, false)
			limit("overshoot_deg", lim.Overshoot.Deg(), false)
			limit("rate_max_dps", target.RateDps[1], false)
		case drill.GoTo, drill.Path:
			limit("cross_max_m", lim.Cross, false)
			limit("height_max_m", lim.Height, false)
			limit("nose_max_deg", lim.Nose.Deg(), false)
			limit("overshoot_m", lim.Past, false)
			limit("radius_ratio", lim.Ratio, false)
			limit("crossing_m", lim.Crossing, false)
			limit("end_ratio", lim.EndRatio, false)
			limit("legs_angle_deg", lim.Legs.Deg(), false)
			limit("angle_deg", lim.Slope.Deg(), false)
			limit("aim_deg", lim.Aim.Deg(), false)
			limit("speed_max_mps", target.SpeedMps[1], false)
			limit("rest_s", target.RestS, true)
			if rests := o.rests[i]; len(rests) > 0 {
				r.Rests = rests
				r.Metrics["rest_s"] = slices.Min(rests)
				if least := slices.Min(rests); least < target.RestS {
					shares = append(shares, target.RestS/math.Max(least, 0.01))
				}
			}
		case drill.Stop:
			took, seen := o.stops[i]
			limit("stop_s", lim.Seconds, seen)
			limit("stop_m", lim.Distance, false)
			if seen {
				measured("stop_s", took, lim.Seconds)
			}
		case drill.Return:
			d, seen := o.offsets[i]
			limit("home_offset_m", lim.HomeOffset, seen)
			if took, ok := o.stops[i]; ok {
				r.Metrics["taken_over_s"] = took
			}
			if seen {
				measured("home_offset_m", d, lim.HomeOffset)
			}
		case drill.Regain:
			took, seen := o.stops[i]
			limit("home_s", lim.Seconds, seen)
			limit("lost_m", lim.Lost, false)
			if lim.WrongInputs >= 0 {
				r.Limits["wrong_inputs"] = float64(lim.WrongInputs)
				o.unjudged(i, "wrong_inputs", byEye)
			}
			if seen {
				measured("home_s", took, lim.Seconds)
			}
		case drill.Land:
			d, seen := o.offsets[i]
			limit("offset_m", lim.Offset, seen)
			limit("sink_mps", lim.Sink, false)
			limit("tilt_deg", lim.Tilt.Deg(), false)
			limit("nose_deg", lim.Nose.Deg(), false)
			if seen {
				measured("offset_m", d, lim.Offset)
			}
		case drill.TakeOff:
			if began {
				r.Metrics["takeoff_s"] = o.spans[i].length()
			}
		}
		o.measureAnswersSeen(i, limit, &shares)
		limit("seconds_max", target.SecondsMax, target.Kind != drill.TakeOff)
	}
	for _, f := range o.inTime {
		target := o.task.Steps[f.step]
		if a, ok := sightOf(target, o.task.Station); ok {
			o.res.AspectS[field.Sector(a)] += f.length()
		}
	}
	return shares
}

// measureAnswersSeen fills in how long the answers of a step took, as they were
// marked.
func (o *observer) measureAnswersSeen(i int, limit func(string, float64, bool), shares *[]float64) {
	took, seen := o.replies[i]
	for _, d := range o.task.Steps[i].During {
		limit("answer_s", d.Seconds, seen)
		if d.FirstWay == "" {
			limit("answer_m", d.Distance, false)
		}
		if seen && d.Seconds > 0 {
			*shares = append(*shares, took/d.Seconds)
		}
	}
	if seen {
		o.res.Steps[i].Metrics["answer_s"] = took
	}
}
