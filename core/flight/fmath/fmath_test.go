package fmath

import (
	"math"
	"math/big"
	"math/rand/v2"
	"testing"
)

// ulps is how many representable numbers lie between two.
func ulps(a, b float64) float64 {
	if a == b || (a != a && b != b) {
		return 0
	}
	if a != a || b != b || math.IsInf(a, 0) || math.IsInf(b, 0) || math.Signbit(a) != math.Signbit(b) {
		return math.Inf(1)
	}
	d := int64(math.Float64bits(a)) - int64(math.Float64bits(b))
	return math.Abs(float64(d))
}

func TestWithinTwoUlpOfMath(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	worst := map[string]float64{}
	check := func(name string, got, want, at float64) {
		d := ulps(got, want)
		worst[name] = math.Max(worst[name], d)
		if d > 2 && math.Abs(want) > 1e-290 {
			t.Fatalf("%s(%v) is %v; expected %v (%v ulp)", name, at, got, want, d)
		}
	}
	for i := range 400_000 {
		x := (2*r.Float64() - 1) * math.Pow(10, float64(i%13)-6)
		if math.Abs(x) <= FarthestAngle {
			s, c := Sincos(x)
			check("Sin", s, math.Sin(x), x)
			check("Cos", c, math.Cos(x), x)
		}
		check("Atan", Atan(x), math.Atan(x), x)
		y := (2*r.Float64() - 1) * math.Pow(10, float64(r.IntN(13))-6)
		check("Atan2", Atan2(y, x), math.Atan2(y, x), x)
		check("Log", Log(math.Abs(x)), math.Log(math.Abs(x)), x)
		if e := (2*r.Float64() - 1) * 700; i%2 == 0 {
			check("Exp", Exp(e), math.Exp(e), e)
		} else {
			check("Exp", Exp(x/1e6), math.Exp(x/1e6), x/1e6)
		}
	}
	t.Logf("the worst, in ulp: %v", worst)
}

// Near the multiples of π/2 the sine is as small as the angle is exact; held
// against a reduction in 200 bits.
func TestNearTheMultiplesOfARightAngle(t *testing.T) {
	half, _, err := big.ParseFloat("1.570796326794896619231321691639751442098584699687552910487472"+
		"29615390820314310449931401741267105853399107404326", 10, 300, big.ToNearestEven)
	if err != nil {
		t.Fatal(err)
	}
	for n := 1; n < 400_000; n = n*3 + 1 {
		x, _ := new(big.Float).Mul(half, big.NewFloat(float64(n))).Float64()
		rest, _ := new(big.Float).Sub(new(big.Float).SetPrec(300).SetFloat64(x), new(big.Float).Mul(half,
			big.NewFloat(float64(n)))).Float64()
		s, c := Sincos(x)
		got := [4]float64{s, -c, -s, c}[n%4]
		if ulps(got, rest) > 2 {
			t.Errorf("%d right angles: %v; expected %v", n, got, rest)
		}
	}
}

func TestEdges(t *testing.T) {
	nan, inf := math.NaN(), math.Inf(1)
	zero := math.Copysign(0, -1)
	for _, c := range []struct {
		what      string
		got, want float64
	}{
		{"sin of infinity", Sin(inf), nan}, {"cos of NaN", Cos(nan), nan}, {"sin far away", Sin(1e9), nan}, {"sin 0", Sin(0),
			0},
		{"exp of infinity", Exp(inf), inf}, {"exp of minus infinity", Exp(-inf), 0}, {"exp 0", Exp(0), 1}, {"exp of much",
			Exp(710), inf}, {"exp of little", Exp(-746), 0}, {"exp of NaN", Exp(nan), nan},
		{"log 0", Log(0), -inf}, {"log of less", Log(-1), nan}, {"log of infinity", Log(inf), inf}, {"log 1", Log(1),
			0}, {"log of the least", Log(5e-324), -744.4400719213812},
		{"atan of infinity", Atan(-inf), -math.Pi / 2}, {"atan of NaN", Atan(nan), nan},
		{"atan2 0 0", Atan2(0, 0), 0}, {"atan2 0 -0", Atan2(0, zero), math.Pi}, {"atan2 -0 -1", Atan2(zero, -1),
			-math.Pi}, {"atan2 1 0", Atan2(1, 0), math.Pi / 2},
		{"atan2 of infinities", Atan2(-inf, -inf), math.Atan2(-inf, -inf)}, {"atan2 of infinities ahead", Atan2(inf, inf),
			math.Pi / 4}, {"atan2 to infinity", Atan2(1, inf), 0}, {"atan2 of NaN", Atan2(nan, 1), nan},
		{"pow", Pow(2, 10), 1024},
	} {
		if ulps(c.got, c.want) > 2 {
			t.Errorf("%s is %v; expected %v", c.what, c.got, c.want)
		}
	}
}

// The same seed gives the same numbers, another concern others; the normal
// deviates have the moments and tails that they should.
func TestRandIsSoundAndRepeats(t *testing.T) {
	a, b, other := NewRand(7, 1), NewRand(7, 1), NewRand(7, 2)
	same := 0
	for range 1000 {
		x := a.Uint64()
		if x != b.Uint64() {
			t.Fatal("the same seed gives other numbers")
		}
		if x == other.Uint64() {
			same++
		}
	}
	if same > 0 {
		t.Errorf("%d of a thousand numbers are those of another concern", same)
	}
	r := NewRand(3, 3)
	const n = 400_000
	var sum, square, fourth, beyond, lag float64
	last := 0.0
	for range n {
		x := r.Normal()
		sum, square, fourth = sum+x, square+x*x, fourth+x*x*x*x
		lag += x * last
		last = x
		if math.Abs(x) > 1.959964 {
			beyond++
		}
	}
	for what, c := range map[string][2]float64{"mean": {sum / n, 0}, "variance": {square / n, 1},
		"fourth moment": {fourth / n, 3}, "beyond 1.96": {beyond / n, 0.05}, "next to one another": {lag / n, 0}} {
		if math.Abs(c[0]-c[1]) > 0.03 {
			t.Errorf("%s is %.4f; expected %v", what, c[0], c[1])
		}
	}
	counts := [64]int{}
	for range 64_000 {
		counts[int(r.Float64()*64)]++
	}
	chi := 0.0
	for _, c := range counts {
		chi += float64(c-1000) * float64(c-1000) / 1000
	}
	if chi > 110 || chi < 30 { // 63 degrees of freedom: 1 in 10,000 either way
		t.Errorf("χ² over 64 boxes is %.0f", chi)
	}
}

func BenchmarkSincos(b *testing.B) {
	x, sum := 0.1, 0.0
	for b.Loop() {
		s, c := Sincos(x)
		sum += s + c
		x += 0.01
		if x > 3 {
			x = -3
		}
	}
	if sum == 42 {
		b.Log(sum)
	}
}

func BenchmarkNormal(b *testing.B) {
	r := NewRand(1, 1)
	sum := 0.0
	for b.Loop() {
		sum += r.Normal()
	}
	if sum == 42 {
		b.Log(sum)
	}
}
