package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/internal/sealed"
)

// SealKeys are the server's keys that devices seal to; they are made where there are none.
func (s *Store) SealKeys(ctx context.Context) (*sealed.Keys, error) {
	var id uuid.UUID
	var private, secret []byte
	read := func() error {
		return s.pool.QueryRow(ctx, `SELECT id, private, secret FROM seal_keys ORDER BY made_at, id LIMIT 1`).
			Scan(&id, &private, &secret)
	}
	err := read()
	if errors.Is(err, pgx.ErrNoRows) {
		if private, secret, err = sealed.MakeKeys(); err != nil {
			return nil, err
		}
		// Of two servers that begin at once both read the older key.
		if _, err = s.pool.Exec(ctx, `INSERT INTO seal_keys (id, private, secret) SELECT $1, $2, $3
			WHERE NOT EXISTS (SELECT FROM seal_keys)`, NewID(), private, secret); err == nil {
			err = read()
		}
	}
	if err != nil {
		return nil, fmt.Errorf("read the server's keys: %w", err)
	}
	return sealed.ReadKeys(id, private, secret)
}

// SignInOwner is whose a sign-in is, whether or not it has ended.
type SignInOwner struct {
	Account, School uuid.UUID
	Begun           time.Time
	Ended           *time.Time
}

// OwnerOf finds whose a sign-in is; ErrNotFound for one that never was.
func (s *Store) OwnerOf(ctx context.Context, signIn uuid.UUID) (SignInOwner, error) {
	rows, err := s.pool.Query(ctx, `SELECT account_id, school_id, begun_at, ended_at FROM owner_of_sign_in($1)`, signIn)
	o, err := one[SignInOwner](rows, err)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return o, fmt.Errorf("look for the sign-in: %w", err)
	}
	return o, err
}

// Held is what was made under another sign-in than the one that delivered it: it waits for a person.
type Held struct {
	ID        uuid.UUID
	Item      uuid.UUID // the attempt, the run or the note
	Kind      string
	Account   uuid.UUID // whose sign-in made it
	By        string    // their name
	SignIn    uuid.UUID
	Body      json.RawMessage
	Delivered time.Time
}

// Hold keeps what was delivered. The same again is kept once; an item that has grown since is kept beside what it was.
func (tx Tx) Hold(ctx context.Context, h Held, deliveredBy uuid.UUID) error {
	if _, err := tx.Exec(ctx, `INSERT INTO held (id, school_id, item, kind, account_id, sign_in_id, body, delivered_by)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8) ON CONFLICT (item, md5(body::text)) DO NOTHING`, NewID(), tx.School, h.Item,
		h.Kind, h.Account, h.SignIn, string(h.Body), deliveredBy); err != nil {
		return fmt.Errorf("keep it for a decision: %w", err)
	}
	return tx.Changed(ctx)
}

// undecided are the deliveries that wait, of each item the newest: what it was before is part of it.
const undecided = `SELECT DISTINCT ON (h.item) h.* FROM held h
	WHERE NOT EXISTS (SELECT FROM held_decisions d WHERE d.held_id = h.id)
	AND ($1::uuid IS NULL OR h.account_id = $1) ORDER BY h.item, length(h.body::text) DESC, h.delivered_at DESC`

const heldQuery = `SELECT h.id, h.item, h.kind, h.account_id, a.name, h.sign_in_id, convert_to(h.body::text, 'UTF8'),
	h.delivered_at FROM (` + undecided + `) h JOIN accounts a ON a.id = h.account_id `

// HeldFor lists what waits for a decision: of one account, or of everybody for a nil one. Oldest first.
func (tx Tx) HeldFor(ctx context.Context, account *uuid.UUID) ([]Held, error) {
	rows, err := tx.Query(ctx, heldQuery+`ORDER BY h.delivered_at, h.id`, account)
	return many[Held](rows, err)
}

// Waiting counts what waits for a decision: of one account, or of everybody for a nil one.
func (tx Tx) Waiting(ctx context.Context, account *uuid.UUID) (n int, err error) {
	if err = tx.QueryRow(ctx, `SELECT count(*) FROM (`+undecided+`) h`, account).Scan(&n); err != nil {
		return 0, fmt.Errorf("count what waits: %w", err)
	}
	return n, nil
}

// OneHeld finds what waits for a decision.
func (tx Tx) OneHeld(ctx context.Context, id uuid.UUID) (Held, error) {
	rows, err := tx.Query(ctx, heldQuery+`WHERE h.id = $2`, nil, id)
	return one[Held](rows, err)
}

// DecideHeld keeps what a person decided of an item, of everything that was delivered of it so far. It returns
// ErrElsewhere where somebody has decided before.
func (tx Tx) DecideHeld(ctx context.Context, h Held, by uuid.UUID, keeps bool, reason string) error {
	_, err := tx.Exec(ctx, `INSERT INTO held_decisions (held_id, school_id, keeps, reason, decided_by)
		SELECT h.id, $2, $3, $4, $5 FROM held h WHERE h.item = $1 AND h.delivered_at <= $6
		AND NOT EXISTS (SELECT FROM held_decisions d WHERE d.held_id = h.id)`, h.Item, tx.School, keeps, reason, by,
		h.Delivered)
	if violates(err, uniqueViolation) {
		return ErrElsewhere
	}
	if err != nil {
		return fmt.Errorf("keep the decision: %w", err)
	}
	return tx.Changed(ctx)
}

// Misdated is an attempt whose date may be wrong.
type Misdated struct {
	ID, Student uuid.UUID
	Name        string
	Drill, Side string
	At          time.Time // as it is stored
	DeviceAt    time.Time // as the device had it
	Why         string    // counter, or guess
}

// Misdated lists attempts whose date may be wrong and that nobody has looked at. Before sign-ins were noted, the first
// that a device sent could have counter 0, and what it sent after was put a millisecond beside an attempt of another
// counter; and a moment that a device could only guess is one of these too.
func (tx Tx) Misdated(ctx context.Context) ([]Misdated, error) {
	rows, err := tx.Query(ctx, `SELECT o.id, o.student_id, s.name, a.drill, a.side, a.at, o.device_at,
		CASE WHEN o.sign_in_id IS NULL THEN 'counter' ELSE 'guess' END
		FROM openings o JOIN attempts a ON a.id = o.id JOIN students s ON s.id = o.student_id
		WHERE o.device_id IS NOT NULL AND NOT EXISTS (SELECT FROM attempts c WHERE c.corrects = a.id)
		AND NOT EXISTS (SELECT FROM dates_looked_at l WHERE l.attempt_id = o.id)
		AND (o.sign_in_id IS NULL AND abs(extract(epoch FROM o.began_at - o.device_at)) > 1
			AND (o.device_seq < 1 OR EXISTS (SELECT FROM openings n WHERE n.device_id = o.device_id AND n.id <> o.id
			AND abs(extract(epoch FROM n.began_at - o.began_at)) BETWEEN 0.0005 AND 0.0015))
		OR o.sign_in_id IS NOT NULL AND o.sure_s IS NULL)
		ORDER BY a.at`)
	return many[Misdated](rows, err)
}

// LookedAt notes that somebody has looked at the date of an attempt.
func (tx Tx) LookedAt(ctx context.Context, attempt, by uuid.UUID) error {
	if _, err := tx.Exec(ctx, `INSERT INTO dates_looked_at (attempt_id, school_id, looked_by) VALUES ($1, $2, $3)
		ON CONFLICT (attempt_id) DO NOTHING`, attempt, tx.School, by); err != nil {
		return fmt.Errorf("keep that the date was looked at: %w", err)
	}
	return nil
}
