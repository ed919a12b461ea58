package store

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/localpg"
)

var (
	owner string
	db    *Store
	ctx   = context.Background()
)

func TestMain(m *testing.M) {
	u, end, err := localpg.ForTest()
	if err == nil {
		owner = u
		err = Migrate(ctx, owner)
	}
	if err == nil {
		db, err = Open(ctx, owner, nil)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	code := m.Run()
	db.Close()
	end()
	os.Exit(code)
}

// testSchool is a testSchool with one instructor and one student.
type testSchool struct{ id, instructor, student uuid.UUID }

func newSchool(t testing.TB) testSchool {
	t.Helper()
	s := testSchool{NewID(), NewID(), NewID()}
	if err := AddSchool(ctx, owner, s.id, "School "+s.id.String(), "Europe/Rome"); err != nil {
		t.Fatal(err)
	}
	s.in(t, func(tx Tx) error {
		if err := tx.AddStudent(ctx, Student{ID: s.student, Name: "A student", Programme: "hands-first", CraftType: "gheppio",
			StartedOn: time.Now()}); err != nil {
			return err
		}
		return tx.AddAccount(ctx, Account{ID: s.instructor, Email: s.instructor.String() + "@x.example",
			Name: "An instructor", Role: Instructor, PasswordHash: "x"})
	})
	return s
}

func (s testSchool) in(t testing.TB, f func(Tx) error) {
	t.Helper()
	if err := db.InSchool(ctx, s.id, f); err != nil {
		t.Fatal(err)
	}
}

func (s testSchool) attempt(verdict score.Verdict, at time.Time) NewAttempt {
	d, err := drill.Shipped().Drill("hover-tail-in")
	if err != nil {
		panic(err)
	}
	return NewAttempt{StudentID: s.student, CraftType: "gheppio", Drill: d, By: s.instructor,
		Result: &score.Result{Verdict: verdict, AspectS: [field.Sectors]float64{20}},
		Attempt: record.Attempt{ID: NewID().String(), At: at, Drill: d.Key, Side: field.NoSide, Aids: craft.SelfLevel,
			CraftClass: craft.Light, Source: score.Observed, Level: 1, Verdict: verdict, Counts: true}}
}

func (s testSchool) keep(t testing.TB, list ...NewAttempt) {
	t.Helper()
	s.in(t, func(tx Tx) error {
		_, err := tx.Keep(ctx, s.student, list...)
		return err
	})
}

func TestSchoolsAreApartEvenWithAWrongQuery(t *testing.T) {
	a, b := newSchool(t), newSchool(t)
	a.keep(t, a.attempt(score.Pass, time.Now()), a.attempt(score.Fail, time.Now()))
	b.keep(t, b.attempt(score.Pass, time.Now()))
	b.in(t, func(tx Tx) error {
		for table, want := range map[string]int{"attempts": 1, "chain": 1, "students": 1, "accounts": 1, "schools": 1,
			"marks": 0} {
			var n int
			if err := tx.QueryRow(ctx, "SELECT count(*) FROM "+table).Scan(&n); err != nil || n != want {
				t.Errorf("all of %s, asked from one school: %d rows, want %d (%v)", table, n, want, err)
			}
		}
		var n int
		if err := tx.QueryRow(ctx, "SELECT count(*) FROM attempts WHERE student_id = $1", a.student).Scan(&n); err != nil ||
			n != 0 {
			t.Errorf("another school's student, by id: %d rows, %v", n, err)
		}
		if _, err := tx.Student(ctx, a.student); !errors.Is(err, ErrNotFound) {
			t.Errorf("another school's student: %v", err)
		}
		if _, err := tx.Attempts(ctx, a.student); err != nil {
			t.Error(err)
		}
		return nil
	})
	// Without a school there is nothing at all.
	var n int
	if err := db.pool.QueryRow(ctx, "SELECT count(*) FROM attempts").Scan(&n); err != nil || n != 0 {
		t.Errorf("attempts without a school: %d, %v", n, err)
	}
	// Writing into another school is refused by the database.
	err := db.InSchool(ctx, b.id, func(tx Tx) error {
		_, err := tx.Exec(ctx, "INSERT INTO students (id, school_id, name, programme, craft_type, started_on) VALUES ($1, "+
			"$2, 'x', 'x', 'x', now())", NewID(), a.id)
		return err
	})
	if err == nil || !strings.Contains(err.Error(), "row-level security") {
		t.Errorf("a student for another school: %v", err)
	}
	err = db.InSchool(ctx, b.id, func(tx Tx) error {
		_, err := tx.Keep(ctx, a.student, a.attempt(score.Pass, time.Now()))
		return err
	})
	if !errors.Is(err, ErrNotFound) {
		t.Errorf("an attempt of another school's student: %v", err)
	}
}

// Row security asks which school it is once a query: asked once a row, it would take most of the time of a page.
func TestRowSecurityAsksOnceAQuery(t *testing.T) {
	rows, err := db.pool.Query(ctx, `SELECT tablename, qual, coalesce(with_check, qual) FROM pg_policies
		WHERE schemaname = $1`, Schema)
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	var table, reads, writes string
	if _, err := pgx.ForEachRow(rows, []any{&table, &reads, &writes}, func() error {
		n++
		for _, rule := range []string{reads, writes} {
			if strings.Contains(rule, "current_school()") && !strings.Contains(rule, "SELECT") {
				t.Errorf("%s: %s", table, rule)
			}
		}
		return nil
	}); err != nil || n < 20 {
		t.Errorf("%d policies, %v", n, err)
	}
}

// Every table that has rows of schools is guarded, those of later migrations
// included.
func TestEveryTableOfSchoolsIsGuarded(t *testing.T) {
	rows, err := db.pool.Query(ctx, `SELECT c.relname, c.relrowsecurity, c.relowner::regrole::text,
		EXISTS (SELECT FROM pg_policies p WHERE p.schemaname = $1 AND p.tablename = c.relname)
		FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid AND a.attname = 'school_id' AND NOT a.attisdropped
		WHERE c.relkind = 'r' AND c.relnamespace = $1::regnamespace`, Schema)
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	for rows.Next() {
		var table, owned string
		var secured, policy bool
		if err := rows.Scan(&table, &secured, &owned, &policy); err != nil {
			t.Fatal(err)
		}
		n++
		if !secured || !policy || owned == Role {
			t.Errorf("%s: row security %v, policy %v, owner %s", table, secured, policy, owned)
		}
	}
	if n < 11 {
		t.Errorf("only %d tables of schools were found", n)
	}
	var super, bypass bool
	var role, current string
	if err := db.pool.QueryRow(ctx,
		`SELECT rolsuper, rolbypassrls, rolname, current_user FROM pg_roles WHERE rolname = current_user`).Scan(&super,
		&bypass, &role, &current); err != nil || super || bypass || current != Role {
		t.Errorf("the application works as %s, superuser %v, bypass %v, %v", current, super, bypass, err)
	}
	conn, err := db.pool.Acquire(ctx)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, "RESET ROLE"); err != nil {
		t.Fatal(err)
	}
	if err := conn.QueryRow(ctx, "SELECT current_user").Scan(&current); err != nil || current != Role {
		t.Errorf("after RESET ROLE the application is %s, %v", current, err)
	}
}

