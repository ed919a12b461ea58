package track

import (
	"bufio"
	"bytes"
	"fmt"
	"math"
	"strings"
	"time"

	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/nmea"
)

// Fix is where a receiver says that it is.
type Fix struct {
	At      time.Time
	Geo     field.Geo // height above the sea
	Heading float64   // true, degrees; NaN where none was said
}

// Receiver follows the NMEA 0183 sentences of a position stream: GGA gives the time of
// day, place and height, RMC the date, HDT the heading.
type Receiver struct {
	day     time.Time // of the newest RMC
	last    time.Time
	heading float64
	headed  bool
	waits   []string // a place before the first date
}

// Hear takes one line. A GGA that has a fix, of a day that is known, is a place; every
// other sound sentence is none. What is no sound sentence is an error that says why.
func (r *Receiver) Hear(line string) (Fix, bool, error) {
	f, err := nmea.Open(line)
	if err != nil {
		return Fix{}, false, err
	}
	switch nmea.Kind(f) {
	case "RMC":
		if len(f) < 10 {
			return Fix{}, false, fmt.Errorf("%d fields of an RMC; expected 10 at least", len(f))
		}
		day, err := time.Parse("020106", f[9])
		if err != nil {
			return Fix{}, false, fmt.Errorf("the date is %.10q; expected ddmmyy", f[9])
		}
		first := r.day.IsZero()
		if r.day = day; first && r.waits != nil && r.waits[1] == f[1] { // the place of this moment came before its date
			f, r.waits = r.waits, nil
			return r.gga(f)
		}
	case "HDT":
		if len(f) < 2 {
			return Fix{}, false, fmt.Errorf("%d fields of an HDT; expected 2 at least", len(f))
		}
		v, ok := nmea.Number(f[1])
		if !ok || v > 360 {
			return Fix{}, false, fmt.Errorf("the heading is %.10q; expected 0 to 360", f[1])
		}
		r.heading, r.headed = v, true
	case "GGA":
		return r.gga(f)
	}
	return Fix{}, false, nil
}

// gga takes a GGA sentence, which has the place and the height. It returns a
// fix where the sentence completes one.
func (r *Receiver) gga(f []string) (Fix, bool, error) {
	if len(f) < 11 {
		return Fix{}, false, fmt.Errorf("%d fields of a GGA; expected 11 at least", len(f))
	}
	if f[6] == "" || f[6] == "0" {
		return Fix{}, false, nil // no fix
	}
	if r.day.IsZero() { // nobody knows yet of which day
		r.waits = f
		return Fix{}, false, nil
	}
	tod, ok := timeOfDay(f[1])
	if !ok {
		return Fix{}, false, fmt.Errorf("the time is %.12q; expected hhmmss.sss", f[1])
	}
	x := Fix{At: r.day.Add(tod), Heading: math.NaN()}
	if !r.last.IsZero() && r.last.Sub(x.At) > 12*time.Hour { // past midnight, and the date comes later
		x.At = x.At.AddDate(0, 0, 1)
	}
	var latOK, lonOK bool
	x.Geo.LatDeg, latOK = degreesOf(f[2], 2, f[3], "N", "S")
	x.Geo.LonDeg, lonOK = degreesOf(f[4], 3, f[5], "E", "W")
	if !latOK || !lonOK {
		return Fix{}, false, fmt.Errorf("the place is %.14q %.2q %.14q %.2q; expected ddmm.mm N or S, dddmm.mm E or W", f[2],
			f[3], f[4], f[5])
	}
	below := strings.HasPrefix(f[9], "-")
	alt, ok := nmea.Number(strings.TrimPrefix(f[9], "-"))
	if !ok || f[10] != "M" {
		return Fix{}, false, fmt.Errorf("the height is %.10q %.2q; expected metres", f[9], f[10])
	}
	if x.Geo.AltM = alt; below {
		x.Geo.AltM = -alt
	}
	if r.headed {
		x.Heading = r.heading
	}
	r.last = x.At
	return x, true, nil
}

// timeOfDay reads hhmmss.sss; the second 60 of a leap is the one after it.
func timeOfDay(s string) (time.Duration, bool) {
	v, ok := nmea.Number(s)
	if !ok || len(s) < 6 || strings.Index(s+".", ".") != 6 {
		return 0, false
	}
	h, m, sec := math.Floor(v/10000), math.Mod(math.Floor(v/100), 100), math.Mod(v, 100)
	if h > 23 || m > 59 || sec >= 61 {
		return 0, false
	}
	return time.Duration(h)*time.Hour + time.Duration(m)*time.Minute +
		time.Duration(math.Round(sec*1000))*time.Millisecond, true
}

