package attempt

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/internal/store"
)

// Course is the course on which something is flown: a version of one of the school's courses or, when it is empty,
// the drill's own template.
type Course struct {
	Key    string // id@version
	Name   string
	Site   string
	Source string
	Laid   *course.Course
}

// CourseAt finds the course that a key names: its version, or the newest if it names none. The key "day" is the
// course of the day; it is empty if there is none.
func CourseAt(ctx context.Context, tx store.Tx, key string) (Course, error) {
	if key == "day" {
		set, err := tx.Settings(ctx)
		if err != nil || set.CourseID == nil {
			return Course{}, err
		}
		key = set.CourseID.String()
	}
	if key == "" {
		return Course{}, nil
	}
	name, version, exact := strings.Cut(key, "@")
	id, err := uuid.Parse(name)
	if err != nil {
		return Course{}, store.ErrNotFound
	}
	k, err := tx.Course(ctx, id)
	if err != nil {
		return Course{}, err
	}
	if !exact {
		return CourseOf(k)
	}
	seq, err := strconv.Atoi(version)
	if err != nil {
		return Course{}, store.ErrNotFound
	}
	source, err := tx.VersionSource(ctx, id, seq)
	if err != nil {
		return Course{}, err
	}
	return courseFrom(k, source, seq)
}

// CourseOf is a course as it stands now.
func CourseOf(k store.Course) (Course, error) { return courseFrom(k, k.Source, k.Seq) }

func courseFrom(k store.Course, source string, seq int) (Course, error) {
	laid, err := Laid(source)
	return Course{Key: k.ID.String() + "@" + strconv.Itoa(seq), Name: k.Site + ", " + k.Name, Site: k.Site,
		Source: source, Laid: laid}, err
}

// Laid reads a course as it was stored; it is nil for an empty source, which is the drill's own template.
func Laid(source string) (*course.Course, error) {
	if source == "" {
		return nil, nil //nolint:nilnil // the drill's template
	}
	laid, err := course.Parse([]byte(source))
	if err != nil {
		return nil, fmt.Errorf("the course as it was laid out: %w", err)
	}
	return laid, nil
}

// For is the course if the drill fits it, and otherwise the empty Course; why says why not.
func (g Course) For(d drill.Drill, class craft.Class) (on Course, why string) {
	if g.Laid == nil {
		return Course{}, ""
	}
	if err := d.Fits(class, g.Laid); err != nil {
		return Course{}, "not on " + g.Name + ": " + err.Error()
	}
	return g, ""
}

// Words say on which course a task is flown; they are empty for the drill's own.
func (g Course) Words(t drill.Task) string {
	switch {
	case g.Laid == nil:
		return ""
	case t.Scale < 1:
		return fmt.Sprintf(msgOnAtOf, g.Name, 100*t.Scale)
	}
	return "on " + g.Name
}
