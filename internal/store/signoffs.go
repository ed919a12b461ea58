package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/craft"
	"maestrale/core/readiness"
	"maestrale/core/record"
)

// Decision is what was witnessed of a student, and what was signed.
type Decision struct {
	Seen  []record.Witnessed
	Signs []record.SignOff
}

// Decisions reads what was witnessed of a student and what was signed, oldest first.
func (tx Tx) Decisions(ctx context.Context, student uuid.UUID) (seen []record.Witnessed, signs []record.SignOff,
	err error) {
	all, err := tx.decisions(ctx, []uuid.UUID{student})
	d := all[student]
	return d.Seen, d.Signs, err
}

// DecisionsOf reads those of some students.
func (tx Tx) DecisionsOf(ctx context.Context, students []uuid.UUID) (map[uuid.UUID]Decision, error) {
	if len(students) == 0 {
		return nil, nil
	}
	return tx.decisions(ctx, students)
}

// decidedSQL are what was witnessed of the students of $1 and what was signed, as decided has it.
const decidedSQL = `SELECT w.student_id, w.id, w.act AS what, w.at, a.name AS by, NULL::timestamptz AS until,
		'' AS class, '{}'::json AS conditions, '' AS carried, '' AS reason, '{}'::text[] AS waived,
		NULL::timestamptz AS read, '' AS way, '' AS witness, NULL::timestamptz AS gone, '' AS gone_by, '' AS gone_why
		  FROM witnessed w JOIN accounts a ON a.id = w.witnessed_by WHERE w.student_id = ANY($1)
		UNION ALL SELECT s.student_id, s.id, s.gate, s.at, a.name, s.until, s.craft_class, s.conditions,
		s.carried_from, s.reason, s.waived, r.at, coalesce(r.way, ''), coalesce(r.witness, ''), d.at, coalesce(b.name, ''),
		coalesce(d.reason, '')
		  FROM signoffs s JOIN accounts a ON a.id = s.signed_by
		  LEFT JOIN LATERAL (SELECT e.at, e.way, w.name AS witness FROM signoff_events e JOIN accounts w
		ON w.id = e.by_account WHERE e.signoff_id = s.id AND e.kind = 'read' ORDER BY e.at LIMIT 1) r ON true
		  LEFT JOIN LATERAL (SELECT e.at, e.reason, e.by_account FROM signoff_events e WHERE e.signoff_id = s.id
		AND e.kind = 'withdrawn' ORDER BY e.at LIMIT 1) d ON true
		  LEFT JOIN accounts b ON b.id = d.by_account WHERE s.student_id = ANY($1)`

// decided is a row of decidedSQL; without until it was witnessed, and not signed.
type decided struct {
	StudentID  uuid.UUID       `db:"student_id" json:"student_id"`
	ID         uuid.UUID       `db:"id" json:"id"`
	What       string          `db:"what" json:"what"`
	At         time.Time       `db:"at" json:"at"`
	By         string          `db:"by" json:"by"`
	Until      *time.Time      `db:"until" json:"until"`
	Class      craft.Class     `db:"class" json:"class"`
	Conditions json.RawMessage `db:"conditions" json:"conditions"`
	Carried    craft.Class     `db:"carried" json:"carried"`
	Reason     string          `db:"reason" json:"reason"`
	Waived     []string        `db:"waived" json:"waived"`
	Read       *time.Time      `db:"read" json:"read"`
	Way        string          `db:"way" json:"way"`
	Witness    string          `db:"witness" json:"witness"`
	Gone       *time.Time      `db:"gone" json:"gone"`
	GoneBy     string          `db:"gone_by" json:"gone_by"`
	GoneWhy    string          `db:"gone_why" json:"gone_why"`
}

// add adds a row to what was decided.
func (d *Decision) add(r *decided) error {
	if r.Until == nil {
		d.Seen = append(d.Seen, record.Witnessed{Act: r.What, At: r.At, By: r.By})
		return nil
	}
	s := record.SignOff{ID: r.ID.String(), Gate: r.What, CraftClass: r.Class, At: r.At, By: r.By, Until: *r.Until,
		From: r.Carried, Reason: r.Reason, Waived: r.Waived, Read: r.Read, Withdrawn: r.Gone, WithdrawnBy: r.GoneBy,
		WithdrawnWhy: r.GoneWhy}
	if r.Way == readiness.OnDevice {
		s.ReadOn, s.Witness = r.Way, r.Witness
	}
	if err := json.Unmarshal(r.Conditions, &s.Conditions); err != nil {
		return fmt.Errorf("the conditions of %s: %w", r.ID, err)
	}
	d.Signs = append(d.Signs, s)
	return nil
}

