package school

import (
	"fmt"
	"strconv"
	"strings"
	"time"
)

// A sign-in that nobody uses ends after a time that the school sets.
const (
	ShortestIdle = 5 * time.Minute
	LongestIdle  = 30 * 24 * time.Hour
)

// ReadIdle reads after how long a sign-in ends that nobody uses: minutes, or a
// number with "min", "h" or "d". An empty text is zero, which changes nothing.
func ReadIdle(text string) (time.Duration, error) {
	t := strings.ToLower(strings.TrimSpace(text))
	if t == "" {
		return 0, nil
	}
	// A number alone is minutes.
	unit := time.Minute
	for _, u := range []struct {
		word string
		is   time.Duration
	}{{"minutes", time.Minute}, {"minute", time.Minute}, {"min", time.Minute}, {"hours", time.Hour}, {"hour", time.Hour},
		{"h", time.Hour}, {"days", 24 * time.Hour}, {"day", 24 * time.Hour}, {"d", 24 * time.Hour}} {
		if rest, ok := strings.CutSuffix(t, u.word); ok {
			t, unit = strings.TrimSpace(rest), u.is
			break
		}
	}
	// Sixteen bits are more than the longest time in minutes.
	n, err := strconv.ParseUint(t, 10, 16)
	if err != nil {
		return 0, fmt.Errorf("the time until a sign-in ends is %q; expected minutes, or a time such as 12 h", text)
	}
	d := time.Duration(n) * unit
	if d < ShortestIdle || d > LongestIdle {
		return 0, fmt.Errorf("the time until a sign-in ends is %q; expected 5 minutes to 30 days", text)
	}
	return d, nil
}

// IdleWords says so many minutes as ReadIdle reads them.
func IdleWords(minutes int) string {
	// The largest unit that says it without a rest.
	switch {
	case minutes > 0 && minutes%(24*60) == 0:
		return fmt.Sprintf("%d d", minutes/(24*60))
	case minutes > 0 && minutes%60 == 0:
		return fmt.Sprintf("%d h", minutes/60)
	}
	return fmt.Sprintf("%d min", minutes)
}
