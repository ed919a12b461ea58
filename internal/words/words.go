package words

import (
	"fmt"
	"math"
	"strconv"
	"time"
)

func Ago(d time.Duration) string {
	switch {
	case d < time.Minute:
		return fmt.Sprintf("%d s ago", max(0, int(d.Seconds())))
	case d < time.Hour:
		return fmt.Sprintf("%d min ago", int(d.Minutes()))
	case d < 48*time.Hour:
		return fmt.Sprintf("%d h ago", int(d.Hours()))
	}
	return fmt.Sprintf("%d days ago", int(d.Hours()/24))
}

// Number writes a figure with the digits that say something.
func Number(v float64) string {
	places := 2
	if math.Abs(v) >= 10 {
		places = 1
	}
	return strconv.FormatFloat(math.Round(v*math.Pow10(places))/math.Pow10(places), 'f', -1, 64)
}

// Counted says a number of things: "1 day", "3 days".
func Counted(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}
