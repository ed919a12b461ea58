package score

import (
	"math"

	"maestrale/core/field"
)

// These fits are exact formulas, or converge in a few steps, and do not depend
// on the order of the points but for the direction of a line.

// circleFit fits a circle to points by Taubin's method (G. Taubin, "Estimation
// of planar curves, surfaces and nonplanar space curves", IEEE PAMI 13 (1991)
// 1115), in Chernov's form, with Newton's steps from zero (N. Chernov, Circular
// and Linear Regression, 2010, section 5.9). Unlike the plain least-squares fit
// it is hardly biased where only an arc was flown.
//
// It returns the centre and the radius in the unit of the points. ok is false
// for fewer than five points, and where they lie on no arc: on a line the
// radius would be beyond 10⁵.
func circleFit(points []field.Point) (c field.Point, r float64, ok bool) {
	n := float64(len(points))
	if n < 5 {
		return c, 0, false
	}
	// About the centroid the moments are small and the sums exact enough.
	var mx, my float64
	for _, p := range points {
		mx, my = mx+p.X/n, my+p.Y/n
	}
	var xx, yy, xy, xz, yz, zz float64
	for _, p := range points {
		x, y := p.X-mx, p.Y-my
		z := x*x + y*y
		xx, yy, xy = xx+x*x/n, yy+y*y/n, xy+x*y/n
		xz, yz, zz = xz+x*z/n, yz+y*z/n, zz+z*z/n
	}
	z := xx + yy
	cov := xx*yy - xy*xy
	varz := zz - z*z
	// The polynomial a0 + a1 x + a2 x² + a3 x³, whose smallest root from zero
	// gives the circle. Newton's steps fall toward it from the left; they end
	// where they no longer do.
	a3, a2 := 4*z, -3*z*z-zz
	a1 := varz*z + 4*cov*z - xz*xz - yz*yz
	a0 := xz*(xz*yy-yz*xy) + yz*(yz*xx-xz*xy) - varz*cov
	x, y := 0.0, a0
	for range 99 {
		dy := a1 + x*(2*a2+3*a3*x)
		next := x - y/dy
		if next == x || math.IsNaN(next) || math.IsInf(next, 0) {
			break
		}
		ny := a0 + next*(a1+next*(a2+next*a3))
		if math.Abs(ny) >= math.Abs(y) {
			break
		}
		x, y = next, ny
	}
	det := x*x - x*z + cov
	if math.Abs(det) < 1e-12 {
		return c, 0, false
	}
	cx, cy := (xz*(yy-x)-yz*xy)/det/2, (yz*(xx-x)-xz*xy)/det/2
	r = math.Sqrt(cx*cx + cy*cy + z)
	if !(r < 1e5) {
		return c, 0, false
	}
	return field.Point{X: cx + mx, Y: cy + my}, r, true
}

// lineFit is the line of least squared distances through points in the plane
// (total least squares, so that neither axis is favoured): a point of it, the
// centroid, and its direction as a heading, the way the points run from the
// first to the last. ok is false for fewer than three points, or where all lie
// in one place.
func lineFit(points []field.Point) (at field.Point, course field.Angle, ok bool) {
	n := float64(len(points))
	if n < 3 {
		return at, 0, false
	}
	for _, p := range points {
		at.X, at.Y = at.X+p.X/n, at.Y+p.Y/n
	}
	var xx, yy, xy float64
	for _, p := range points {
		x, y := p.X-at.X, p.Y-at.Y
		xx, yy, xy = xx+x*x, yy+y*y, xy+x*y
	}
	// The axis of the greater moment.
	th := 0.5 * math.Atan2(2*xy, xx-yy)
	dx, dy := math.Cos(th), math.Sin(th)
	first, last := points[0], points[len(points)-1]
	if (last.X-first.X)*dx+(last.Y-first.Y)*dy < 0 {
		dx, dy = -dx, -dy
	}
	return at, field.Bearing(field.Point{X: dx, Y: dy}), xx+yy > 1e-9
}

// along is how far the place p lies along the line through at with a course, in
// metres; negative behind at.
func along(at field.Point, course field.Angle, p field.Point) float64 {
	sin, cos := math.Sincos(float64(course))
	return (p.X-at.X)*sin + (p.Y-at.Y)*cos
}

// slopeFit is the slope of the heights z over the way, by total least squares,
// as an angle that climbs positive. Both slices must have the same length. ok
// is false for fewer than three, or where nothing moves.
func slopeFit(way, z []float64) (field.Angle, bool) {
	n := float64(len(way))
	if n < 3 {
		return 0, false
	}
	var mw, mz float64
	for i := range way {
		mw, mz = mw+way[i]/n, mz+z[i]/n
	}
	var ww, wz, zz float64
	for i := range way {
		w, h := way[i]-mw, z[i]-mz
		ww, wz, zz = ww+w*w, wz+w*h, zz+h*h
	}
	if ww+zz < 1e-9 {
		return 0, false
	}
	return field.Angle(0.5 * math.Atan2(2*wz, ww-zz)), true
}
