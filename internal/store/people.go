package store

import (
	"context"
	"errors"
	"fmt"
	"math"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/air"
	"maestrale/core/course"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/preflight"
	"maestrale/core/readiness"
	"maestrale/core/units"
)

// Role names of accounts.
const (
	Chief      = "chief"
	Instructor = "instructor"
	Spotter    = "spotter"
	Learner    = "student"
)

// Person is who is signed in, with the school and its newest wind.
type Person struct {
	ID          uuid.UUID
	SchoolID    uuid.UUID
	Name        string
	Email       string
	Role        string
	StudentID   *uuid.UUID
	PaceM       float64
	School      string
	TimeZone    string
	LengthUnit  units.Unit // the own choice, or the school's
	SpeedUnit   units.Unit
	ClosedAt    *time.Time // when the school was closed; nil = it is open
	SeenAt      *time.Time // when this sign-in was last noted as in use; nil without a sign-in
	AwayDeg     *float64   // true direction of the day's course
	WindAt      *time.Time
	WindMps     *float64 // of the last two minutes where a meter says it
	GustMps     *float64
	WindFromDeg *float64 // field heading
	FromTrueDeg *float64 // true direction
	LongMps     *float64 // of the last ten minutes
	LongGustMps *float64
	Metered     bool
	Stuck       bool
	Files       int64 // versions of the school's own drills, programmes and gates
	SignsUntil  *time.Time
	IdleMinutes int // after so many the school ends a sign-in that nobody uses
	Light       course.Lit
	LatDeg      *float64 // of the site of the day's course; nil without one
	LonDeg      *float64
}

// Idle tells whether nobody has used the sign-in for longer than the school allows. That it is used is noted every few
// minutes only, which is not held against anybody.
func (p *Person) Idle(now time.Time) bool {
	return p.SeenAt != nil && now.Sub(*p.SeenAt) > time.Duration(p.IdleMinutes)*time.Minute+SeenEvery
}

// SeenEvery is how often it is noted that a sign-in is in use.
const SeenEvery = 5 * time.Minute

// Units are the person's units of length and speed.
func (p *Person) Units() units.System {
	return units.System{Length: p.LengthUnit, Speed: p.SpeedUnit}
}

// Zone is the school's time zone; UTC where it is not known.
func (p *Person) Zone() *time.Location {
	if l, err := time.LoadLocation(p.TimeZone); err == nil {
		return l
	}
	return time.UTC
}

// WindNow is the newest wind reading, for the check before a flight and the advice on the screens; nil if none was
// taken.
func (p *Person) WindNow(now time.Time) *preflight.Wind {
	if p.WindAt == nil || p.WindMps == nil {
		return nil
	}
	age := now.Sub(*p.WindAt)
	w := &preflight.Wind{Mean: *p.WindMps, Age: age, Fresh: air.Fresh(age, p.Metered)}
	if p.GustMps != nil {
		w.Gust = *p.GustMps
	}
	return w
}

// Signer is the person as the rules of signing know them.
func (p *Person) Signer() readiness.Signer {
	s := readiness.Signer{Name: p.Name, Chief: p.Role == Chief}
	if p.Role == Instructor {
		s.Until = p.SignsUntil
	}
	return s
}

// Place is where the day's course lies; nil where that is not known.
func (p *Person) Place() *field.Geo {
	if p.LatDeg == nil || p.LonDeg == nil {
		return nil
	}
	return &field.Geo{LatDeg: *p.LatDeg, LonDeg: *p.LonDeg}
}

// LightAt is the light in which the school flies at a moment.
func (p *Person) LightAt(at time.Time) orient.Light { return p.Light.LightAt(at, p.Place()) }

// From is where the wind comes from as the pilot of the day's course stands, in
// field headings; nil where that is not known.
func (p *Person) From() *float64 {
	if p.WindFromDeg == nil && p.FromTrueDeg != nil && p.AwayDeg != nil {
		from := math.Mod(*p.FromTrueDeg-*p.AwayDeg+720, 360)
		return &from
	}
	return p.WindFromDeg
}

// Credentials is what a sign-in is checked against.
type Credentials struct {
	AccountID, SchoolID uuid.UUID
	PasswordHash        string
}

// ByEmail finds the account that signs in with an address.
func (s *Store) ByEmail(ctx context.Context, email string) (Credentials, error) {
	rows, err := s.pool.Query(ctx, `SELECT id, school_id, password_hash FROM account_by_email($1)`, email)
	c, err := one[Credentials](rows, err)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return c, fmt.Errorf("look up the account: %w", err)
	}
	return c, err
}

