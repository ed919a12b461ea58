package main

import (
	"fmt"
	"io"
	"path/filepath"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/misread"
	"maestrale/core/pack"
)

// courseOutput is maestrale-course-survey/1.
type courseOutput struct {
	Format     string            `json:"format"`
	Craft      string            `json:"craft"`
	Aids       string            `json:"aids"`
	Markers    []markerOutput    `json:"markers"`
	Tapes      []tapeOutput      `json:"tapes"`
	Sights     []sightOutput     `json:"sight_lines"`
	Sun        *sunOutput        `json:"sun,omitempty"`
	Wind       *windOutput       `json:"wind,omitempty"`
	Clearances []clearanceOutput `json:"clearances"`
	Advice     adviceOutput      `json:"advice"`
	Return     returnOutput      `json:"return_height"`
	StopM      float64           `json:"stop_m"`
	FallM      float64           `json:"fall_m"`
	TurnAway   string            `json:"turn_away,omitempty"`
	NotLaid    []string          `json:"not_laid"`
}

type markerOutput struct {
	Marker     string  `json:"marker"`
	XM         float64 `json:"x_m"`
	YM         float64 `json:"y_m"`
	DistM      float64 `json:"distance_m"`
	BearingDeg float64 `json:"bearing_deg"`
	Paces      float64 `json:"paces"`
}
type tapeOutput struct {
	From     string  `json:"from"`
	To       string  `json:"to"`
	LengthM  float64 `json:"length_m"`
	Diagonal bool    `json:"diagonal"`
}
type sightOutput struct {
	Drill   string  `json:"drill"`
	DistM   float64 `json:"distance_m"`
	FlownM  float64 `json:"flown_m"`
	SkyM    float64 `json:"sky_from_m"`
	Behind  string  `json:"behind"`
	Against bool    `json:"against_sky"`
}
type sunOutput struct {
	Begins  string   `json:"begins"`
	Ends    string   `json:"ends"`
	Any     bool     `json:"glare"`
	FromDeg float64  `json:"sector_from_deg"`
	ToDeg   float64  `json:"sector_to_deg"`
	LowDeg  float64  `json:"lowest_deg"`
	HighDeg float64  `json:"highest_deg"`
	Blinded []string `json:"drills_in_glare"`
}
type windOutput struct {
	Mps     float64 `json:"mps"`
	FromDeg float64 `json:"from_deg"`
	TurnDeg float64 `json:"turn_to_bring_behind_deg"`
	Behind  bool    `json:"behind"`
}
type clearanceOutput struct {
	Drill string  `json:"drill"`
	To    string  `json:"to"`
	DistM float64 `json:"distance_m"`
	LeftM float64 `json:"left_m"`
	Warn  bool    `json:"warn"`
	Text  string  `json:"text"`
}
type adviceOutput struct {
	OK      bool     `json:"clear"`
	TurnDeg *float64 `json:"turn_deg,omitempty"`
	MoveM   float64  `json:"move_m,omitempty"`
	Toward  string   `json:"toward,omitempty"`
	From    string   `json:"from,omitempty"`
}
type returnOutput struct {
	HeightM   float64 `json:"height_m"`
	HeightFt  float64 `json:"height_ft"`
	Over      string  `json:"over"`
	TallestM  float64 `json:"tallest_m"`
	AnywhereM float64 `json:"anywhere_m"`
}

type courseFlags struct {
	course, template, class, craftKey, aids, wind, at, until, school, format, to string
	pace, eye, elevation                                                         float64
}

func courseCommand() *cobra.Command {
	var p courseFlags
	c := &cobra.Command{
		Use: "course (--course FILE | --template KEY --class C) [--craft KEY --aids A] [--wind MPS@FROM_DEG] [--at TIME " +
			"--until TIME] [--to yaml|geojson|kml|gpx]",
		Short: "Course geometry, sight line, sun, clearances; and the course between formats",
		Args:  cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&p.course, "course", "", "course file: YAML, GeoJSON or KML by its ending")
	f.StringVar(&p.template, "template", "", "lay a template: "+strings.Join(course.TemplateKeys(), ", "))
	f.StringVar(&p.class, "class", "light", "craft class of the template")
	f.StringVar(&p.craftKey, "craft", "poiana", "key of the craft type")
	f.StringVar(&p.aids, "aids", "", "aids it is flown with (default the most it has)")
	f.StringVar(&p.wind, "wind", "", "MPS@FROM_DEG in field headings: 180 is from behind the pilot")
	f.StringVar(&p.at, "at", "", "beginning of the session, RFC 3339, for the sun")
	f.StringVar(&p.until, "until", "", "end of the session (default an hour later)")
	f.Float64Var(&p.pace, "pace", 0.75, "length of a pace in metres")
	f.Float64Var(&p.eye, "eye", course.EyeM, "height of the pilot's eye in metres")
	f.Float64Var(&p.elevation, "elevation", 0, "metres above sea level, where the course has no origin")
	f.StringVar(&p.to, "to", "", "write the course as yaml, geojson, kml or gpx instead")
	f.StringVar(&p.school, "school", "", "folder of the school's own YAML files")
	f.StringVar(&p.format, "format", "json", "json or table")
	c.RunE = func(c *cobra.Command, _ []string) error {
		laid, err := p.read(c)
		if err != nil {
			return err
		}
		if p.to != "" {
			return p.write(c, laid)
		}
		out, err := p.survey(laid)
		if err != nil {
			return err
		}
		if p.format == "table" {
			return courseTable(c, out)
		}
		return writeJSON(c.OutOrStdout(), out)
	}
	return c
}

