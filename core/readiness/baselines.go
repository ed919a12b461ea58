package readiness

// Baselines are what the estimates are measured against: the share of passes in
// the last five attempts, an exponentially weighted moving average that begins
// even and moves by 0.3 of what each attempt adds, and the mean of a Beta
// distribution that begins even (Laplace's rule of succession). There must be
// one attempt at least.
func Baselines(tries []Try) (last, moving, beta float64) {
	moving = 0.5
	n, passes := 0.0, 0.0
	for k, t := range tries {
		v := 0.0
		if t.Pass {
			v, passes = 1, passes+1
		}
		if moving += 0.3 * (v - moving); k >= len(tries)-5 {
			last, n = last+v, n+1
		}
	}
	return last / n, moving, (passes + 1) / (float64(len(tries)) + 2)
}
