package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/internal/attempt"
	"maestrale/internal/store"
)

// smallBox is the box of the light class, all but so much nearer to its centre, and two
// metres to the left of where the template has it.
func smallBox(by float64) *course.Course {
	laid, _ := course.Lay("box", craft.Light)
	for k, p := range laid.Markers {
		laid.Markers[k] = field.Point{X: p.X*by - 2, Y: 6 + (p.Y-6)*by}
	}
	laid.Plane, _ = field.NewPlane(field.Geo{LatDeg: 44.95, LonDeg: 13.05, AltM: 2}, 90)
	return laid
}

// A drill is flown, marked and debriefed on the school's own course: at its markers, and
// smaller where the course is smaller.
func TestADrillOnTheSchoolsOwnCourse(t *testing.T) {
	g := newGround(t, smallBox(0.75))
	teacher := g.as(store.Instructor)
	pad := teacher.padPage("drill=square-banked&side=left&aids=position-hold")
	if !strings.Contains(pad, "on Pan, Course, at 75 % of its size") {
		t.Errorf("the pad does not say on what: %s", pad)
	}
	run := g.flown(teacher, hoverQuery+"&course="+g.course.String(), hovering)
	if !strings.Contains(run, `"course":"`+g.course.String()+`@1"`) {
		t.Fatalf("%.300s", run)
	}
	id := store.NewID().String()
	got, status := g.send(teacher, id, run)
	if status != http.StatusOK || got.Verdict == nil || got.Verdict.Verdict != "pass" {
		t.Fatalf("%d %+v %+v: the pad of this course is two metres to the left", status, got, got.Verdict)
	}
	if page := text(teacher.get("/attempts/" + id).body); !strings.Contains(page, "at Pan") {
		t.Errorf("%s", page)
	}
	// The course changes; what was flown stays judged on what it was flown on.
	if r := teacher.form(g.at("/courses/:course"), url.Values{"do": {"move"}, "what": {"marker:pad"}, "x": {"3"},
		"y": {"7"}}); r.status >= 400 {
		t.Fatalf("%d %s", r.status, text(r.body))
	}
	if again, status := g.send(teacher, id, run); status != http.StatusOK || !again.Kept {
		t.Errorf("%d %+v", status, again)
	}
	var source string
	err := appStore.InSchool(bg, g.school, func(tx store.Tx) error {
		k, err := tx.Attempt(bg, uuid.MustParse(id))
		source = k.CourseSource
		return err
	})
	if laid, perr := attempt.Laid(source); err != nil || perr != nil || laid.Markers["pad"] != (field.Point{X: -2, Y: 6}) {
		t.Errorf("%v %v %s", err, perr, source)
	}
	// A run that claims another course ends elsewhere, one that claims none that is there is refused.
	for what, other := range map[string]string{"another version": "@2", "no course": "@7"} {
		got, status := g.send(teacher, store.NewID().String(), strings.Replace(run, `@1"`, other+`"`, 1))
		if status == http.StatusOK && got.Kept {
			t.Errorf("%s: %d %+v", what, status, got)
		}
	}
	// By eye: the opening keeps the course, and nobody can name one of another school.
	body := hoverMarks(store.NewID().String())
	body["opening"].(map[string]any)["course"] = g.course.String() + "@1"
	if r := teacher.json("/students/"+g.student.String()+"/marks", body); r.status != http.StatusOK {
		t.Errorf("%d %s", r.status, r.body)
	}
	body = hoverMarks(store.NewID().String())
	body["opening"].(map[string]any)["course"] = newGround(t, nil).course.String()
	if r := teacher.json("/students/"+g.student.String()+"/marks", body); r.status != http.StatusUnprocessableEntity ||
		!strings.Contains(r.body, "course") {
		t.Errorf("another school's course: %d %s", r.status, r.body)
	}
}

// Where it cannot be flown it says so and by how much, and the pad marks it as on its
// own course.
func TestADrillThatDoesNotFitTheCourse(t *testing.T) {
	g := newGround(t, smallBox(0.4))
	teacher := g.as(store.Instructor)
	at := "/students/" + g.student.String()
	if r := teacher.get(at + "/fly?drill=square-banked&side=left&aids=position-hold&course=" +
		g.course.String()); r.status != http.StatusUnprocessableEntity ||
		!strings.Contains(text(r.body), "40 % of the size") {
		t.Errorf("%d %s", r.status, text(r.body))
	}
	if pad := teacher.padPage("drill=square-banked&side=left&aids=position-hold"); !strings.Contains(pad,
		"40 % of the size") || !strings.Contains(pad, "marked as on its own course") {
		t.Errorf("%s", pad)
	}
	if r := teacher.get(at + "/fly?drill=square-banked&course=nonsense"); r.status != http.StatusNotFound {
		t.Errorf("%d", r.status)
	}
}

// One who teaches keeps flights of the own: they can be laid beside a student's, and are
// in no list of students.
func TestOwnFlightsOfOneWhoTeaches(t *testing.T) {
	s := newSite(t)
	teacher, learner := s.as(store.Instructor), s.as(store.Learner)
	if r := learner.form("/fly/own", url.Values{"craft": {"poiana"}}); r.status != http.StatusForbidden {
		t.Errorf("a student: %d", r.status)
	}
	r := teacher.form("/fly/own", url.Values{"craft": {"poiana"}})
	own, ok := strings.CutSuffix(strings.TrimPrefix(r.header.Get("Location"), "/students/"), "/fly")
	if r.status != http.StatusSeeOther || !ok {
		t.Fatalf("%d %v", r.status, r.header)
	}
	if again := teacher.form("/fly/own",
		url.Values{"craft": {"poiana"}}); again.header.Get("Location") != r.header.Get("Location") {
		t.Errorf("a second record: %v", again.header)
	}
	student := s.student
	s.student = uuid.MustParse(own)
	shown, id := s.flown(teacher, hoverQuery, hovering), store.NewID().String()
	if got, status := s.send(teacher, id, shown); status != http.StatusOK || !got.Kept {
		t.Fatalf("%d %+v", status, got)
	}
	s.student = student
	mine := store.NewID().String()
	if got, status := s.send(learner, mine, s.flown(learner, strings.Replace(hoverQuery, "seed=4", "seed=5", 1),
		hovering)); status != http.StatusOK || !got.Kept {
		t.Fatalf("%d %+v", status, got)
	}
	page := learner.get("/attempts/" + mine + "?with=" + id)
	if page.status != http.StatusOK || !strings.Contains(text(page.body), "shown by The instructor") ||
		!strings.Contains(page.body, `value="`+id+`" selected`) {
		t.Errorf("%d %s", page.status, text(page.body))
	}
	if r := teacher.get("/students"); r.status != http.StatusOK || strings.Count(text(r.body), "The instructor") > 1 {
		t.Errorf("a teacher among the students: %d %s", r.status, text(r.body))
	}
	if r := learner.get("/attempts/" + id); r.status != http.StatusNotFound && r.status != http.StatusForbidden {
		t.Errorf("the teacher's own record: %d", r.status)
	}
}