// degreesOf reads degrees and minutes, the degrees so many digits wide.
func degreesOf(s string, wide int, side, positive, negative string) (float64, bool) {
	if len(s) < wide+2 || side != positive && side != negative {
		return 0, false
	}
	d, ok1 := nmea.Number(s[:wide])
	m, ok2 := nmea.Number(s[wide:])
	if !ok1 || !ok2 || m >= 60 || strings.Contains(s[:wide], ".") {
		return 0, false
	}
	v := d + m/60
	if side == negative {
		v = -v
	}
	return v, true
}

// readNMEA reads a log of sentences. What is no sound sentence is left out and
// counted: a radio drops some; a log of nothing else is an error.
func readNMEA(r sized) (*fixes, error) {
	f := &fixes{heights: AboveSea}
	in := bufio.NewScanner(r)
	in.Buffer(make([]byte, 0, 1024), 1<<16)
	var rec Receiver
	n, dropped, first := 0, 0, error(nil)
	for in.Scan() {
		n++
		line := in.Text()
		if strings.TrimSpace(line) == "" {
			continue
		}
		x, ok, err := rec.Hear(line)
		if err != nil {
			if dropped++; first == nil {
				first = misread.At(n, "NMEA 0183 sentences", "%v", err)
			}
			continue
		}
		if !ok {
			continue
		}
		if err := f.add(fix{line: n, at: x.At, geo: x.Geo, hasAlt: true, heading: x.Heading}); err != nil {
			return nil, err
		}
	}
	if err := in.Err(); err != nil {
		return nil, misread.At(n+1, "a line of 64 kB at most", "%v", err)
	}
	if len(f.list) == 0 && first != nil {
		return nil, first
	}
	if dropped > 0 {
		f.notes = append(f.notes, fmt.Sprintf(msgLinesLeftOut, dropped, n))
	}
	return f, nil
}

// sentences are the GGA and the RMC of sample i, with their check sums.
func (o *outgoing) sentences(i int) string {
	g, at := o.geo(i), o.at(i)
	lat, ns := minutesText(g.LatDeg, 2, "N", "S")
	lon, ew := minutesText(g.LonDeg, 3, "E", "W")
	clock := at.Format("150405.000")
	var b strings.Builder
	if o.t.Heading != nil {
		b.WriteString(nmea.Close(fmt.Sprintf("GPHDT,%.3f,T", o.p.ToTrueHeading(o.t.Heading[i]).Compass())))
	}
	b.WriteString(nmea.Close(fmt.Sprintf("GPGGA,%s,%s,%s,%s,%s,1,12,0.8,%.3f,M,,,,", clock, lat, ns, lon, ew, g.AltM)))
	// After the place: readers that join sentences of one time take a date that
	// comes first for the place before it.
	b.WriteString(nmea.Close(fmt.Sprintf("GPRMC,%s,A,%s,%s,%s,%s,,,%s,,", clock, lat, ns, lon, ew, at.Format("020106"))))
	return b.String()
}

// minutesText writes degrees as ddmm.mmmmmmm, to a fifth of a millimetre.
func minutesText(deg float64, wide int, positive, negative string) (text, side string) {
	side = positive
	if deg < 0 {
		deg, side = -deg, negative
	}
	all := int64(math.Round(deg * 60 * 1e7))
	return fmt.Sprintf("%0*d%02d.%07d", wide, all/(60*1e7), all%(60*1e7)/1e7, all%1e7), side
}

// nmea writes the sentences of every sample; it returns what the format cannot
// hold.
func (o *outgoing) nmea(b *bytes.Buffer) []string {
	for i := range o.t.T {
		b.WriteString(o.sentences(i))
	}
	return []string{msgLostButHeading}
}

// Stream is a track as a position stream says it: the sentences of every
// sample, and when each comes after the first.
func Stream(t *Track, p *field.Plane, start time.Time) (lines []string, after []time.Duration) {
	o := outgoing{t: t, p: p, start: start}
	for i := range t.T {
		lines = append(lines, o.sentences(i))
		after = append(after, time.Duration((t.T[i]-t.T[0])*float64(time.Second)))
	}
	return lines, after
}
