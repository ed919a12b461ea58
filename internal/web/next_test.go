package web

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"html"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"maestrale/core/drill"
	"maestrale/core/marking"
	"maestrale/core/orient"
	"maestrale/core/plan"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/store"
)

// keepRandom keeps attempts at what the ladder asks for, on several days up to today.
func (s *site) keepRandom(r *rand.Rand, n int) {
	s.t.Helper()
	cells := shipped().Programmes["position-hold-first"].Cells()
	err := appStore.InSchool(bg, s.school, func(tx store.Tx) error {
		staff, err := tx.Staff(bg)
		if err != nil {
			return err
		}
		for i := range n {
			c := cells[r.IntN(min(len(cells), 4+n/4))]
			v := []score.Verdict{score.Pass, score.Pass, score.Fail}[r.IntN(3)]
			a := store.NewAttempt{StudentID: s.student, CraftType: "poiana", Drill: shipped().Drills[c.Drill], By: staff[0].ID,
				Result: &score.Result{Verdict: v}}
			a.Attempt = record.Attempt{ID: store.NewID().String(), At: s.app.Now().Add(-time.Duration(n-i) * 5 * time.Hour),
				Side: c.Side, Aids: c.Aids, Level: 1, CraftClass: "light", Source: score.Observed, Verdict: v, Counts: true}
			if _, err := tx.Keep(bg, s.student, a); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		s.t.Fatal(err)
	}
}

func item(drillKey, side, aids string) string { return drillKey + "/" + side + "/" + aids }

// Whoever asks what comes next for a student has the same answer: the list of students, the student's page, the lesson,
// the pad, the pad's day on a device, the simulator, the student's own phone, and the command line with the exported
// record. Each is read as it is shown, in several states of learning.
func TestOneAnswerToWhatNext(t *testing.T) {
	program := filepath.Join(t.TempDir(), "maestrale")
	if out, err := exec.Command("go", "build", "-o", program, "maestrale/cmd/maestrale").CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	for seed := range uint64(4) {
		s := newSite(t)
		s.keepRandom(rand.New(rand.NewPCG(seed, 20)), 2+int(seed)*14)
		teacher, own := s.as(store.Instructor), s.as(store.Learner)
		desk, err := marking.Open([]byte(teacher.get("/pad/day").body))
		if err != nil {
			t.Fatal(err)
		}
		var want drill.Cell
		for _, row := range desk.Rows(s.app.Now()) {
			if row.ID == s.student.String() {
				want = row.Next
			}
		}
		if want.Drill == "" {
			t.Fatal("the device says nothing")
		}
		words := shipped().CellWords(want)
		query := fmt.Sprintf("drill=%s&side=%s&aids=%s", want.Drill, want.Side, want.Aids)
		text := func(c *client, path string) string {
			r := c.get(path)
			if r.status != 200 {
				t.Fatalf("%s: %d", path, r.status)
			}
			return html.UnescapeString(r.body)
		}
		base := "/students/" + s.student.String()
		if page := text(teacher, "/students"); !strings.Contains(page, "<td>"+words+"</td>") {
			t.Errorf("seed %d: the list of students does not say %q", seed, words)
		}
		first := regexp.MustCompile(`(?s)What next</h2><ol[^>]*><li><a[^>]*><b>([^<]*)</b>`).FindStringSubmatch(text(teacher,
			base))
		if first == nil || first[1] != words {
			t.Errorf("seed %d: the student's page says %q, the device %q", seed, first, words)
		}
		mark := regexp.MustCompile(base + `/mark\?[^"]*`).FindString(text(teacher, base+"/lesson"))
		for _, part := range strings.Split(query, "&") {
			if !strings.Contains(mark, part) {
				t.Errorf("seed %d: the lesson begins with %s, the device with %s", seed, mark, query)
			}
		}
		title := shipped().TitleOf(want.Drill, want.Side)
		if at := teacher.get(base + "/mark").header.Get("Location"); !strings.HasSuffix(at, query+"&level=1") {
			t.Errorf("seed %d: the pad opens with %s, and not with %s", seed, at, query)
		}
		if page := text(teacher, base+"/fly"); !strings.Contains(page, title) {
			t.Errorf("seed %d: the simulator does not open with %q", seed, title)
		}
		if page := text(own, base); !strings.Contains(page, "Tonight in the simulator") || !strings.Contains(page,
			">"+words+"</a>") {
			t.Errorf("seed %d: the student's own page does not say %q", seed, words)
		}
		s.commandAgrees(t, program, teacher, want)
	}
}

// commandAgrees plans a lesson of the exported record by the program.
func (s *site) commandAgrees(t *testing.T, program string, teacher *client, want drill.Cell) {
	t.Helper()
	file := filepath.Join(t.TempDir(), "record.json")
	if err := os.WriteFile(file, []byte(teacher.get("/students/"+s.student.String()+"/record/record.json").body),
		0o600); err != nil {
		t.Fatal(err)
	}
	// The program is told what no record says: how far the nose of that craft is told without any calls, and the moment.
	sight, err := orient.SightOf(shipped().Craft["poiana"].CueSpaceM, 1, orient.Day, nil)
	if err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command(program, "lesson", "--record", file, "--craft", "poiana", "--packs",
		fmt.Sprint(plan.UsualPacks), "--pack-minutes", fmt.Sprint(plan.UsualMinutes), "--tell", fmt.Sprint(sight.TellM),
		"--at",
		s.app.Now().Format(time.RFC3339Nano)).Output()
	if wrong, ok := errors.AsType[*exec.ExitError](err); ok {
		t.Fatalf("%v: %s", err, wrong.Stderr)
	}
	var doc plan.LessonDocument
	if err := json.NewDecoder(bytes.NewReader(out)).Decode(&doc); err != nil || len(doc.Blocks) == 0 {
		t.Fatalf("%v: %s", err, out)
	}
	b := doc.Blocks[0]
	if got := item(b.Drill, string(b.Side), string(b.Aids)); got != item(want.Drill, string(want.Side),
		string(want.Aids)) {
		t.Errorf("the command says %s, the device %+v", got, want)
	}
}
