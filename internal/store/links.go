package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/core/school"
)

// The kinds of links.
const (
	Invitation   = "invitation"
	PasswordLink = "password"
)

// Link is a link that is used once, as whoever has its address sees it.
type Link struct {
	ID        uuid.UUID
	SchoolID  uuid.UUID
	School    string
	Kind      string
	AccountID *uuid.UUID // of a new password
	Role      string
	Name      string
	Email     string
	EndsAt    time.Time
	UsedAt    *time.Time
	RevokedAt *time.Time
}

// State is what the link is worth at a moment.
func (l Link) State(now time.Time) school.LinkState {
	return school.StateOf(l.EndsAt, l.UsedAt, l.RevokedAt, now)
}

// NewLink is a link to be made.
type NewLink struct {
	Kind      string
	AccountID *uuid.UUID
	Role      string
	Name      string
	Email     string
	StudentID *uuid.UUID
	MadeBy    *uuid.UUID // nil = from the command line
}

// AddLink makes a link and returns the secret part of its address, which is kept nowhere. Older open links for the same
// account or the same student are taken back: the newest one is the one that was handed over.
func (tx Tx) AddLink(ctx context.Context, l NewLink, now time.Time) (address string, err error) {
	if _, err := tx.Exec(ctx, `UPDATE links SET revoked_at = $3 WHERE used_at IS NULL AND revoked_at IS NULL
		AND (account_id = $1 OR student_id = $2)`, l.AccountID, l.StudentID, now); err != nil {
		return "", fmt.Errorf("take older links back: %w", err)
	}
	address = school.NewAddress()
	_, err = tx.Exec(ctx, `INSERT INTO links (id, hash, school_id, kind, account_id, role, name, email, student_id,
		made_by,
		made_at, ends_at) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)`, NewID(), school.HashOf(address),
		tx.School, l.Kind, l.AccountID, l.Role, l.Name, l.Email, l.StudentID, l.MadeBy, now,
		now.AddDate(0, 0, school.LinkDays))
	if violates(err, foreignKeyViolation) {
		return "", ErrNotFound
	}
	if err != nil {
		return "", fmt.Errorf("make the link: %w", err)
	}
	return address, nil
}

// LinkOf finds a link by the secret part of its address.
func (s *Store) LinkOf(ctx context.Context, address string) (Link, error) {
	rows, err := s.pool.Query(ctx, `SELECT * FROM link_of($1)`, school.HashOf(address))
	l, err := one[Link](rows, err)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return l, fmt.Errorf("look for the link: %w", err)
	}
	return l, err
}

// ErrLinkUsed is returned for a link that cannot be used any more.
var ErrLinkUsed = errors.New("the link cannot be used")

// useLink uses a link up; of two at the same time one gets ErrLinkUsed.
func (tx Tx) useLink(ctx context.Context, id uuid.UUID, now time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE links SET used_at = $2 WHERE id = $1 AND used_at IS NULL AND revoked_at IS NULL
		AND ends_at > $2`, id, now)
	if err != nil {
		return fmt.Errorf("use the link: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrLinkUsed
	}
	return nil
}

// Join makes the account that an invitation is for, and uses the link up.
func (tx Tx) Join(ctx context.Context, l Link, a Account, now time.Time) error {
	if err := tx.useLink(ctx, l.ID, now); err != nil {
		return err
	}
	var student *uuid.UUID
	if err := tx.QueryRow(ctx, `SELECT student_id FROM links WHERE id = $1`, l.ID).Scan(&student); err != nil {
		return fmt.Errorf("read the link: %w", err)
	}
	a.Role, a.StudentID = l.Role, student
	return tx.AddAccount(ctx, a)
}

// NewPassword sets the password that a link is for, uses the link up, and ends every sign-in of the account.
func (tx Tx) NewPassword(ctx context.Context, l Link, hash string, now time.Time) error {
	if err := tx.useLink(ctx, l.ID, now); err != nil {
		return err
	}
	if l.AccountID == nil {
		return ErrNotFound
	}
	return tx.SetPassword(ctx, *l.AccountID, hash, nil)
}

// RevokeLink takes a link back that was not used.
func (tx Tx) RevokeLink(ctx context.Context, id uuid.UUID, now time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE links SET revoked_at = coalesce(revoked_at, $2) WHERE id = $1 AND used_at IS NULL`,
		id, now)
	if err != nil {
		return fmt.Errorf("take the link back: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return nil
}

// SentLink is a link in the list of those who may take it back.
type SentLink struct {
	ID        uuid.UUID
	Kind      string
	Role      string
	Name      string
	Email     string
	Student   string
	MadeBy    string
	MadeAt    time.Time
	EndsAt    time.Time
	UsedAt    *time.Time
	RevokedAt *time.Time
}

// State is what the link is worth at a moment.
func (l SentLink) State(now time.Time) school.LinkState {
	return school.StateOf(l.EndsAt, l.UsedAt, l.RevokedAt, now)
}

// Links lists the newest links of the school.
func (tx Tx) Links(ctx context.Context, most int) ([]SentLink, error) {
	rows, err := tx.Query(ctx, `SELECT l.id, l.kind, coalesce(a.role, l.role), coalesce(a.name, l.name),
		coalesce(a.email, l.email), coalesce(s.name, ''), coalesce(b.name, 'the server'), l.made_at, l.ends_at, l.used_at,
		l.revoked_at FROM links l LEFT JOIN accounts a ON a.id = l.account_id LEFT JOIN students s ON s.id = l.student_id
		LEFT JOIN accounts b ON b.id = l.made_by ORDER BY l.made_at DESC, l.id DESC LIMIT $1`, most)
	list, err := many[SentLink](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the links: %w", err)
	}
	return list, nil
}
