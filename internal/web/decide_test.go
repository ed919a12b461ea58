package web

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
)

// hoverGate is a gate that two days of hovering hold.
const hoverGate = `format: maestrale-gate/1
key: hover-alone
title: Hover alone
alone: true
signed_days: 60
cells:
  - {drill: hover-tail-in, aids: position-hold}
transition: [hover-tail-in]
familiarisation: [hover-tail-in]
`

// keep keeps observed attempts at the tail-in hover: P pass, F fail, a space for the next
// day, the last of them today.
func (s *site) keep(student uuid.UUID, flown string) {
	s.t.Helper()
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		staff, err := tx.Staff(bg)
		if err != nil {
			return err
		}
		at := s.app.Now().Add(-time.Duration(strings.Count(flown, " "))*24*time.Hour - time.Hour)
		for _, c := range flown {
			s.kept++
			if c == ' ' {
				at = at.Add(24 * time.Hour)
				continue
			}
			v := map[rune]score.Verdict{'P': score.Pass, 'F': score.Fail}[c]
			a := store.NewAttempt{StudentID: student, CraftType: "poiana",
				Drill: s.app.Catalogues.Shipped.Drills["hover-tail-in"], By: staff[0].ID, Result: &score.Result{Verdict: v}}
			a.Attempt = record.Attempt{ID: store.NewID().String(), At: at.Add(time.Duration(s.kept) * time.Minute),
				Side: field.NoSide, Aids: craft.PositionHold, Level: 1, CraftClass: craft.Light, Source: score.Observed, Verdict: v,
				Counts: true}
			if _, err := tx.Keep(bg, student, a); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		s.t.Fatal(err)
	}
}

// passOf is a pass of a hover with an id, at a moment.
func passOf(id uuid.UUID, at time.Time, by uuid.UUID) store.NewAttempt {
	a := store.NewAttempt{CraftType: "poiana", Drill: shipped().Drills["hover-tail-in"], By: by,
		Result: &score.Result{Verdict: score.Pass}}
	a.Attempt = record.Attempt{ID: id.String(), At: at, Side: field.NoSide, Aids: craft.PositionHold, Level: 1,
		CraftClass: craft.Light, Source: score.Observed, Verdict: score.Pass, Counts: true}
	return a
}

// The way of a sign-off: who may, when it is ready, with which conditions; the student
// reads and confirms; the card and its public page; a lapse, a withdrawal.
func TestTheWayOfASignOff(t *testing.T) {
	w := newSignOffWay(t)
	w.isRefused()
	w.isSigned()
	w.isReadByTheStudent()
	w.hasACard()
	w.lapses()
	w.isWithdrawn()
	w.isAgainstTheRule()
	w.isInTheRecord()
}

// signOffWay is a sign-off on its way, with those who do something about it.
type signOffWay struct {
	t                     *testing.T
	s                     *site
	chief, teacher, pupil *client
	at, page              string // the student's page, and the gate's
	id, card              string // the sign-off's, and the address of its newest card
}

func newSignOffWay(t *testing.T) *signOffWay {
	s := newSite(t)
	w := &signOffWay{t: t, s: s, chief: s.as(store.Chief), teacher: s.as(store.Instructor), pupil: s.as(store.Learner)}
	if r := w.chief.form("/programmes/write", url.Values{"format": {"maestrale-gate/1"}, "key": {"hover-alone"},
		"source": {hoverGate}, "do": {"keep"}}); r.status != http.StatusSeeOther {
		t.Fatalf("a gate of the school's own: %d %s", r.status, r.body)
	}
	w.at = "/students/" + s.student.String()
	w.page = w.at + "/gates/hover-alone"
	if p := w.pupil.get(w.page); p.status != 200 || !strings.Contains(p.body, "Not yet") || !strings.Contains(p.body,
		"3 attempts at least, all passed, over 2 days") {
		t.Fatalf("%d %s", p.status, p.body)
	}
	return w
}

func (w *signOffWay) sign(c *client, more url.Values) reply {
	v := url.Values{"gate": {"hover-alone"}}
	for k, x := range more {
		v[k] = x
	}
	return c.form(w.at+"/sign-offs", v)
}

