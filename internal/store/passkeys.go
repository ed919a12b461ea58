package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
)

// Passkey is a key on a person's device that signs in without a password.
type Passkey struct {
	ID     uuid.UUID
	Name   string
	Host   string
	Body   []byte // the credential as JSON
	MadeAt time.Time
	UsedAt *time.Time
}

// Passkeys lists a person's passkeys, the oldest first.
func (tx Tx) Passkeys(ctx context.Context, account uuid.UUID) ([]Passkey, error) {
	rows, err := tx.Query(ctx, `SELECT id, name, host, body, made_at, used_at FROM passkeys WHERE account_id = $1
		ORDER BY made_at`, account)
	list, err := many[Passkey](rows, err)
	if err != nil {
		return nil, fmt.Errorf("list the passkeys: %w", err)
	}
	return list, nil
}

// AddPasskey keeps a passkey.
func (tx Tx) AddPasskey(ctx context.Context, account uuid.UUID, k Passkey, credential []byte) error {
	_, err := tx.Exec(ctx, `INSERT INTO passkeys (id, school_id, account_id, credential, name, host, body, made_at)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`, k.ID, tx.School, account, credential, k.Name, k.Host, k.Body, k.MadeAt)
	if violates(err, uniqueViolation) {
		return ErrTaken
	}
	if err != nil {
		return fmt.Errorf("keep the passkey: %w", err)
	}
	return nil
}

// UsedPasskey keeps what a passkey has counted to.
func (tx Tx) UsedPasskey(ctx context.Context, id uuid.UUID, body []byte, now time.Time) error {
	if _, err := tx.Exec(ctx, `UPDATE passkeys SET body = $2, used_at = $3 WHERE id = $1`, id, body, now); err != nil {
		return fmt.Errorf("keep the passkey: %w", err)
	}
	return nil
}

// RemovePasskey takes a person's passkey away.
func (tx Tx) RemovePasskey(ctx context.Context, account, id uuid.UUID) error {
	tag, err := tx.Exec(ctx, `DELETE FROM passkeys WHERE id = $1 AND account_id = $2`, id, account)
	if err != nil {
		return fmt.Errorf("take the passkey away: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return nil
}

// KeyOwner is whose passkey it is.
type KeyOwner struct {
	ID, SchoolID, AccountID uuid.UUID
	Body                    []byte
}

// ByPasskey finds whose passkey a credential is.
func (s *Store) ByPasskey(ctx context.Context, credential []byte) (KeyOwner, error) {
	rows, err := s.pool.Query(ctx, `SELECT id, school_id, account_id, body FROM passkey_of($1)`, credential)
	k, err := one[KeyOwner](rows, err)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return k, fmt.Errorf("look for the passkey: %w", err)
	}
	return k, err
}
