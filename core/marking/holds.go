package marking

// Most is about how many attempts a device is given. A school of many has more;
// then those who flew last are on the device with their records, and the others
// by name, until they are asked for.
const Most = 8000

// RecordSize is how many entries a student's record has, and whether a device
// must have it: that of who flies today, or was asked for.
type RecordSize struct {
	Entries int64
	Must    bool
}

// Holds tells of each record whether a device has it. They come in the order of
// who flew last.
func Holds(list []RecordSize) []bool {
	out, held := make([]bool, len(list)), int64(0)
	for i, r := range list {
		if out[i] = r.Must || held <= Most; out[i] {
			held += r.Entries
		}
	}
	return out
}
