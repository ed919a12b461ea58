package track

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"maestrale/core/misread"
)

// extension is where an addition to the B records stands.
type extension struct{ from, to int }

// of is the extension's value in a line; ok is false for a line that is too
// short, or an extension that the file does not have.
func (e extension) of(line string) (string, bool) {
	if e.from == 0 || len(line) < e.to {
		return "", false
	}
	return line[e.from-1 : e.to], true
}

// readIGC reads the B records of an IGC file (FAI Technical Specification for GNSS
// Flight Recorders, 2nd ed., appendix A), with the extra digits of place (LAD, LOD) and
// the decimal seconds (TDS). Heights are those of the satellites, of the barometer
// where the fix has none.
func readIGC(r sized) (*fixes, error) {
	f := &fixes{heights: AboveSea}
	in := bufio.NewScanner(r)
	in.Buffer(make([]byte, 0, 4096), 1<<16)
	var date time.Time
	var lat, lon, tds extension
	var last time.Time
	baro, n := 0, 0
	for in.Scan() {
		n++
		line := strings.TrimRight(in.Text(), "\r ")
		if line == "" {
			continue
		}
		switch line[0] {
		case 'H':
			if len(line) >= 5 && line[2:5] == "DTE" {
				digits := strings.TrimPrefix(line[5:], "DATE:")
				d, err := time.Parse("020106", cutTo(digits, 6))
				if err != nil {
					return nil, misread.At(n, "the day as HFDTEDDMMYY", "the date is %.20q", digits)
				}
				date = d
			}
		case 'I':
			if err := readExtensions(line, n, map[string]*extension{"LAD": &lat, "LOD": &lon, "TDS": &tds}); err != nil {
				return nil, err
			}
		case 'B':
			if date.IsZero() {
				return nil, misread.At(n, "an HFDTE record before it", "a fix stands before the day is known")
			}
			p, pressure, err := readB(line, n, lat, lon, tds)
			if err != nil {
				return nil, err
			}
			p.at = date.Add(time.Duration(p.at.UnixNano()))
			for !last.IsZero() && last.Sub(p.at) > 12*time.Hour { // past midnight
				p.at = p.at.AddDate(0, 0, 1)
			}
			if pressure {
				baro++
			}
			if err := f.add(p); err != nil {
				return nil, err
			}
			last = p.at
		}
	}
	if err := in.Err(); err != nil {
		var large *misread.Error
		if errors.As(err, &large) {
			return nil, large
		}
		return nil, misread.At(n+1, "lines of 76 characters or so", "a line is too long: %v", err)
	}
	if baro > 0 {
		f.notes = append(f.notes, fmt.Sprintf(msgBarometerHeights, baro))
	}
	return f, nil
}

// cutTo is the beginning of a text, n bytes at most.
func cutTo(s string, n int) string {
	if len(s) > n {
		return s[:n]
	}
	return s
}

// readExtensions reads where the I record says that additions stand.
func readExtensions(line string, n int, known map[string]*extension) error {
	count, err := strconv.Atoi(cutTo(line[1:], 2))
	if err != nil || count < 0 || len(line) < 3+7*count {
		return misread.At(n, "INN and NN times SSFFCCC", "the I record is %.40q", line)
	}
	for i := range count {
		part := line[3+7*i : 10+7*i]
		from, err1 := strconv.Atoi(part[:2])
		to, err2 := strconv.Atoi(part[2:4])
		if err1 != nil || err2 != nil || from < 36 || to < from {
			return misread.At(n, "columns from 36 on", "the extension is %.10q", part)
		}
		if e := known[part[4:]]; e != nil {
			*e = extension{from, to}
		}
	}
	return nil
}

