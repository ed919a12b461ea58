package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/school"
	"maestrale/core/units"
)

// Member is an account as the list of people shows it.
type Member struct {
	ID         uuid.UUID
	Name       string
	Email      string
	Role       string
	StudentID  *uuid.UUID
	SignsUntil *time.Time
	ClosedAt   *time.Time
	HasWord    bool // it has a password
	Passkeys   int
	SeenAt     *time.Time
}

// As is the account as the rules of changing people know it.
func (m Member) As() school.Member {
	return school.Member{Role: school.Role(m.Role), Closed: m.ClosedAt != nil, Linked: m.StudentID != nil}
}

const memberQuery = `SELECT a.id, a.name, a.email, a.role, a.student_id, a.signs_until, a.disabled_at,
	a.password_hash LIKE '$%', (SELECT count(*)::int FROM passkeys p WHERE p.account_id = a.id),
	(SELECT max(i.seen_at) FROM sign_ins i WHERE i.account_id = a.id) FROM accounts a `

// Members lists every account of the school: by role, from the one that may do most, and name.
func (tx Tx) Members(ctx context.Context) ([]Member, error) {
	rows, err := tx.Query(ctx, memberQuery+`ORDER BY a.disabled_at IS NOT NULL,
		array_position(ARRAY['chief', 'instructor', 'spotter', 'student'], a.role), a.name`)
	list, err := many[Member](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the people: %w", err)
	}
	return list, nil
}

// OneMember finds an account of the school.
func (tx Tx) OneMember(ctx context.Context, id uuid.UUID) (Member, error) {
	rows, err := tx.Query(ctx, memberQuery+`WHERE a.id = $1`, id)
	m, err := one[Member](rows, err)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return m, fmt.Errorf("read the account: %w", err)
	}
	return m, err
}

// ChangeMember changes the role of an account, or closes or reopens it, as the rules allow. A closed account is signed
// out everywhere; who is no instructor any more has no right to sign.
func (tx Tx) ChangeMember(ctx context.Context, id uuid.UUID, to school.Member, now time.Time) error {
	// The chiefs are locked in one order, so that two who close each other wait and the second is refused.
	rows, err := tx.Query(ctx, `SELECT id FROM accounts WHERE role = 'chief' AND disabled_at IS NULL
		ORDER BY id FOR UPDATE`)
	if err != nil {
		return fmt.Errorf("lock the chiefs: %w", err)
	}
	chiefs, err := pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	if err != nil {
		return fmt.Errorf("lock the chiefs: %w", err)
	}
	m, err := tx.OneMember(ctx, id)
	if err != nil {
		return err
	}
	to.Linked = m.StudentID != nil
	if err := school.MayChange(m.As(), to, len(chiefs)); err != nil {
		return err
	}
	var closed *time.Time
	if to.Closed {
		closed = &now
		if m.ClosedAt != nil {
			closed = m.ClosedAt
		}
		if err := tx.EndSignIns(ctx, id, nil, now); err != nil {
			return err
		}
	}
	if _, err := tx.Exec(ctx, `UPDATE accounts SET role = $2, disabled_at = $3,
		signs_until = CASE WHEN $2 = 'instructor' THEN signs_until END WHERE id = $1`, id, string(to.Role),
		closed); err != nil {
		return fmt.Errorf("change the account: %w", err)
	}
	return nil
}

// SetPassword keeps a new password and ends every sign-in of the account but one.
func (tx Tx) SetPassword(ctx context.Context, account uuid.UUID, hash string, except *uuid.UUID) error {
	if _, err := tx.Exec(ctx, `UPDATE accounts SET password_hash = $2 WHERE id = $1`, account, hash); err != nil {
		return fmt.Errorf("keep the password: %w", err)
	}
	if err := tx.ForgetBrowsers(ctx, account); err != nil {
		return err
	}
	return tx.EndSignIns(ctx, account, except, time.Now())
}

// Rehash keeps the same password in another way.
func (tx Tx) Rehash(ctx context.Context, account uuid.UUID, hash string) error {
	if _, err := tx.Exec(ctx, `UPDATE accounts SET password_hash = $2 WHERE id = $1`, account, hash); err != nil {
		return fmt.Errorf("keep the password: %w", err)
	}
	return nil
}