func TestRecordsAreAppendOnlyForEverybody(t *testing.T) {
	s := newSchool(t)
	s.keep(t, s.attempt(score.Fail, time.Now()))
	conn, err := pgx.Connect(ctx, owner)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(ctx) }()
	for _, table := range []string{"attempts", "chain"} { // a row's trigger needs a row
		for _, sql := range []string{"UPDATE %s SET school_id = school_id", "DELETE FROM %s"} {
			if _, err := conn.Exec(ctx, fmt.Sprintf(sql, Schema+"."+table)); err == nil || !strings.Contains(err.Error(),
				"append-only") {
				t.Errorf("the owner: %s on %s: %v", sql, table, err)
			}
			err := db.InSchool(ctx, s.id, func(tx Tx) error { _, err := tx.Exec(ctx, fmt.Sprintf(sql, table)); return err })
			if err == nil {
				t.Errorf("the application: %s on %s was let through", sql, table)
			}
		}
	}
	for _, table := range []string{"openings", "marks", "attempts", "tracks", "signoffs", "chain", "wind_readings",
		"witnessed", "reflexes", "calls"} {
		if _, err := conn.Exec(ctx, "TRUNCATE "+Schema+"."+table+" CASCADE"); err == nil || !strings.Contains(err.Error(),
			"append-only") {
			t.Errorf("TRUNCATE %s: %v", table, err)
		}
		var triggers int
		if err := conn.QueryRow(ctx,
			"SELECT count(*) FROM pg_trigger WHERE tgrelid = ($1)::regclass AND tgname IN ('append_only', "+
				"'never_emptied')", Schema+"."+table).Scan(&triggers); err != nil || triggers != 2 {
			t.Errorf("%s has %d of its 2 guards, %v", table, triggers, err)
		}
	}
}