func (w *signOffWay) do(c *client, v url.Values) reply { return c.form("/sign-offs/"+w.id, v) }

// isRefused tries everything that is no sign-off.
func (w *signOffWay) isRefused() {
	t, s, chief, teacher, pupil := w.t, w.s, w.chief, w.teacher, w.pupil
	refused := func(name string, r reply, says string) {
		t.Helper()
		if r.status != http.StatusConflict && r.status != http.StatusForbidden || !strings.Contains(r.body, says) ||
			s.count("signoffs") != 0 {
			t.Errorf("%s: %d, %d sign-offs: %v", name, r.status, s.count("signoffs"), strings.Contains(r.body, says))
		}
	}
	refused("by a student", w.sign(pupil, nil), "cannot do this")
	refused("before it is ready", w.sign(chief, nil), "cannot be signed")
	refused("against the rule, without a reason", w.sign(chief, url.Values{"against": {"yes"}, "reason": {"so"}}),
		"in writing")
	s.maySign(time.Now().Add(-time.Hour))
	s.keep(s.student, "PP P")
	refused("by one whose right has ended", w.sign(teacher, nil), "Your right to sign ended")
	s.maySign(time.Now().Add(24 * time.Hour))
	refused("to a day in the past", w.sign(teacher, url.Values{"until": {"2020-01-01"}}), "ends before it begins")
	refused("for longer than the gate allows",
		w.sign(teacher, url.Values{"until": {time.Now().AddDate(1, 0, 0).Format(time.DateOnly)}}), "at most")
	refused("in a wind that is none", w.sign(teacher, url.Values{"wind": {"fresh"}}), "wind could not be read")
}

// isSigned signs what is ready.
func (w *signOffWay) isSigned() {
	t, s, teacher := w.t, w.s, w.teacher
	if r := w.sign(teacher, url.Values{"wind": {"6"}, "site": {"Meadow"}}); r.status != http.StatusSeeOther ||
		s.count("signoffs") != 1 {
		t.Fatalf("%d %s", r.status, r.body)
	}
	p := teacher.get(w.page)
	for _, says := range []string{"Signed</span> by The instructor", "in up to 6.0 m/s of wind (12 kn)", "at Meadow",
		"Not in force yet"} {
		if !strings.Contains(p.body, says) {
			t.Errorf("it does not say %q", says)
		}
	}
	w.id = regexp.MustCompile(`action="/sign-offs/([0-9a-f-]+)"`).FindStringSubmatch(p.body)[1]
}

// isReadByTheStudent lets nobody but the student read the cautions.
func (w *signOffWay) isReadByTheStudent() {
	t, teacher, pupil := w.t, w.teacher, w.pupil
	for name, r := range map[string]reply{
		"an instructor reads for the student": w.do(teacher, url.Values{"do": {"read"}, "cautions": {"read"}}),
		"not ticked":                          w.do(pupil, url.Values{"do": {"read"}}),
		"a card before":                       w.do(teacher, url.Values{"do": {"card"}}),
		"withdrawn without a reason":          w.do(teacher, url.Values{"do": {"withdraw"}}),
		"withdrawn by the student":            w.do(pupil, url.Values{"do": {"withdraw"}, "reason": {"because I may"}}),
		"nonsense":                            w.do(teacher, url.Values{"do": {"dance"}}),
	} {
		if r.status != http.StatusConflict {
			t.Errorf("%s: %d", name, r.status)
		}
	}
	if r := w.do(pupil, url.Values{"do": {"read"}, "cautions": {"read"}}); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, r.body)
	}
}