// ByAccount finds whose account it is, whether or not that person is signed in.
func (s *Store) ByAccount(ctx context.Context, account uuid.UUID) (Person, error) {
	return s.person(ctx, account, nil)
}

// BySignIn finds who is signed in: ErrNotFound where the sign-in has ended or the account was closed.
func (s *Store) BySignIn(ctx context.Context, account, signIn uuid.UUID) (Person, error) {
	return s.person(ctx, account, &signIn)
}

func (s *Store) person(ctx context.Context, account uuid.UUID, signIn *uuid.UUID) (Person, error) {
	rows, err := s.pool.Query(ctx, `SELECT a.*, files_of(a.school_id) AS files, signs_until_of(a.id) AS signs_until,
		idle_minutes_of(a.school_id) AS idle_minutes, l.light, l.lat_deg, l.lon_deg
		FROM account_in_session($1, $2) a, light_of(a.school_id) l`, account, signIn)
	p, err := one[Person](rows, err)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return p, fmt.Errorf("look up the session: %w", err)
	}
	return p, err
}

// Student is a person who is trained.
type Student struct {
	ID        uuid.UUID
	Name      string
	Programme string
	CraftType string
	TrainsFor string
	StartedOn time.Time
	Goal      string     // what the student wants to be able to do, in their own words
	LeftOn    *time.Time // nil = in training
	Grip      string     // thumb or pinch; empty = not said
}

const studentColumns = "id, name, programme, craft_type, trains_for, started_on, goal, left_on, grip"

// Student finds a student of the school.
func (tx Tx) Student(ctx context.Context, id uuid.UUID) (Student, error) {
	rows, err := tx.Query(ctx, `SELECT `+studentColumns+` FROM students WHERE id = $1`, id)
	return one[Student](rows, err)
}

// StudentWhole is a student with the sums that are kept beside the attempts.
type StudentWhole struct {
	Student
	// With and Without are the seconds flown inside tolerance by sector of the ring, with position hold and without;
	// nil for none.
	With, Without []float32
	Fit           LearningFit // the zero value where the school has none that can be used
}

// StudentWhole finds a student of the school, in one query.
func (tx Tx) StudentWhole(ctx context.Context, id uuid.UUID) (s StudentWhole, err error) {
	const seconds = `(SELECT t.seconds FROM aspect_totals t WHERE t.student_id = students.id AND t.position_hold = `
	var fitted *time.Time
	var cells, attempts *int
	err = tx.QueryRow(ctx, `SELECT `+studentColumns+`, `+seconds+`true), `+seconds+`false),
		f.fitted_at, f.cells, f.attempts, f.weights
		FROM students LEFT JOIN LATERAL
		(SELECT fitted_at, cells, attempts, weights FROM learning_fits ORDER BY fitted_at DESC LIMIT 1) f ON true
		WHERE students.id = $1`, id).Scan(
		&s.ID, &s.Name, &s.Programme, &s.CraftType, &s.TrainsFor, &s.StartedOn, &s.Goal, &s.LeftOn, &s.Grip, &s.With,
		&s.Without,
		&fitted, &cells, &attempts, &s.Fit.Prior.Weights)
	if errors.Is(err, pgx.ErrNoRows) {
		return s, ErrNotFound
	}
	if err != nil {
		return s, fmt.Errorf("read the student: %w", err)
	}
	if fitted == nil || !s.Fit.Prior.Sound() {
		s.Fit = LearningFit{} // none, or one of another version
		return s, nil
	}
	s.Fit.FittedAt, s.Fit.Cells, s.Fit.Attempts = *fitted, *cells, *attempts
	return s, nil
}

// Students lists the school's students in training by name.
func (tx Tx) Students(ctx context.Context) ([]Student, error) {
	rows, err := tx.Query(ctx, `SELECT `+studentColumns+` FROM students WHERE own_of IS NULL AND left_on IS NULL
		ORDER BY name`)
	return many[Student](rows, err)
}

// AllStudents lists the school's students by name, those who have left among them.
func (tx Tx) AllStudents(ctx context.Context) ([]Student, error) {
	rows, err := tx.Query(ctx, `SELECT `+studentColumns+` FROM students WHERE own_of IS NULL ORDER BY name`)
	return many[Student](rows, err)
}