func TestKeepOnceAndChain(t *testing.T) {
	s := newSchool(t)
	first := s.attempt(score.Pass, time.Now().Add(-time.Hour))
	first.Track = &TrackFile{File: bytes.Repeat([]byte("t_s,x_m\n"), 4000),
		Reading: Reading{Rename: map[string]string{"a": "b"}}}
	s.keep(t, first)
	s.keep(t, first, s.attempt(score.Fail, time.Now()))
	s.in(t, func(tx Tx) error {
		list, err := tx.Attempts(ctx, s.student)
		if err != nil || len(list) != 2 {
			t.Fatalf("%d attempts kept, want 2, %v", len(list), err)
		}
		if list[0].Verdict != score.Fail || list[0].Aspects[0] != 20 || list[1].ID != first.ID {
			t.Errorf("read back %+v", list)
		}
		id := uuid.MustParse(first.ID)
		f, err := tx.Track(ctx, id)
		if err != nil || !bytes.Equal(f.File, first.Track.File) || f.Reading.Rename["a"] != "b" {
			t.Errorf("the track came back changed, %v", err)
		}
		var packed, whole int
		if err := tx.QueryRow(ctx, "SELECT length(file), file_bytes FROM tracks WHERE attempt_id = $1", id).Scan(&packed,
			&whole); err != nil || packed*10 > whole {
			t.Errorf("%d bytes are kept in %d, %v", whole, packed, err)
		}
		chain, err := tx.Chain(ctx, s.student)
		if err != nil || len(chain) != 2 {
			t.Fatalf("chain of %d, %v", len(chain), err)
		}
		if broken, err := record.Verify(chain); broken != 0 || err != nil {
			t.Errorf("the chain is broken at %d, %v", broken, err)
		}
		if !strings.Contains(string(chain[0].Body), `"track_sha256":"`) {
			t.Errorf("the track's sum is not in the chain: %s", chain[0].Body)
		}
		return nil
	})
	// The database itself refuses an entry that does not follow.
	err := db.InSchool(ctx, s.id, func(tx Tx) error {
		_, err := tx.link(ctx, record.Link{Student: s.student.String(), Seq: 3, Kind: "attempt", ID: NewID().String(),
			Body: []byte("{}")}, record.Hash{1})
		return err
	})
	if err == nil || !strings.Contains(err.Error(), "does not follow") {
		t.Errorf("an entry with another entry before it: %v", err)
	}
}

func TestCorrectionsPointBackOnce(t *testing.T) {
	s := newSchool(t)
	a := s.attempt(score.Fail, time.Now())
	fix := s.attempt(score.Void, a.At)
	fix.Corrects = a.ID
	s.keep(t, a, fix)
	s.in(t, func(tx Tx) error {
		k, err := tx.Attempt(ctx, uuid.MustParse(a.ID))
		if err != nil || k.CorrectedBy == nil || k.CorrectedBy.String() != fix.ID || k.Verdict != score.Fail {
			t.Errorf("the corrected one: %+v, %v", k.CorrectedBy, err)
		}
		return nil
	})
	again := s.attempt(score.Void, a.At)
	again.Corrects = a.ID
	err := db.InSchool(ctx, s.id, func(tx Tx) error { _, err := tx.Keep(ctx, s.student, again); return err })
	if !errors.Is(err, ErrAlreadyCorrected) {
		t.Errorf("a second correction: %v", err)
	}
}

func TestDecisionsAreInTheChain(t *testing.T) {
	s := newSchool(t)
	now := time.Now().UTC().Truncate(time.Microsecond)
	s.keep(t, s.attempt(score.Pass, now))
	s.in(t, func(tx Tx) error {
		if err := tx.Witness(ctx, s.student, s.instructor, record.Witnessed{Act: "briefing", At: now,
			By: "An instructor"}); err != nil {
			return err
		}
		return tx.SignOff(ctx, s.student, s.instructor, record.SignOff{Gate: "supervised", CraftClass: craft.Light, At: now,
			Until: now.AddDate(0, 0, 180), By: "An instructor"})
	})
	s.in(t, func(tx Tx) error {
		seen, signs, err := tx.Decisions(ctx, s.student)
		if err != nil || len(seen) != 1 || len(signs) != 1 || seen[0].By != "An instructor" ||
			!signs[0].Until.Equal(now.AddDate(0, 0, 180)) || signs[0].CraftClass != craft.Light {
			t.Errorf("%+v %+v %v", seen, signs, err)
		}
		chain, err := tx.Chain(ctx, s.student)
		if broken, _ := record.Verify(chain); err != nil || len(chain) != 3 || broken != 0 || chain[1].Kind != "witnessed" ||
			chain[2].Kind != "signoff" {
			t.Errorf("chain of %d, broken at %d, %v", len(chain), broken, err)
		}
		return nil
	})
	other := newSchool(t)
	err := db.InSchool(ctx, other.id, func(tx Tx) error {
		return tx.SignOff(ctx, s.student, other.instructor, record.SignOff{Gate: "supervised", CraftClass: craft.Light,
			At: now, Until: now})
	})
	if !errors.Is(err, ErrNotFound) {
		t.Errorf("a sign-off from another school: %v", err)
	}
}