// hasACard makes a card that a stranger can check, and a second that takes the first one back.
func (w *signOffWay) hasACard() {
	t, s, teacher := w.t, w.s, w.teacher
	card := w.do(teacher, url.Values{"do": {"card"}})
	address := regexp.MustCompile(`/check/[A-Za-z0-9_-]+`).FindString(card.body)
	if card.status != 200 || address == "" || !strings.Contains(card.body, `class="squares"`) {
		t.Fatalf("%d %s", card.status, card.body)
	}
	anybody := s.as("")
	c := anybody.get(address)
	if c.status != 200 || !strings.Contains(c.body, "Stands today") || !strings.Contains(c.body, "First Student") ||
		strings.Contains(c.body, w.at) || strings.Contains(c.body, "/students") {
		t.Errorf("the public w.page: %d %s", c.status, c.body)
	}
	// A new card takes the first one back, and a stranger's address shows nothing.
	w.card = regexp.MustCompile(`/check/[A-Za-z0-9_-]+`).FindString(w.do(teacher, url.Values{"do": {"card"}}).body)
	for _, gone := range []string{address, "/check/nothing"} {
		if r := anybody.get(gone); r.status != http.StatusNotFound || !strings.Contains(r.body, "no longer valid") {
			t.Errorf("%s: %d", gone, r.status)
		}
	}
}

// lapses flies two fails: one leaves it standing; at the second the cell lapses, and the card says so at once.
func (w *signOffWay) lapses() {
	t, s, chief := w.t, w.s, w.chief
	anybody, next := w.s.as(""), w.card
	s.keep(s.student, "F")
	if r := anybody.get(next); strings.Contains(r.body, "Does not stand today") {
		t.Errorf("one fail took the sign-off away: %s", r.body)
	}
	s.keep(s.student, "F")
	if r := anybody.get(next); !strings.Contains(r.body, "Does not stand today") {
		t.Errorf("after a fail: %s", r.body)
	}
	if r := w.sign(chief, nil); r.status != http.StatusConflict || s.count("signoffs") != 1 {
		t.Errorf("a lapsed gate was signed: %d", r.status)
	}
}

// isWithdrawn takes it back, with the reason shown.
func (w *signOffWay) isWithdrawn() {
	t, teacher := w.t, w.teacher
	anybody, next := w.s.as(""), w.card
	why := url.Values{"do": {"withdraw"}, "reason": {"flew over people"}}
	if r := w.do(teacher, why); r.status != http.StatusSeeOther {
		t.Fatalf("%d", r.status)
	}
	if r := anybody.get(next); r.status != http.StatusNotFound {
		t.Errorf("the card of a withdrawn sign-off: %d", r.status)
	}
	if p := teacher.get(w.page); !strings.Contains(p.body, "Withdrawn by The instructor") || !strings.Contains(p.body,
		"flew over people") {
		t.Error("the w.page does not say that it was withdrawn")
	}
}

// isAgainstTheRule signs against the rule: by the chief alone, with the reason shown.
func (w *signOffWay) isAgainstTheRule() {
	t, chief, teacher := w.t, w.chief, w.teacher
	why := url.Values{"against": {"yes"}, "reason": {"flew for years at another school"}}
	if r := w.sign(teacher, why); r.status != http.StatusConflict || !strings.Contains(r.body, "Only the chief") {
		t.Errorf("an instructor signs against the rule: %d", r.status)
	}
	if r := w.sign(chief, why); r.status != http.StatusSeeOther {
		t.Fatalf("%d %s", r.status, r.body)
	}
	if p := teacher.get(w.page); !strings.Contains(p.body, "Override:</b> flew for years at another school") {
		t.Error("the reason is not shown")
	}
}

// isInTheRecord finds everything of it in the chain, and the audit tells it.
func (w *signOffWay) isInTheRecord() {
	t, s, chief := w.t, w.s, w.chief
	var kinds []string
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		chain, err := tx.Chain(bg, s.student)
		for _, l := range chain {
			kinds = append(kinds, l.Kind)
		}
		if broken, verr := record.Verify(chain); verr != nil || broken != 0 {
			t.Errorf("the chain is broken at %d: %v", broken, verr)
		}
		return err
	})
	if got := strings.Join(kinds, " "); err != nil ||
		got != "attempt attempt attempt signoff signoff-read attempt attempt signoff-withdrawn signoff" {
		t.Errorf("%s %v", got, err)
	}
	audit := chief.get("/records/audit?student=" + s.student.String()).body
	for _, says := range []string{"” for light craft", "as an override, because: flew for years",
		"withdrew a sign-off, because: flew over people", "read the cautions", "made a card"} {
		if !strings.Contains(audit, says) {
			t.Errorf("the audit does not say %q", says)
		}
	}
}

