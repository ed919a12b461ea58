package main

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/misread"
	"maestrale/core/plan"
	"maestrale/core/readiness"
	"maestrale/core/record"
)

// readRecord reads the record that a command works on.
func readRecord(c *cobra.Command, file string) (*record.Record, error) {
	if file == "" {
		return nil, fmt.Errorf("no --record is given; expected a maestrale-record/1 file")
	}
	f, err := input(c, file)
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close() }()
	rec, left, err := record.Read(f)
	if err != nil {
		return nil, misread.InFile(file, err)
	}
	notes(c, file, left)
	return rec, nil
}

// readAt reads a moment; the zero time where none is given.
func readAt(at string) (time.Time, error) {
	if at == "" {
		return time.Time{}, nil
	}
	t, err := time.Parse(time.RFC3339Nano, at)
	if err != nil {
		return t, fmt.Errorf("--at is %q; expected a time as 2026-03-02T09:14:00Z", at)
	}
	return t, nil
}

func lessonCommand() *cobra.Command {
	var file, at, class, aids, wind, school, craftKey, programme string
	var never []string
	var tense bool
	ask := plan.LessonAsk{}
	c := &cobra.Command{
		Use:   "lesson --record FILE --craft-class C --aids A --packs N --pack-minutes M [--wind MPS[@FROM_DEG]] [--at TIME]",
		Short: "Plans a student's next lesson from a record, toward the next gate",
		Args:  cobra.NoArgs,
	}
	f := c.Flags()
	f.StringVar(&file, "record", "", "the record (maestrale-record/1)")
	f.StringVar(&class, "craft-class", "", "micro, light, medium or heavy")
	f.StringVar(&craftKey, "craft", "", "the craft that is flown, in the place of its class")
	f.StringVar(&aids, "aids", "",
		"the fewest aids; with --craft, where not given, those of the lowest rung that is not held")
	f.IntVar(&ask.Packs, "packs", 3, "packs")
	f.Float64Var(&ask.PackMinutes, "pack-minutes", 8, "minutes that a pack flies")
	f.StringVar(&wind, "wind", "", "mean wind, with its field heading where that is known; not given = not known")
	f.Float64Var(&ask.TellM, "tell", 0,
		"how far the student tells the craft's nose, in m: drills beyond are left out; 0 = not known")
	f.StringVar(&at, "at", "", "when; the newest attempt's time where not given")
	f.StringVar(&programme, "programme", "", "another programme than the record's")
	f.StringSliceVar(&never, "never", nil, "drills that are not to be flown")
	f.BoolVar(&tense, "tense", false, "the student is tense: short blocks")
	f.StringVar(&school, "school", "", "folder of the school's own YAML files")
	c.RunE = func(c *cobra.Command, _ []string) error {
		cat, err := catalogue(school)
		if err != nil {
			return err
		}
		rec, err := readRecord(c, file)
		if err != nil {
			return err
		}
		when, loc, err := lessonTime(rec, at)
		if err != nil {
			return err
		}
		ask.Class, ask.Aids, ask.Tense, ask.Never, ask.WindMps = craft.Class(class), craft.Aids(aids), tense, never, -1
		if err := flownOn(&ask, cat, craftKey, wind); err != nil {
			return err
		}
		if programme == "" {
			programme = rec.Ladder
		}
		if _, ok := cat.Programmes[programme]; !ok {
			return fmt.Errorf("the programme is %q; expected one of %s, in the record or with --programme", programme,
				strings.Join(cat.ProgrammeKeys(), ", "))
		}
		known := readiness.Know(cat, programme, craftKey, readiness.Sort(rec.Attempts, cat.Drills, when, loc), rec.Witnessed,
			rec.SignOffs)
		l, err := plan.PlanLesson(withUsualAids(ask, known), known, rec.Practice)
		if err != nil {
			return err
		}
		return writeJSON(c.OutOrStdout(), l.Document())
	}
	return c
}

// withUsualAids fills in the aids of a lesson on a craft that is named, where none were said.
func withUsualAids(ask plan.LessonAsk, known *readiness.Known) plan.LessonAsk {
	if ask.Aids == "" && ask.Type != nil {
		ask.Aids = plan.LessonAids(known)
	}
	return ask
}

// flownOn sets the craft of --craft, in the place of its class, and the wind of --wind; what is empty is left as it is.
func flownOn(ask *plan.LessonAsk, cat *drill.Catalogue, craftKey, wind string) error {
	if craftKey != "" {
		t, err := craftNamed(cat, craftKey)
		if err != nil {
			return err
		}
		ask.Type, ask.Class = &t, t.Class()
	}
	if wind != "" {
		w, from, err := lessonWind(wind)
		if err != nil {
			return err
		}
		ask.WindMps, ask.WindFrom = w, from
	}
	return nil
}

// lessonTime is when the lesson is: as asked, or the newest attempt's time, in the record's zone.
func lessonTime(rec *record.Record, at string) (when time.Time, loc *time.Location, err error) {
	if when, err = readAt(at); err != nil {
		return when, nil, err
	}
	if loc, err = rec.Location(); err != nil {
		return when, nil, err
	}
	for i := range rec.Attempts {
		if t := rec.Attempts[i].At; at == "" && t.After(when) {
			when = t
		}
	}
	return when.In(loc), loc, nil
}

// lessonWind reads MPS or MPS@FROM_DEG.
func lessonWind(text string) (mps float64, from *float64, err error) {
	speed, deg, with := strings.Cut(text, "@")
	mps, err = strconv.ParseFloat(strings.TrimSpace(speed), 64)
	if err == nil && !(mps >= 0 && mps <= 80) {
		err = strconv.ErrRange
	}
	if err == nil && with {
		var d float64
		if d, err = strconv.ParseFloat(strings.TrimSpace(deg), 64); err == nil && !(d >= -360 && d <= 360) {
			err = strconv.ErrRange
		}
		from = &d
	}
	if err != nil {
		return 0, nil, fmt.Errorf("--wind is %.60q; expected MPS from 0 to 80, or MPS@FROM_DEG in field headings", text)
	}
	return mps, from, nil
}