func (tx Tx) decisions(ctx context.Context, students []uuid.UUID) (map[uuid.UUID]Decision, error) {
	rows, err := tx.Query(ctx, decidedSQL+" ORDER BY 4", students)
	if err != nil {
		return nil, fmt.Errorf("read what was signed: %w", err)
	}
	list, err := pgx.CollectRows(rows, pgx.RowToStructByName[decided])
	if err != nil {
		return nil, fmt.Errorf("read what was signed: %w", err)
	}
	out := map[uuid.UUID]Decision{}
	for i := range list {
		d := out[list[i].StudentID]
		if err := d.add(&list[i]); err != nil {
			return nil, err
		}
		out[list[i].StudentID] = d
	}
	return out, nil
}

// append locks a student's record and adds one entry to its chain.
func (tx Tx) append(ctx context.Context, student uuid.UUID, kind string, id uuid.UUID, body any) error {
	if err := tx.Lock(ctx, student); err != nil {
		return err
	}
	data, err := json.Marshal(body)
	if err != nil {
		return fmt.Errorf("extend the chain: %w", err)
	}
	seq, prev, err := tx.chainEnd(ctx, student)
	if err != nil {
		return err
	}
	_, err = tx.link(ctx, record.Link{Student: student.String(), Seq: seq + 1, Kind: kind, ID: id.String(), Body: data},
		prev)
	return err
}

// Lock takes the student's row, which is the lock of the student's chain: what is read after it and decided by it holds
// until the transaction ends.
func (tx Tx) Lock(ctx context.Context, student uuid.UUID) error {
	err := tx.QueryRow(ctx, `SELECT id FROM students WHERE id = $1 FOR NO KEY UPDATE`, student).Scan(new(uuid.UUID))
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("lock the record: %w", err)
	}
	return nil
}

// Witness keeps that somebody saw a student do an act.
func (tx Tx) Witness(ctx context.Context, student, by uuid.UUID, w record.Witnessed) error {
	id := NewID()
	if err := tx.append(ctx, student, "witnessed", id, w); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, `INSERT INTO witnessed (id, school_id, student_id, act, at, witnessed_by) VALUES ($1, $2, $3,
		$4, $5, $6)`, id, tx.School, student, w.Act, w.At, by)
	if err != nil {
		return fmt.Errorf("keep what was witnessed: %w", err)
	}
	return nil
}

// SignOff keeps a signed decision.
func (tx Tx) SignOff(ctx context.Context, student, by uuid.UUID, s record.SignOff) error {
	id := NewID()
	s.ID = id.String()
	if err := tx.append(ctx, student, "signoff", id, s); err != nil {
		return err
	}
	conditions, err := json.Marshal(s.Conditions)
	if err != nil {
		return fmt.Errorf("keep the sign-off: %w", err)
	}
	if s.Waived == nil {
		s.Waived = []string{}
	}
	_, err = tx.Exec(ctx, `INSERT INTO signoffs (id, school_id, student_id, gate, craft_class, at, until, signed_by,
		reason, conditions, carried_from, waived) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)`,
		id, tx.School, student, s.Gate, s.CraftClass, s.At, s.Until, by, s.Reason, conditions, s.From, s.Waived)
	if err != nil {
		return fmt.Errorf("keep the sign-off: %w", err)
	}
	return nil
}

// SignOffOf finds the student of a sign-off.
func (tx Tx) SignOffOf(ctx context.Context, id uuid.UUID) (student uuid.UUID, err error) {
	err = tx.QueryRow(ctx, `SELECT student_id FROM signoffs WHERE id = $1`, id).Scan(&student)
	if errors.Is(err, pgx.ErrNoRows) {
		return student, ErrNotFound
	}
	if err != nil {
		return student, fmt.Errorf("find the sign-off: %w", err)
	}
	return student, nil
}

// SignOffEvent is in the chain what became of a sign-off.
type SignOffEvent struct {
	SignOff string    `json:"signoff"`
	At      time.Time `json:"at"`
	By      string    `json:"by"` // of a confirmation on the instructor's device: the witness
	Reason  string    `json:"reason,omitempty"`
	Way     string    `json:"way,omitempty"`    // "device" where the student confirmed on the instructor's device
	SHA256  string    `json:"sha256,omitempty"` // of the typed name and the signature
}

// NoteSignOff keeps that the student has read the cautions of a sign-off ("read") or that
// it was withdrawn ("withdrawn"); its cards are revoked then.
func (tx Tx) NoteSignOff(ctx context.Context, student, signoff, by uuid.UUID, kind string, e SignOffEvent) error {
	id := NewID()
	if err := tx.append(ctx, student, "signoff-"+kind, id, e); err != nil {
		return err
	}
	if e.Way == "" {
		e.Way = readiness.OnAccount
	}
	_, err := tx.Exec(ctx, `INSERT INTO signoff_events (id, school_id, student_id, signoff_id, kind, at, by_account,
		reason, way) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)`, id, tx.School, student, signoff, kind, e.At, by,
		e.Reason, e.Way)
	if err != nil {
		return fmt.Errorf("keep what became of the sign-off: %w", err)
	}
	if kind == "withdrawn" {
		return tx.RevokeCards(ctx, signoff)
	}
	return nil
}