// The whole school: what its records come to is worked out once, and anew when something
// is recorded.
func TestTheSchoolView(t *testing.T) {
	s := newSite(t)
	chief := s.as(store.Chief)
	s.keep(s.student, "PP P")
	p := chief.get("/records")
	if p.status != 200 || !strings.Contains(p.body, "First Student") || !strings.Contains(p.body, "1 of "+ladderCells()) ||
		s.count("student_views") != 2 {
		t.Fatalf("%d, %d views", p.status, s.count("student_views"))
	}
	before := queries.n.Load()
	chief.get("/records")
	warm := queries.n.Load() - before
	s.keep(s.student, "F")
	if p := chief.get("/records"); !strings.Contains(p.body, "0 of "+ladderCells()) {
		t.Error("what was recorded since is not there")
	}
	if cold := queries.n.Load() - before - warm; warm > 12 || cold <= warm {
		t.Errorf("%d queries warm, %d where one has changed", warm, cold)
	}
	// The right to sign is given, shown and taken away, by the chief alone.
	staff := regexp.MustCompile(`/people/([0-9a-f-]+)/sign`).FindStringSubmatch(chief.get("/school").body)[1]
	give := func(c *client, until, do string) int {
		return c.form("/people/"+staff+"/sign", url.Values{"until": {until}, "do": {do}}).status
	}
	soon := time.Now().AddDate(0, 1, 0).Format(time.DateOnly)
	if give(s.as(store.Instructor), soon, "give") != http.StatusForbidden || give(chief, "soon", "give") != 422 ||
		give(chief, "2020-01-01", "give") != 422 || give(chief, soon, "give") != http.StatusSeeOther {
		t.Error("the right to sign")
	}
	if p := chief.get("/school"); !strings.Contains(p.body, "Withdraw the right") {
		t.Error("the right is not shown")
	}
	if give(chief, "", "take") != http.StatusSeeOther ||
		strings.Contains(chief.get("/school").body, "Withdraw the right") {
		t.Error("the right was not taken away")
	}
}

