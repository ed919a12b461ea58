package readiness

import (
	"fmt"
	"math"
)

// Looked is one student's attempts at one drill: those that people watched, and
// those that nobody did.
type Looked struct{ Watched, Alone Share }

// enoughWatched is how many attempts it takes on each side before anything is said.
const enoughWatched = 10

// CompareOnlookers tells whether attempts are passed more or less often while
// people look on. Attempts are compared only with those of the same student at
// the same drill, since who is watched and at what is no accident: the
// differences are put together by Mantel and Haenszel's weights (Greenland and
// Robins, Biometrics 41 (1985) 55), with Sato's variance (Biometrics 45 (1989)
// 1323), at 95 %. A drill that was flown in one way only says nothing. The
// words are empty with fewer than ten attempts on either side.
func CompareOnlookers(list []Looked) string {
	var weight, diff, p, q float64
	var watched, alone Share
	for _, l := range list {
		n1, n0 := float64(l.Watched.Attempts), float64(l.Alone.Attempts)
		// Flown in one way only: nothing to compare with.
		if n1 == 0 || n0 == 0 {
			continue
		}
		n, a, b := n1+n0, float64(l.Watched.Passes), float64(l.Alone.Passes)
		weight += n1 * n0 / n
		diff += (a*n0 - b*n1) / n
		p += (n1*n1*b - n0*n0*a + n1*n0*(n0-n1)/2) / (n * n)
		q += (a*(n0-b) + b*(n1-a)) / (2 * n)
		watched.Attempts, watched.Passes = watched.Attempts+l.Watched.Attempts, watched.Passes+l.Watched.Passes
		alone.Attempts, alone.Passes = alone.Attempts+l.Alone.Attempts, alone.Passes+l.Alone.Passes
	}
	if watched.Attempts < enoughWatched || alone.Attempts < enoughWatched {
		return ""
	}
	d := diff / weight
	half := 1.96 * math.Sqrt(math.Max(0, d*p+q)) / weight
	says := fmt.Sprintf(msgWatchedShares, watched.Passes, watched.Attempts, alone.Passes, alone.Attempts)
	between := fmt.Sprintf(msgWatchedDifference,
		100*math.Max(-1, d-half), 100*math.Min(1, d+half))
	switch {
	case math.Abs(d) <= half:
		return fmt.Sprintf(msgMayBeChance, says, between)
	case d < 0:
		return fmt.Sprintf(msgPractiseWatched, says, between)
	}
	return says + ": " + between + "."
}
