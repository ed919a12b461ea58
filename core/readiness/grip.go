package readiness

import (
	"fmt"
	"math"
)

// Grips are how a student holds the sticks; empty where nobody said.
var Grips = []string{"", "thumb", "pinch"}

// Share is how many of a number of attempts were passed.
type Share struct{ Attempts, Passes int }

// What a comparison wants: so many attempts of a student, and so many such
// students on each side.
const (
	enoughAttempts = 10
	enoughStudents = 3
)

// CompareGrips holds the students who fly with the thumbs against those who
// pinch. The attempts of one student hang together, so students are compared
// and not attempts: the mean of the shares that they pass, and Welch's interval
// of the difference at 95 % (B. L. Welch, "The generalization of 'Student's'
// problem", Biometrika 34 (1947) 28). With fewer than enoughStudents on a side
// it says nothing. The two are different people: a difference need not come
// from the grip, and the words say so.
func CompareGrips(thumb, pinch []Share) string {
	a, b := shares(thumb), shares(pinch)
	if len(a) < enoughStudents || len(b) < enoughStudents {
		return ""
	}
	ma, mb := mean(a), mean(b)
	d, half := welch(b, a)
	says := fmt.Sprintf(msgGripShares,
		len(a), 100*ma, len(b), 100*mb)
	between := fmt.Sprintf(msgGripDifference, 100*(d-half), 100*(d+half))
	if math.Abs(d) <= half {
		return fmt.Sprintf(msgMayBeChance, says, between)
	}
	return fmt.Sprintf(msgDifferentPeople, says, between)
}

// shares are the shares of those who have flown enough.
func shares(list []Share) (out []float64) {
	for _, s := range list {
		if s.Attempts >= enoughAttempts {
			out = append(out, float64(s.Passes)/float64(s.Attempts))
		}
	}
	return out
}

// mean is the mean of a list; 0 for an empty one.
func mean(list []float64) (m float64) {
	for _, v := range list {
		m += v / float64(len(list))
	}
	return m
}

// welch returns the difference of two means, a's less b's, and half the width
// of its interval at 95 %. Both lists need two values at least.
func welch(a, b []float64) (d, half float64) {
	of := func(list []float64) (perMean float64) { // the variance of the mean
		m, n := mean(list), float64(len(list))
		for _, v := range list {
			perMean += (v - m) * (v - m) / (n - 1) / n
		}
		return perMean
	}
	va, vb := of(a), of(b)
	d = mean(a) - mean(b)
	if va+vb == 0 {
		return d, 0
	}
	// Welch and Satterthwaite's degrees of freedom.
	free := (va + vb) * (va + vb) / (va*va/float64(len(a)-1) + vb*vb/float64(len(b)-1))
	return d, student(free) * math.Sqrt(va+vb)
}

// student975 are the 97.5 % points of Student's distribution for 1, 2, … 30
// degrees of freedom (W. S. Gosset's table as in every textbook, for instance
// Fisher and Yates, Statistical Tables, table III).
var student975 = []float64{12.706, 4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306, 2.262, 2.228, 2.201, 2.179, 2.160,
	2.145, 2.131, 2.120, 2.110, 2.101, 2.093, 2.086, 2.080, 2.074, 2.069, 2.064, 2.060, 2.056, 2.052, 2.048, 2.045, 2.042}

// student is the point of Student's distribution for so many degrees of
// freedom, rounded down: the wider interval.
func student(free float64) float64 {
	i := max(1, int(free))
	if i > len(student975) {
		return 2.042
	}
	return student975[i-1]
}