func (p courseFlags) read(c *cobra.Command) (*course.Course, error) {
	switch {
	case p.format != "json" && p.format != "table":
		return nil, fmt.Errorf("--format is %q; expected json or table", p.format)
	case (p.course == "") == (p.template == ""):
		return nil, fmt.Errorf("expected either --course FILE or --template KEY")
	case p.template != "":
		laid, ok := course.Lay(p.template, craft.Class(p.class))
		if !ok {
			return nil, fmt.Errorf("--template is %q; expected one of %s", p.template, strings.Join(course.TemplateKeys(), ", "))
		}
		if !containsClass(p.class) {
			return nil, fmt.Errorf("--class is %q; expected one of %v", p.class, craft.Classes)
		}
		return laid, nil
	}
	f, err := input(c, p.course)
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close() }()
	data, err := io.ReadAll(io.LimitReader(f, course.MaxFile+1))
	if err != nil {
		return nil, plain(err)
	}
	var laid *course.Course
	var left []string
	switch strings.ToLower(filepath.Ext(p.course)) {
	case ".geojson", ".json":
		laid, left, err = course.ReadGeoJSON(data, nil)
	case ".kml":
		laid, left, err = course.ReadKML(data, nil)
	default:
		laid, err = course.Parse(data)
	}
	if err != nil {
		return nil, misread.InFile(p.course, err)
	}
	notes(c, p.course, left)
	return laid, nil
}

func containsClass(class string) bool {
	for _, c := range craft.Classes {
		if string(c) == class {
			return true
		}
	}
	return false
}

func (p courseFlags) write(c *cobra.Command, laid *course.Course) error {
	f := map[string]func() ([]byte, error){"yaml": laid.YAML, "geojson": laid.GeoJSON, "kml": laid.KML,
		"gpx": laid.GPX}[p.to]
	if f == nil {
		return fmt.Errorf("--to is %q; expected yaml, geojson, kml or gpx", p.to)
	}
	data, err := f()
	if err != nil {
		return err
	}
	_, err = c.OutOrStdout().Write(data)
	return err
}

func (p courseFlags) ask(laid *course.Course, cat *drill.Catalogue) (course.Ask, []string, error) {
	t, err := craftNamed(cat, p.craftKey)
	if err != nil {
		return course.Ask{}, nil, err
	}
	aids := t.Aids[0]
	if p.aids != "" {
		if aids = craft.Aids(p.aids); !t.Has(aids) {
			return course.Ask{}, nil, fmt.Errorf("--aids is %q; expected one of %v", p.aids, append(t.Aids, t.OptionalAids...))
		}
	}
	if !(p.pace >= 0.3 && p.pace <= 1.5) || !(p.eye >= 0.5 && p.eye <= 20) {
		return course.Ask{}, nil, fmt.Errorf("--pace %v and --eye %v; expected 0.3 to 1.5 and 0.5 to 20 m", p.pace, p.eye)
	}
	alt := p.elevation
	if laid.Plane != nil {
		alt = laid.Plane.Origin().AltM
	}
	density, err := pack.StandardDensity(alt, nil)
	if err != nil {
		return course.Ask{}, nil, err
	}
	a := course.Ask{Craft: t, Aids: aids, Density: density, PaceM: p.pace, EyeM: p.eye}
	if p.wind != "" {
		mps, from, err := windFlag(p.wind)
		if err != nil {
			return a, nil, err
		}
		a.WindMps, a.WindFrom, a.WindKnown = mps, field.Degrees(from), true
	}
	if p.at != "" {
		if a.From, err = time.Parse(time.RFC3339, p.at); err != nil {
			return a, nil, fmt.Errorf("--at is %q; expected RFC 3339, as 2026-05-01T09:00:00+02:00", p.at)
		}
		a.To = a.From.Add(time.Hour)
		if p.until != "" {
			if a.To, err = time.Parse(time.RFC3339, p.until); err != nil {
				return a, nil, fmt.Errorf("--until is %q; expected RFC 3339, as 2026-05-01T12:00:00+02:00", p.until)
			}
		}
	}
	var not []string
	a.Envelopes, not = cat.Rooms(laid, t.Class(), aids)
	return a, not, nil
}

