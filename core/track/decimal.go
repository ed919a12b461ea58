package track

import (
	"strconv"
	"unsafe"
)

// tens are the powers of ten that a float64 holds exactly.
var tens = [...]float64{1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15, 1e16, 1e17,
	1e18, 1e19, 1e20, 1e21, 1e22}

// exact is the number up to which every whole number is a float64.
const exact = 1 << 53

// parseNumber reads a number as strconv.ParseFloat does, to the bit. A plain
// decimal of few digits is read in one pass: its digits and the power of ten
// are both held exactly, so that one division rounds once, and rightly. Source:
// W. D. Clinger, "How to read floating point numbers accurately", PLDI 1990.
func parseNumber(s string) (float64, error) {
	if v, ok := decimal(s); ok {
		return v, nil
	}
	return strconv.ParseFloat(s, 64)
}

// parseBytes is parseNumber for bytes.
func parseBytes(b []byte) (float64, error) {
	if len(b) > 0 {
		if v, ok := decimal(unsafe.String(&b[0], len(b))); ok { // which keeps nothing of it
			return v, nil
		}
	}
	return strconv.ParseFloat(string(b), 64)
}

// decimal reads a sign, digits and a point; it is not ok for what else a number may be.
func decimal(s string) (v float64, ok bool) {
	i, negative := 0, false
	if len(s) > 0 && (s[0] == '-' || s[0] == '+') {
		i, negative = 1, s[0] == '-'
	}
	if len(s)-i > 18 { // more digits than a uint64 surely holds
		return 0, false
	}
	m, point, digits := uint64(0), -1, 0
	for ; i < len(s); i++ {
		switch c := s[i]; {
		case c >= '0' && c <= '9':
			m = m*10 + uint64(c-'0')
			digits++
		case c == '.' && point < 0:
			point = digits
		default:
			return 0, false
		}
	}
	if digits == 0 || m >= exact {
		return 0, false
	}
	v = float64(m)
	if point >= 0 {
		v /= tens[digits-point]
	}
	if negative {
		v = -v
	}
	return v, true
}