func TestAspectSecondsFollowCorrections(t *testing.T) {
	s := newSchool(t)
	a, b := s.attempt(score.Pass, time.Now()), s.attempt(score.Pass, time.Now())
	fix := s.attempt(score.Void, a.At)
	fix.Corrects = a.ID
	s.keep(t, a, b, fix)
	s.in(t, func(tx Tx) error {
		whole, err := tx.StudentWhole(ctx, s.student)
		with, without := whole.With, whole.Without
		if err != nil || with != nil || len(without) != 16 || without[0] != 20 {
			t.Errorf("with %v, without %v, %v; want 20 s tail-in without position hold", with, without, err)
		}
		return nil
	})
}

func TestTwoAtOnceMakeOneChain(t *testing.T) {
	s := newSchool(t)
	errs := make(chan error)
	const n = 12
	for range n {
		go func() {
			errs <- db.InSchool(ctx, s.id, func(tx Tx) error {
				_, err := tx.Keep(ctx, s.student, s.attempt(score.Pass, time.Now()))
				return err
			})
		}()
	}
	for range n {
		if err := <-errs; err != nil {
			t.Error(err)
		}
	}
	s.in(t, func(tx Tx) error {
		chain, err := tx.Chain(ctx, s.student)
		if broken, verr := record.Verify(chain); len(chain) != n || broken != 0 || err != nil || verr != nil {
			t.Errorf("chain of %d, broken at %d, %v, %v", len(chain), broken, err, verr)
		}
		return nil
	})
}

func TestMarksAreKeptOnce(t *testing.T) {
	s := newSchool(t)
	id := NewID()
	marks := []score.Mark{{ID: NewID().String(), TS: 0, Mark: "start"}, {ID: NewID().String(), TS: 4, Mark: "in"}}
	for range 3 {
		s.in(t, func(tx Tx) error {
			o, err := tx.Open(ctx, Opening{ID: id, StudentID: s.student, Drill: "hover-tail-in", Side: "none", Level: 1,
				Aids: "rate", CraftType: "gheppio", OpenedBy: s.instructor, DeviceAt: time.Now(), DrillSource: "x"})
			if err != nil || o.ID != id {
				t.Errorf("opening %v, %v", o.ID, err)
			}
			return tx.AddMarks(ctx, id, s.instructor, marks)
		})
	}
	s.in(t, func(tx Tx) error {
		got, err := tx.Marks(ctx, id)
		if err != nil || len(got) != 2 || got[1].Mark != "in" || got[1].TS != 4 {
			t.Errorf("%+v, %v", got, err)
		}
		return nil
	})
	other := newSchool(t)
	err := db.InSchool(ctx, other.id, func(tx Tx) error {
		return tx.AddMarks(ctx, id, other.instructor, []score.Mark{{ID: NewID().String(), Mark: "out"}})
	})
	if !errors.Is(err, ErrNotFound) {
		t.Errorf("a mark of another school's attempt: %v", err)
	}
}

func TestNothingHalfDoneIsKept(t *testing.T) {
	s := newSchool(t)
	boom := errors.New("boom")
	err := db.InSchool(ctx, s.id, func(tx Tx) error {
		if _, err := tx.Keep(ctx, s.student, s.attempt(score.Pass, time.Now())); err != nil {
			return err
		}
		return boom
	})
	if !errors.Is(err, boom) {
		t.Fatal(err)
	}
	s.in(t, func(tx Tx) error {
		list, err := tx.Attempts(ctx, s.student)
		if len(list) != 0 || err != nil {
			t.Errorf("%d attempts were left, %v", len(list), err)
		}
		return nil
	})
}
