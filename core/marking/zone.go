package marking

import (
	"encoding/binary"
	"errors"
	"fmt"
	"time"
)

// A device may know no time zones, and all of them are a quarter of the
// compiled judge. So the day brings the rules of the one zone that its dates
// are of.

// zoneFrom is from when they are taken: no record is older.
var zoneFrom = time.Date(1970, 1, 1, 0, 0, 0, 0, time.UTC)

// zoneFor is how long after a moment the rules of a zone are taken: no day
// stays on a device as long.
const zoneFor = 5 * 366 * 24 * time.Hour

// ZoneRules are the rules of a time zone from 1970 until five years after a
// moment, as a compiled zone file of version 2 (RFC 8536).
func ZoneRules(zone *time.Location, now time.Time) []byte {
	type kind struct {
		offset int
		dst    bool
		name   string
	}
	var kinds []kind
	var changes []int64
	var of []byte
	at, end := zoneFrom.In(zone), now.Add(zoneFor)
	for {
		// Each change leads into one kind of time, which is listed once.
		name, offset := at.Zone()
		k, is := kind{offset, at.IsDST(), name}, -1
		for i := range kinds {
			if kinds[i] == k {
				is = i
			}
		}
		if is < 0 {
			is, kinds = len(kinds), append(kinds, k)
		}
		changes, of = append(changes, at.Unix()), append(of, byte(is))
		_, next := at.ZoneBounds()
		if next.IsZero() || next.After(end) {
			break
		}
		at = next
	}
	var names []byte
	var starts []byte
	for _, k := range kinds {
		starts = append(starts, byte(len(names)))
		names = append(append(names, k.name...), 0)
	}
	// head is the header of RFC 8536, section 3.1, with the counts that follow
	// it.
	head := func(changes, kinds, letters int) (b []byte) {
		b = append([]byte("TZif2"), make([]byte, 15)...)
		for _, n := range []int{0, 0, 0, changes, kinds, letters} {
			b = binary.BigEndian.AppendUint32(b, uint32(n))
		}
		return b
	}
	out := append(head(0, 1, 1), 0, 0, 0, 0, 0, 0, 0) // what readers of version 1 would read
	out = append(out, head(len(changes), len(kinds), len(names))...)
	for _, t := range changes {
		out = binary.BigEndian.AppendUint64(out, uint64(t))
	}
	out = append(out, of...)
	for i, k := range kinds {
		out = binary.BigEndian.AppendUint32(out, uint32(int32(k.offset)))
		out = append(out, map[bool]byte{true: 1}[k.dst], starts[i])
	}
	return append(append(out, names...), "\n\n"...)
}

// zoneOf is the zone of a bundle: by its name where the device knows it, else
// by the rules that came along.
func zoneOf(name string, rules []byte) (*time.Location, error) {
	zone, err := time.LoadLocation(name)
	if err == nil || len(rules) == 0 {
		return zone, err //nolint:wrapcheck // it says which
	}
	if zone, err = time.LoadLocationFromTZData(name, rules); err != nil {
		return nil, errors.Join(fmt.Errorf("the rules of %.40q", name), err)
	}
	return zone, nil
}