// ConfirmOnDevice keeps that a student confirmed the cautions of a sign-off on the device of a witness. The chain holds
// the hash of what the student left; the typed name and the signature stand beside it.
func (tx Tx) ConfirmOnDevice(ctx context.Context, student, signoff, witness uuid.UUID, e SignOffEvent,
	c readiness.Confirmation) error {
	e.Way, e.SHA256 = readiness.OnDevice, c.SHA256()
	if err := tx.NoteSignOff(ctx, student, signoff, witness, "read", e); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, `INSERT INTO confirmations (event_id, school_id, typed, strokes) SELECT e.id, $2, $3, $4
		FROM signoff_events e WHERE e.signoff_id = $1 AND e.kind = 'read' ORDER BY e.at LIMIT 1`, signoff, tx.School,
		c.Typed, c.Strokes)
	if err != nil {
		return fmt.Errorf("keep the confirmation: %w", err)
	}
	return nil
}

// ConfirmationOf is what a student left on a witness's device; ErrNotFound where they confirmed on their own account,
// or not at all.
func (tx Tx) ConfirmationOf(ctx context.Context, signoff uuid.UUID) (readiness.Confirmation, error) {
	rows, err := tx.Query(ctx, `SELECT c.typed, c.strokes FROM confirmations c JOIN signoff_events e ON e.id = c.event_id
		WHERE e.signoff_id = $1`, signoff)
	return one[readiness.Confirmation](rows, err)
}

// HasAccount tells whether a student can sign in.
func (tx Tx) HasAccount(ctx context.Context, student uuid.UUID) (has bool, err error) {
	if err = tx.QueryRow(ctx, `SELECT EXISTS (SELECT FROM accounts WHERE student_id = $1 AND disabled_at IS NULL)`,
		student).Scan(&has); err != nil {
		return false, fmt.Errorf("look for the student's account: %w", err)
	}
	return has, nil
}

// CardHash is what is kept of a card's address.
func CardHash(address string) []byte {
	h := sha256.Sum256([]byte("card:" + address))
	return h[:]
}

// AddCard keeps a card of a sign-off; those before it are revoked.
func (tx Tx) AddCard(ctx context.Context, address string, signoff, by uuid.UUID) error {
	if err := tx.RevokeCards(ctx, signoff); err != nil {
		return err
	}
	if _, err := tx.Exec(ctx, `INSERT INTO cards (hash, school_id, signoff_id, made_by) VALUES ($1, $2, $3, $4)`,
		CardHash(address), tx.School, signoff, by); err != nil {
		return fmt.Errorf("keep the card: %w", err)
	}
	return nil
}

// NewCard makes a card of a sign-off, and returns its address, which is kept nowhere.
func (tx Tx) NewCard(ctx context.Context, student, signoff, by uuid.UUID) (address string, err error) {
	raw := make([]byte, 18)
	_, _ = rand.Read(raw) // never fails
	address = base64.RawURLEncoding.EncodeToString(raw)
	return address, errors.Join(tx.AddCard(ctx, address, signoff, by),
		tx.Did(ctx, by, &student, msgMadeCardSign))
}

// RevokeCards revokes every card of a sign-off.
func (tx Tx) RevokeCards(ctx context.Context, signoff uuid.UUID) error {
	if _, err := tx.Exec(ctx, `UPDATE cards SET revoked_at = now() WHERE signoff_id = $1 AND revoked_at IS NULL`,
		signoff); err != nil {
		return fmt.Errorf("revoke the card: %w", err)
	}
	return nil
}

// HasCard tells whether a sign-off has a card that is not revoked.
func (tx Tx) HasCard(ctx context.Context, signoff uuid.UUID) (has bool, err error) {
	if err = tx.QueryRow(ctx, `SELECT EXISTS (SELECT FROM cards WHERE signoff_id = $1 AND revoked_at IS NULL)`,
		signoff).Scan(&has); err != nil {
		return false, fmt.Errorf("look for the card: %w", err)
	}
	return has, nil
}

// Card is whose an address is.
type Card struct {
	SchoolID, SignOffID uuid.UUID
	School, TimeZone    string
}

// CardOf finds a card by its address; ErrNotFound where there is none, or it was revoked.
func (s *Store) CardOf(ctx context.Context, address string) (Card, error) {
	rows, err := s.pool.Query(ctx, `SELECT school_id, signoff_id, school, time_zone FROM card_of($1)`, CardHash(address))
	c, err := one[Card](rows, err)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return c, fmt.Errorf("look for the card: %w", err)
	}
	return c, err
}