func (p courseFlags) survey(laid *course.Course) (out courseOutput, err error) {
	cat, err := catalogue(p.school)
	if err != nil {
		return out, err
	}
	a, not, err := p.ask(laid, cat)
	if err != nil {
		return out, err
	}
	s, err := laid.SurveyOf(a)
	if err != nil && p.course != "" {
		err = fmt.Errorf("%s: %w", p.course, err)
	}
	if err != nil {
		return out, err
	}
	out = courseOutput{Format: "maestrale-course-survey/1", Craft: a.Craft.Key, Aids: string(a.Aids), StopM: s.StopM,
		FallM: s.FallM, TurnAway: s.AwayWord, NotLaid: not,
		Return: returnOutput{s.Return.HeightM, course.Feet(s.Return.HeightM), s.Return.Tallest, s.Return.TallestM,
			s.Return.AnywhereM},
		Advice: adviceOutput{OK: s.Advice.OK, MoveM: s.Advice.MoveM, Toward: s.Advice.Toward,
			From: s.Advice.From}, Clearances: []clearanceOutput{}, Sights: []sightOutput{}, Tapes: []tapeOutput{},
		Markers: []markerOutput{}}
	if s.Advice.Found {
		deg := s.Advice.Turn.Deg()
		out.Advice.TurnDeg = &deg
	}
	for _, l := range s.Legs {
		out.Markers = append(out.Markers, markerOutput{l.Marker, l.At.X, l.At.Y, l.DistM, l.Bearing.Compass(), l.Paces})
	}
	for _, t := range s.Tapes {
		out.Tapes = append(out.Tapes, tapeOutput{t.A, t.B, t.LengthM, t.Diagonal})
	}
	for _, k := range s.Sights {
		out.Sights = append(out.Sights, sightOutput{k.Title, k.DistM, k.FlownM, k.LowestM, k.Behind, k.Against})
	}
	for _, k := range s.Clearances {
		out.Clearances = append(out.Clearances, clearanceOutput{k.Title, k.Name, k.DistM, k.LeftM, k.Warn(), k.Says()})
	}
	if a.WindKnown {
		out.Wind = &windOutput{a.WindMps, a.WindFrom.Compass(), s.WindTurn.Deg(), course.IsBehind(a.WindFrom)}
	}
	if g := s.Glare; g != nil {
		out.Sun = &sunOutput{Begins: a.From.Format(time.RFC3339), Ends: a.To.Format(time.RFC3339), Any: g.Any,
			FromDeg: g.From.Compass(), ToDeg: g.To.Compass(), LowDeg: g.Low.Deg(), HighDeg: g.High.Deg(),
			Blinded: append([]string{}, s.Blinded...)}
	} else if p.at != "" {
		return out, fmt.Errorf("the sun: %s; expected origin and away_deg in the course", s.GlareWhy)
	}
	return out, nil
}

func courseTable(c *cobra.Command, o courseOutput) error {
	w := tabwriter.NewWriter(c.OutOrStdout(), 0, 4, 2, ' ', 0)
	for _, m := range o.Markers {
		fmt.Fprintf(w, "%s\t%.1f m\t%.0f paces\tbearing %.0f°\n", m.Marker, m.DistM, m.Paces, m.BearingDeg)
	}
	for _, t := range o.Tapes {
		fmt.Fprintf(w, "tape %s – %s\t%.2f m\t\t\n", t.From, t.To, t.LengthM)
	}
	for _, s := range o.Sights {
		fmt.Fprintf(w, "%s\tflown at %.1f m\tsky from %.1f m\t%s\n", s.Drill, s.FlownM, s.SkyM, s.Behind)
	}
	for _, k := range o.Clearances {
		sign := "clear"
		if k.Warn {
			sign = "WARNING"
		}
		fmt.Fprintf(w, "%s\t%s\t\t\n", sign, k.Text)
	}
	fmt.Fprintf(w, "return height\t%.0f m (%.0f ft)\t%s\t\n", o.Return.HeightM, o.Return.HeightFt, o.Return.Over)
	fmt.Fprintf(w, "stops in\t%.1f m\tcould fall %.1f m\t\n", o.StopM, o.FallM)
	return w.Flush()
}