// ChangeStudent keeps a student's name, programme, craft, aim and goal, and whether they have left.
func (tx Tx) ChangeStudent(ctx context.Context, s Student) error {
	tag, err := tx.Exec(ctx, `UPDATE students SET name = $2, programme = $3, craft_type = $4, trains_for = $5, goal = $6,
		left_on = $7, grip = $8 WHERE id = $1`, s.ID, s.Name, s.Programme, s.CraftType, s.TrainsFor, s.Goal, s.LeftOn, s.Grip)
	if err != nil {
		return fmt.Errorf("change the student: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return nil
}

// OwnRecord is the record of one who teaches; it is made as given where there is none.
func (tx Tx) OwnRecord(ctx context.Context, account uuid.UUID, fresh Student) (Student, error) {
	_, err := tx.Exec(ctx, `INSERT INTO students (school_id, own_of, `+studentColumns+`) VALUES ($1, $2, $3, $4, $5, `+
		`$6, $7, $8, $9, $10, $11) ON CONFLICT (own_of) DO NOTHING`,
		tx.School, account, fresh.ID, fresh.Name, fresh.Programme, fresh.CraftType, fresh.TrainsFor, fresh.StartedOn,
		fresh.Goal, fresh.LeftOn, fresh.Grip)
	if err != nil {
		return fresh, fmt.Errorf("open the own record of %s: %w", fresh.Name, err)
	}
	rows, err := tx.Query(ctx, `SELECT `+studentColumns+` FROM students WHERE own_of = $1`, account)
	return one[Student](rows, err)
}

// FliesNow keeps which type of craft a student flies.
func (tx Tx) FliesNow(ctx context.Context, student uuid.UUID, craftType string) error {
	if _, err := tx.Exec(ctx, `UPDATE students SET craft_type = $2 WHERE id = $1`, student, craftType); err != nil {
		return fmt.Errorf("keep what is flown: %w", err)
	}
	return nil
}

// AddStudent adds a student to the school.
func (tx Tx) AddStudent(ctx context.Context, s Student) error {
	_, err := tx.Exec(ctx, `INSERT INTO students (school_id, `+studentColumns+`) VALUES ($1, $2, $3, $4, $5, $6, $7, $8,
		$9, $10)`, tx.School, s.ID, s.Name, s.Programme, s.CraftType, s.TrainsFor, s.StartedOn, s.Goal, s.LeftOn, s.Grip)
	if err != nil {
		return fmt.Errorf("add the student %s: %w", s.Name, err)
	}
	return nil
}

// Account is a person who signs in.
type Account struct {
	ID           uuid.UUID
	Email        string
	Name         string
	Role         string
	StudentID    *uuid.UUID
	PasswordHash string
}

// AddAccount adds an account to the school.
func (tx Tx) AddAccount(ctx context.Context, a Account) error {
	_, err := tx.Exec(ctx, `INSERT INTO accounts (school_id, id, email, name, role, student_id, password_hash) VALUES ($1,
		$2, lower($3), $4, $5, $6, $7)`,
		tx.School, a.ID, a.Email, a.Name, a.Role, a.StudentID, a.PasswordHash)
	if violates(err, uniqueViolation) {
		return ErrTaken
	}
	if err != nil {
		return fmt.Errorf("add the account of %s: %w", a.Name, err)
	}
	return nil
}

// MaySign keeps until when an instructor may sign gates; nil takes the right away.
func (tx Tx) MaySign(ctx context.Context, account uuid.UUID, until *time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE accounts SET signs_until = $2 WHERE id = $1 AND role = 'instructor'`, account, until)
	if err != nil {
		return fmt.Errorf("keep the right to sign: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return nil
}

// Craft is one craft of the school.
type Craft struct {
	ID   uuid.UUID
	Name string
	Type string
}

// AddCraft adds a craft to the school.
func (tx Tx) AddCraft(ctx context.Context, c Craft) error {
	if _, err := tx.Exec(ctx, `INSERT INTO craft (school_id, id, name, craft_type) VALUES ($1, $2, $3, $4)`, tx.School,
		c.ID, c.Name, c.Type); violates(err, uniqueViolation) {
		return ErrTaken
	} else if err != nil {
		return fmt.Errorf("add the craft %s: %w", c.Name, err)
	}
	return nil
}

// Rights are until when instructors may sign, of those who have or had the right.
func (tx Tx) Rights(ctx context.Context) (map[uuid.UUID]time.Time, error) {
	rows, err := tx.Query(ctx, `SELECT id, signs_until FROM accounts WHERE signs_until IS NOT NULL`)
	if err != nil {
		return nil, fmt.Errorf("read the rights to sign: %w", err)
	}
	out := map[uuid.UUID]time.Time{}
	var id uuid.UUID
	var until time.Time
	_, err = pgx.ForEachRow(rows, []any{&id, &until}, func() error { out[id] = until; return nil })
	if err != nil {
		return nil, fmt.Errorf("read the rights to sign: %w", err)
	}
	return out, nil
}