// readB reads one fix; the time is that since midnight, from the epoch.
func readB(line string, n int, lat, lon, tds extension) (p fix, pressure bool, err error) {
	wrong := func(what string) (fix, bool, error) {
		return fix{}, false, misread.At(n, "BHHMMSSDDMMmmmNDDDMMmmmEVPPPPPGGGGG", "%s in %.40q", what, line)
	}
	if len(line) < 35 {
		return wrong(msgTooFewCharacters)
	}
	hh, ok1 := digits(line[1:3])
	mm, ok2 := digits(line[3:5])
	ss, ok3 := digits(line[5:7])
	if !ok1 || !ok2 || !ok3 || hh > 23 || mm > 59 || ss > 60 {
		return wrong(msgNoTimeOfDay)
	}
	at := time.Duration(hh)*time.Hour + time.Duration(mm)*time.Minute + time.Duration(ss)*time.Second
	if s, has := tds.of(line); has {
		v, ok := digits(s)
		if !ok {
			return wrong(msgNoDecimalSeconds)
		}
		at += time.Duration(math.Round(float64(v) / math.Pow10(len(s)) * 1e9))
	}
	angle := func(deg, min string, extra extension, hemisphere byte, negative, positive byte) (float64, bool) {
		d, ok1 := digits(deg)
		m, ok2 := digits(min)
		if !ok1 || !ok2 || m >= 60_000 || (hemisphere != negative && hemisphere != positive) {
			return 0, false
		}
		minutes := float64(m) / 1000
		if s, has := extra.of(line); has {
			v, ok := digits(s)
			if !ok {
				return 0, false
			}
			minutes += float64(v) / math.Pow10(len(s)+3)
		}
		v := float64(d) + minutes/60
		if hemisphere == negative {
			v = -v
		}
		return v, true
	}
	var ok bool
	if p.geo.LatDeg, ok = angle(line[7:9], line[9:14], lat, line[14], 'S', 'N'); !ok {
		return wrong("no latitude")
	}
	if p.geo.LonDeg, ok = angle(line[15:18], line[18:23], lon, line[23], 'W', 'E'); !ok {
		return wrong("no longitude")
	}
	height := line[30:35]
	if line[24] != 'A' { // no height by satellite
		height, pressure = line[25:30], true
	}
	alt, e := strconv.Atoi(height)
	if e != nil {
		return wrong("no height")
	}
	p.line, p.at, p.geo.AltM, p.hasAlt, p.heading = n, time.Unix(0, int64(at)), float64(alt), true, math.NaN()
	return p, pressure, nil
}

// digits reads a whole number that is written with digits alone.
func digits(s string) (int, bool) {
	v := 0
	for _, c := range []byte(s) {
		if c < '0' || c > '9' {
			return 0, false
		}
		v = 10*v + int(c-'0')
	}
	return v, true
}

// igc writes a log with one B record for each sample; it returns what the
// format cannot hold.
func (o *outgoing) igc(b *bytes.Buffer) []string {
	fmt.Fprintf(b, "AXMS001 Maestrale\r\nHFDTE%s\r\nI033637LAD3839LOD4042TDS\r\n", o.start.UTC().Format("020106"))
	for i := range o.t.T {
		g, at := o.geo(i), o.at(i)
		latD, latM, latX := minutesOf(g.LatDeg)
		lonD, lonM, lonX := minutesOf(g.LonDeg)
		ns, ew := 'N', 'E'
		if g.LatDeg < 0 {
			ns = 'S'
		}
		if g.LonDeg < 0 {
			ew = 'W'
		}
		alt := int(math.Round(math.Max(-9999, math.Min(99999, g.AltM))))
		fmt.Fprintf(b, "B%s%02d%05d%c%03d%05d%cA%05d%05d%02d%02d%03d\r\n", at.Format("150405"), latD, latM, ns, lonD, lonM,
			ew, alt, alt, latX, lonX, at.Nanosecond()/1e6)
	}
	return []string{msgLostAndRounded}
}

// minutesOf splits degrees into whole ones, thousandths of a minute, and hundredths
// of those.
func minutesOf(deg float64) (d, milli, extra int) {
	all := int(math.Round(math.Abs(deg) * 60 * 1e5))
	return all / (60 * 1e5), all % (60 * 1e5) / 100, all % 100
}
