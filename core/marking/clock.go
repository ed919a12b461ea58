package marking

import "time"

// clockOff is how far a device's clock may be off before its times are set right: less than that is the time that a
// request takes, and setting right by it would move an attempt for nothing.
const clockOff = 30 * time.Second

// Began is when an attempt of a device began: what the device says, set right by how far its clock is off now (server
// less device), and never later than now. The order is that of the device's own counter: it comes after what the device
// counted
// before, and before what it counted after, whatever its clock did between; nil is none. Where the two leave no room,
// that it comes after what went before is kept.
func Began(deviceAt time.Time, off time.Duration, now time.Time, before, after *time.Time) time.Time {
	at := deviceAt
	if off.Abs() > clockOff {
		at = at.Add(off)
	}
	if at.After(now) {
		at = now
	}
	if after != nil && !at.Before(*after) {
		at = after.Add(-time.Millisecond)
	}
	if before != nil && !at.After(*before) {
		at = before.Add(time.Millisecond)
	}
	return at
}