// Two instructors who judge the same student at the same drill in the same week
// differently are found; once each is not enough.
func TestVerdictsThatDiffer(t *testing.T) {
	s := newSite(t)
	judge := func(n int) {
		err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
			staff, err := tx.Staff(bg)
			if err != nil {
				return err
			}
			monday := time.Now().UTC().Truncate(24*time.Hour).AddDate(0, 0,
				-int((time.Now().UTC().Weekday()+6)%7)).Add(-6 * 24 * time.Hour).Add(12 * time.Hour)
			k := 0
			for _, a := range staff {
				v := score.Pass
				switch a.Role {
				case store.Instructor:
					v = score.Fail
				case store.Spotter:
					continue
				}
				for range n {
					k++
					x := store.NewAttempt{StudentID: s.student, CraftType: "poiana",
						Drill: s.app.Catalogues.Shipped.Drills["hover-tail-in"], By: a.ID, Result: &score.Result{Verdict: v}}
					x.Attempt = record.Attempt{ID: store.NewID().String(), At: monday.Add(time.Duration(k) * time.Minute),
						Side: field.NoSide, Aids: craft.PositionHold, Level: 1, CraftClass: craft.Light, Source: score.Observed,
						Verdict: v, Counts: true}
					if _, err := tx.Keep(bg, s.student, x); err != nil {
						return err
					}
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	c := s.as(store.Chief)
	judge(1)
	if strings.Contains(c.get("/records").body, "The chief 1 of 1") {
		t.Error("one verdict each is told")
	}
	judge(2)
	if p := c.get("/records").body; !strings.Contains(p, "The chief 3 of 3") || !strings.Contains(p,
		"The instructor 0 of 3") {
		t.Error("they are not told apart")
	}
}

// A lesson is planned, changed, fitted again, kept, and compared with what was flown.
func TestALessonOnThePage(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	at := "/students/" + s.student.String() + "/lesson"
	p := c.get(at)
	if p.status != 200 || !strings.Contains(p.body, "Pack 2") || !strings.Contains(p.body, "has not been flown yet") ||
		!strings.Contains(p.body, "Fly alone with position hold") {
		t.Fatalf("%d %s", p.status, p.body)
	}
	form := url.Values{"packs": {"2"}, "minutes": {"8"}, "aids": {"position-hold"}, "wind": {""}}
	with := func(more url.Values) reply {
		v := url.Values{}
		for _, m := range []url.Values{form, more} {
			for k, x := range m {
				v[k] = x
			}
		}
		return c.form(at, v)
	}
	r := with(url.Values{"add": {"walk-along"}, "add_pack": {"2"}})
	if r.status != 200 || !strings.Contains(r.body, "Walk-along, left") || !strings.Contains(r.body,
		"The instructor chose it.") || strings.Contains(r.body, "Pack 3") {
		t.Errorf("%d %s", r.status, r.body)
	}
	if r := with(url.Values{"keep": {"1 hover-tail-in none position-hold 4"},
		"never": {"ground-effect-hover"}}); !strings.Contains(r.body, "Tail-in hover") ||
		strings.Contains(r.body, "<b>Ground-effect hover</b>") {
		t.Error("what the instructor changed does not stand")
	}
	for name, v := range map[string]url.Values{"packs": {"packs": {"many"}}, "aids": {"aids": {"rate"}},
		"wind": {"wind": {"-3"}}, "minutes": {"minutes": {"0"}}, "drill": {"add": {"loop"}}} {
		if r := with(v); r.status != 422 {
			t.Errorf("%s: %d", name, r.status)
		}
	}
	if r := s.as(store.Learner).form(at, form); r.status != http.StatusForbidden {
		t.Errorf("a student changes it: %d", r.status)
	}
	keep := url.Values{"do": {"keep"}, "id": {uuid.NewString()}, "keep": {"1 hover-tail-in none position-hold 4"}}
	for range 2 {
		if r := with(keep); r.status != http.StatusSeeOther || s.count("lessons") != 1 {
			t.Fatalf("%d, %d lessons", r.status, s.count("lessons"))
		}
	}
	body := hoverMarks(store.NewID().String())
	if r := c.json("/students/"+s.student.String()+"/marks", body); r.status != 200 {
		t.Fatalf("%d %s", r.status, r.body)
	}
	if p := c.get(at); !strings.Contains(p.body, "planned and flown") || !strings.Contains(p.body, "1 of 1 passed") {
		t.Error("it is not compared with what was flown")
	}
}

// A question that is asked on the pad is kept with the attempt; three fails in a session
// bring a quiet line.
func TestQuestionsAndQuietLines(t *testing.T) {
	s := newSite(t)
	c := s.as(store.Instructor)
	body := hoverMarks(store.NewID().String())
	marks := body["marks"].([]any)
	body["marks"] = append(marks[:2:2], append([]any{map[string]any{"id": store.NewID().String(), "t_s": 6,
		"mark": "question"}}, marks[2:]...)...)
	if r := c.json("/students/"+s.student.String()+"/marks", body); r.status != 200 || !strings.Contains(r.body,
		`"verdict":"pass"`) {
		t.Fatalf("%d %s", r.status, r.body)
	}
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		list, err := tx.Attempts(bg, s.student)
		if err == nil && !list[0].Answering {
			t.Error("the question is not kept")
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	s.keep(s.other, "FFF")
	var lines []string
	err = appStore.InSchool(bg, s.school, func(tx store.Tx) (err error) {
		now := s.app.Now().UTC() // in a zone where it is noon: a session is of one date
		noon := time.FixedZone("noon", 12*3600-(now.Hour()*3600+now.Minute()*60+now.Second()))
		lines, err = knowledge.Book{Cat: s.app.Catalogues.Shipped, Now: s.app.Now, Zone: noon}.Advice(bg, tx, s.other)
		return err
	})
	if err != nil || len(lines) != 1 || !strings.Contains(lines[0], "go back to Ground-effect hover") {
		t.Errorf("%q %v", lines, err)
	}
}
