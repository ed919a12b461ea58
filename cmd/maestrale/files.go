package main

import (
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/track"
)

// catalogue returns the shipped catalogue with the school's folder over it.
func catalogue(school string) (*drill.Catalogue, error) {
	cat := drill.Shipped()
	if school == "" {
		return cat, nil
	}
	if st, err := os.Stat(school); err != nil {
		return nil, plain(err)
	} else if !st.IsDir() {
		return nil, fmt.Errorf("%s: is a file; expected the school's folder", school)
	}
	return cat, cat.Add(os.DirFS(school))
}

// place holds the flags that tie a log to a field.
type place struct{ origin, away, course, heights string }

func (p *place) flags(c *cobra.Command) {
	c.Flags().StringVar(&p.origin, "origin", "", "LAT,LON,ALT of the field's origin, for logs in degrees")
	c.Flags().StringVar(&p.away, "away", "", "true direction of the field's y axis in degrees")
	c.Flags().StringVar(&p.heights, "heights", "",
		"what heights of a log in degrees count from, sea or pad; else as the file says")
	c.Flags().StringVar(&p.course, "course", "", "course file (maestrale-course/1)")
}

// read returns the course, nil where none is named, and the plane of the
// flags or of the course.
func (p *place) read(c *cobra.Command) (*course.Course, *field.Plane, error) {
	var laid *course.Course
	var plane *field.Plane
	if p.course != "" {
		f, err := input(c, p.course)
		if err != nil {
			return nil, nil, err
		}
		defer func() { _ = f.Close() }()
		data, err := io.ReadAll(io.LimitReader(f, 2<<20))
		if err != nil {
			return nil, nil, plain(err)
		}
		if laid, err = course.Parse(data); err != nil {
			return nil, nil, misread.InFile(p.course, err)
		}
		plane = laid.Plane
	}
	if p.origin == "" && p.away == "" {
		return laid, plane, nil
	}
	if p.origin == "" || p.away == "" {
		return nil, nil, fmt.Errorf("only one of --origin and --away is given; expected both")
	}
	v, ok := numbers(p.origin, 3)
	if !ok {
		return nil, nil, fmt.Errorf("--origin is %q; expected LAT,LON,ALT in degrees and metres", p.origin)
	}
	away, err := strconv.ParseFloat(p.away, 64)
	if err != nil {
		return nil, nil, fmt.Errorf("--away is %q; expected a true direction in degrees", p.away)
	}
	plane, err = field.NewPlane(field.Geo{LatDeg: v[0], LonDeg: v[1], AltM: v[2]}, away)
	return laid, plane, err
}

func (p *place) readTrack(c *cobra.Command, name string, plane *field.Plane) (*track.Track, error) {
	if p.heights != "" && p.heights != string(track.AboveSea) && p.heights != string(track.AbovePad) {
		return nil, fmt.Errorf("--heights is %q; expected sea or pad", p.heights)
	}
	f, err := input(c, name)
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close() }()
	t, list, err := track.Read(f, track.Options{CSVOptions: track.CSVOptions{Plane: plane},
		Heights: track.Heights(p.heights)})
	if err != nil {
		return nil, misread.InFile(name, err)
	}
	notes(c, name, list)
	return t, nil
}

// craftNamed finds a craft type that --craft names.
func craftNamed(cat *drill.Catalogue, key string) (craft.Type, error) {
	t, ok := cat.Craft[key]
	if !ok {
		return t, fmt.Errorf("--craft is %q; expected one of %s", key, strings.Join(cat.Craft.Keys(), ", "))
	}
	return t, nil
}

// craftOf is the same of a catalogue with the school's folder over it.
func craftOf(school, key string) (*drill.Catalogue, craft.Type, error) {
	cat, err := catalogue(school)
	if err != nil {
		return nil, craft.Type{}, err
	}
	t, err := craftNamed(cat, key)
	return cat, t, err
}

func writeJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetEscapeHTML(false)
	e.SetIndent("", " ")
	if err := e.Encode(v); err != nil {
		return fmt.Errorf("write the result: %w", err)
	}
	return nil
}

// numbers reads so many numbers with commas between them.
func numbers(s string, n int) ([]float64, bool) {
	parts := strings.Split(s, ",")
	out := make([]float64, len(parts))
	for i, p := range parts {
		var err error
		if out[i], err = strconv.ParseFloat(strings.TrimSpace(p), 64); err != nil {
			return nil, false
		}
	}
	return out, len(out) == n
}

func windFlag(s string) (mps, from float64, err error) {
	if mps, from, err = course.ReadWind(s); err != nil {
		err = fmt.Errorf("--wind is %w", err)
	}
	return mps, from, err
}
