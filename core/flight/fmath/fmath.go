// Package fmath holds the functions of real numbers that give the same bits on
// every platform: sine, cosine, arctangent, exponential, logarithm, and the
// normal deviate. What math offers differs in its last bits between processors
// and compilers; these are written so that no compiler may fuse a product with
// the sum after it, and lie within 2 ulp of the true value.
//
// The polynomials and the reductions are those of FDLIBM 5.3 (Sun Microsystems
// 1993; freely given), k_sin.c, k_cos.c, e_rem_pio2.c, s_atan.c, e_exp.c, e_log.c.
package fmath

import "math"

// FarthestAngle is how large an angle in radians Sin and Cos take with full
// accuracy; a flight keeps its angles within a turn.
const FarthestAngle = 1 << 20

// reduce returns x less the nearest multiple of π/2, as a head and a tail, and
// the multiple modulo 4.
func reduce(x float64) (head, tail float64, quadrant int) {
	const (
		two    = 6.36619772367581382433e-01 // 2/π
		first  = 1.57079632673412561417e+00 // the first 33 bits of π/2
		second = 6.07710050630396597660e-11 // the next 33
		third  = 2.02226624871116645580e-21 // the next 33
		rest   = 8.47842766036889956997e-32 // what is left
	)
	n := math.Floor(float64(x*two) + 0.5)
	r := x - float64(n*first)
	w := float64(n * second)
	a := r - w
	w = float64(n*third) - ((r - a) - w)
	b := a - w
	w = float64(n*rest) - ((a - b) - w)
	head = b - w
	tail = (b - head) - w
	return head, tail, int(int64(n) & 3)
}

// kernelSin is the sine of x + tail for |x| up to π/4, by the polynomial of
// FreeBSD's k_sin.c.
func kernelSin(x, tail float64) float64 {
	const (
		s1 = -1.66666666666666324348e-01
		s2 = 8.33333333332248946124e-03
		s3 = -1.98412698298579493134e-04
		s4 = 2.75573137070700676789e-06
		s5 = -2.50507602534068634195e-08
		s6 = 1.58969099521155010221e-10
	)
	z := float64(x * x)
	v := float64(z * x)
	r := s2 + float64(z*(s3+float64(z*(s4+float64(z*(s5+float64(z*s6)))))))
	return x - ((float64(z*(float64(0.5*tail)-float64(v*r))) - tail) - float64(v*s1))
}

// kernelCos is the cosine of x + tail for |x| up to π/4, by the polynomial of
// FreeBSD's k_cos.c.
func kernelCos(x, tail float64) float64 {
	const (
		c1 = 4.16666666666666019037e-02
		c2 = -1.38888888888741095749e-03
		c3 = 2.48015872894767294178e-05
		c4 = -2.75573143513906633035e-07
		c5 = 2.08757232129817482790e-09
		c6 = -1.13596475577881948265e-11
	)
	z := float64(x * x)
	r := float64(z * (c1 + float64(z*(c2+float64(z*(c3+float64(z*(c4+float64(z*(c5+float64(z*c6)))))))))))
	half := float64(0.5 * z)
	w := 1 - half
	return w + (((1 - w) - half) + (float64(z*r) - float64(x*tail)))
}

// Sincos returns the sine and the cosine of an angle in radians; NaN for what is
// no finite number or lies beyond FarthestAngle.
func Sincos(x float64) (sin, cos float64) {
	if !(math.Abs(x) <= FarthestAngle) {
		return math.NaN(), math.NaN()
	}
	head, tail, q := reduce(x)
	s, c := kernelSin(head, tail), kernelCos(head, tail)
	switch q {
	case 0:
		return s, c
	case 1:
		return c, -s
	case 2:
		return -s, -c
	}
	return -c, s
}

// Sin returns the sine of an angle in radians.
func Sin(x float64) float64 { s, _ := Sincos(x); return s }

// Cos returns the cosine of an angle in radians.
func Cos(x float64) float64 { _, c := Sincos(x); return c }

// Atan returns the arctangent, from −π/2 to π/2.
func Atan(x float64) float64 {
	const (
		a0  = 3.33333333333329318027e-01
		a1  = -1.99999999998764832476e-01
		a2  = 1.42857142725034663711e-01
		a3  = -1.11111104054623557880e-01
		a4  = 9.09088713343650656196e-02
		a5  = -7.69187620504482999495e-02
		a6  = 6.66107313738753120669e-02
		a7  = -5.83357013379057348645e-02
		a8  = 4.97687799461593236017e-02
		a9  = -3.65315727442169155270e-02
		a10 = 1.62858201153657823623e-02
	)
	if x != x {
		return x
	}
	t := math.Abs(x)
	var high, low float64 // of the arctangent that t was turned by
	switch {
	case t >= 1<<54:
		return math.Copysign(math.Pi/2, x)
	case t < 0.4375:
	case t < 0.6875:
		high, low, t = 4.63647609000806093515e-01, 2.26987774529616870924e-17, (float64(2*t)-1)/(2+t)
	case t < 1.1875:
		high, low, t = 7.85398163397448278999e-01, 3.06161699786838301793e-17, (t-1)/(t+1)
	case t < 2.4375:
		high, low, t = 9.82793723247329054082e-01, 1.39033110312309984516e-17, (t-1.5)/(1+float64(1.5*t))
	default:
		high, low, t = 1.57079632679489655800e+00, 6.12323399573676603587e-17, -1/t
	}
	z := float64(t * t)
	w := float64(z * z)
	even := float64(z * (a0 + float64(w*(a2+float64(w*(a4+float64(w*(a6+float64(w*(a8+float64(w*a10)))))))))))
	odd := float64(w * (a1 + float64(w*(a3+float64(w*(a5+float64(w*(a7+float64(w*a9)))))))))
	y := high - ((float64(t*(even+odd)) - low) - t)
	if high == 0 {
		y = t - float64(t*(even+odd))
	}
	return math.Copysign(y, x)
}