// PasswordHash is what is kept of an account's password; it is no hash for an account that has none.
func (tx Tx) PasswordHash(ctx context.Context, account uuid.UUID) (hash string, err error) {
	if err = tx.QueryRow(ctx, `SELECT password_hash FROM accounts WHERE id = $1`, account).Scan(&hash); err != nil {
		return "", fmt.Errorf("read the account: %w", err)
	}
	return hash, nil
}

// ChooseUnits keeps a person's own units; nil is as the school.
func (tx Tx) ChooseUnits(ctx context.Context, account uuid.UUID, of *units.System) error {
	var length, speed *units.Unit
	if of != nil {
		length, speed = &of.Length, &of.Speed
	}
	if _, err := tx.Exec(ctx, `UPDATE accounts SET length_unit = $2, speed_unit = $3 WHERE id = $1`, account, length,
		speed); err != nil {
		return fmt.Errorf("keep the units: %w", err)
	}
	return nil
}

// HasOwnUnits tells whether a person chose units, or goes by the school's.
func (tx Tx) HasOwnUnits(ctx context.Context, account uuid.UUID) (has bool, err error) {
	if err = tx.QueryRow(ctx, `SELECT length_unit IS NOT NULL FROM accounts WHERE id = $1`,
		account).Scan(&has); err != nil {
		return false, fmt.Errorf("read the account: %w", err)
	}
	return has, nil
}

// SignIn is a place where a person is or was signed in.
type SignIn struct {
	ID      uuid.UUID
	BegunAt time.Time
	SeenAt  time.Time
	Browser string
	Way     string
}

// BeginSignIn notes that a person signs in.
func (tx Tx) BeginSignIn(ctx context.Context, id, account uuid.UUID, browser, way string, now time.Time) error {
	if _, err := tx.Exec(ctx, `INSERT INTO sign_ins (id, school_id, account_id, begun_at, seen_at, browser, way)
		VALUES ($1, $2, $3, $4, $4, $5, $6)`, id, tx.School, account, now, browser, way); err != nil {
		return fmt.Errorf("note the sign-in: %w", err)
	}
	return nil
}

// SeenSignIn notes that a sign-in is in use.
func (tx Tx) SeenSignIn(ctx context.Context, id uuid.UUID, now time.Time) error {
	if _, err := tx.Exec(ctx, `UPDATE sign_ins SET seen_at = $2 WHERE id = $1`, id, now); err != nil {
		return fmt.Errorf("note the sign-in: %w", err)
	}
	return nil
}

// SignIns lists where a person is signed in, the newest first: those that have not ended and are younger than since.
func (tx Tx) SignIns(ctx context.Context, account uuid.UUID, since time.Time) ([]SignIn, error) {
	rows, err := tx.Query(ctx, `SELECT id, begun_at, seen_at, browser, way FROM sign_ins WHERE account_id = $1
		AND ended_at IS NULL AND begun_at > $2 ORDER BY begun_at DESC`, account, since)
	list, err := many[SignIn](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the sign-ins: %w", err)
	}
	return list, nil
}

// EndSignIn ends one sign-in of a person.
func (tx Tx) EndSignIn(ctx context.Context, account, id uuid.UUID, now time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE sign_ins SET ended_at = coalesce(ended_at, $3) WHERE id = $1 AND account_id = $2`, id,
		account, now)
	if err != nil {
		return fmt.Errorf("end the sign-in: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return nil
}

// EndSignIns ends every sign-in of a person, but for one where that is given.
func (tx Tx) EndSignIns(ctx context.Context, account uuid.UUID, except *uuid.UUID, now time.Time) error {
	if _, err := tx.Exec(ctx, `UPDATE sign_ins SET ended_at = $3 WHERE account_id = $1 AND ended_at IS NULL
		AND ($2::uuid IS NULL OR id <> $2)`, account, except, now); err != nil {
		return fmt.Errorf("end the sign-ins: %w", err)
	}
	return nil
}