// Atan2 returns the angle of the place (x, y) from the x axis, from −π to π, with
// the signs of zero as in math.Atan2.
func Atan2(y, x float64) float64 {
	const tiny = 1.2246467991473531772e-16 // π less its double
	switch {
	case x != x || y != y:
		return math.NaN()
	case y == 0:
		if x > 0 || (x == 0 && !math.Signbit(x)) {
			return y
		}
		return math.Copysign(math.Pi, y)
	case x == 0:
		return math.Copysign(math.Pi/2, y)
	case math.IsInf(x, 0) && math.IsInf(y, 0):
		if x > 0 {
			return math.Copysign(math.Pi/4, y)
		}
		return math.Copysign(float64(3*(math.Pi/4)), y)
	}
	a := Atan(math.Abs(y / x))
	if x < 0 {
		a = math.Pi - (a - tiny)
	}
	return math.Copysign(a, y)
}

// Exp returns e to the power of x.
func Exp(x float64) float64 {
	const (
		high = 6.93147180369123816490e-01
		low  = 1.90821492927058770002e-10
		inv  = 1.44269504088896338700e+00
		p1   = 1.66666666666666019037e-01
		p2   = -2.77777777770155933842e-03
		p3   = 6.61375632143793436117e-05
		p4   = -1.65339022054652515390e-06
		p5   = 4.13813679705723846039e-08
	)
	switch {
	case x != x:
		return x
	case x > 7.09782712893383973096e+02:
		return math.Inf(1)
	case x < -7.45133219101941108420e+02:
		return 0
	}
	n := math.Floor(float64(x*inv) + 0.5)
	hi := x - float64(n*high)
	lo := float64(n * low)
	r := hi - lo
	t := float64(r * r)
	c := r - float64(t*(p1+float64(t*(p2+float64(t*(p3+float64(t*(p4+float64(t*p5)))))))))
	y := 1 - ((lo - float64(r*c)/(2-c)) - hi)
	return scale(y, int(n))
}

// scale returns y times two to the power of n, in two steps near the ends.
func scale(y float64, n int) float64 {
	power := func(n int) float64 { return math.Float64frombits(uint64(n+1023) << 52) }
	if n > 1023 {
		return float64(float64(y*power(1023)) * power(n-1023))
	}
	if n < -1021 {
		return float64(float64(y*power(n+1000)) * power(-1000))
	}
	return float64(y * power(n))
}

// Log returns the natural logarithm; −∞ for 0 and NaN for less.
func Log(x float64) float64 {
	const (
		high = 6.93147180369123816490e-01
		low  = 1.90821492927058770002e-10
		l1   = 6.666666666666735130e-01
		l2   = 3.999999999940941908e-01
		l3   = 2.857142874366239149e-01
		l4   = 2.222219843214978396e-01
		l5   = 1.818357216161805012e-01
		l6   = 1.531383769920937332e-01
		l7   = 1.479819860511658591e-01
	)
	switch {
	case x != x || x < 0:
		return math.NaN()
	case x == 0:
		return math.Inf(-1)
	case math.IsInf(x, 1):
		return x
	}
	bits := math.Float64bits(x)
	k := 0
	if bits>>52 == 0 { // subnormal
		bits = math.Float64bits(float64(x * (1 << 54)))
		k = -54
	}
	k += int(bits>>52) - 1023
	m := math.Float64frombits(bits&(1<<52-1) | 1023<<52) // 1 to 2
	if m > math.Sqrt2 {
		m, k = float64(m*0.5), k+1
	}
	f := m - 1
	s := f / (2 + f)
	z := float64(s * s)
	w := float64(z * z)
	t1 := float64(w * (l2 + float64(w*(l4+float64(w*l6)))))
	t2 := float64(z * (l1 + float64(w*(l3+float64(w*(l5+float64(w*l7)))))))
	r := t1 + t2
	half := float64(float64(0.5*f) * f)
	n := float64(k)
	return float64(n*high) - ((half - (float64(s*(half+r)) + float64(n*low))) - f)
}

// Pow returns x to the power of y for x over 0, by Exp and Log: within some
// 2 ulp times the size of y log x, which is what the models need.
func Pow(x, y float64) float64 { return Exp(float64(y * Log(x))) }
