package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5"

	"maestrale/core/craft"
	"maestrale/core/pack"
)

// ErrTaken is returned for a name that somebody else has.
var ErrTaken = fmt.Errorf("the name is taken")

// Fleet lists the school's craft by name.
func (tx Tx) Fleet(ctx context.Context) ([]Craft, error) {
	rows, err := tx.Query(ctx, `SELECT id, name, craft_type FROM craft WHERE retired_at IS NULL ORDER BY name`)
	return many[Craft](rows, err)
}

// OneCraft finds a craft of the school.
func (tx Tx) OneCraft(ctx context.Context, id uuid.UUID) (Craft, error) {
	rows, err := tx.Query(ctx, `SELECT id, name, craft_type FROM craft WHERE id = $1`, id)
	return one[Craft](rows, err)
}

// Pack is one pack of the school.
type Pack struct {
	ID uuid.UUID
	pack.Record
}

const packColumns = "id, name, craft_type, chemistry, cells, capacity_mah, mass_kg, bought_on"

func scanPack(row pgx.CollectableRow) (p Pack, err error) {
	var bought *time.Time
	err = row.Scan(&p.ID, &p.Name, &p.Type, &p.Chemistry, &p.Cells, &p.CapacityMah, &p.MassKg, &bought)
	if bought != nil {
		p.BoughtOn = *bought
	}
	return p, err
}

// Packs lists the school's packs by name.
func (tx Tx) Packs(ctx context.Context) ([]Pack, error) {
	rows, err := tx.Query(ctx, `SELECT `+packColumns+` FROM packs ORDER BY craft_type, length(name), name`)
	if err != nil {
		return nil, fmt.Errorf("list the packs: %w", err)
	}
	return pgx.CollectRows(rows, scanPack)
}

// OnePack finds a pack of the school.
func (tx Tx) OnePack(ctx context.Context, id uuid.UUID) (Pack, error) {
	rows, err := tx.Query(ctx, `SELECT `+packColumns+` FROM packs WHERE id = $1`, id)
	if err != nil {
		return Pack{}, fmt.Errorf("read the pack: %w", err)
	}
	list, err := pgx.CollectRows(rows, scanPack)
	if err == nil && len(list) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Pack{}, err
	}
	return list[0], nil
}

// AddPack adds a pack to the school.
func (tx Tx) AddPack(ctx context.Context, p Pack) error {
	var bought *time.Time
	if !p.BoughtOn.IsZero() {
		bought = &p.BoughtOn
	}
	_, err := tx.Exec(ctx, `INSERT INTO packs (school_id, `+packColumns+`) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
		tx.School, p.ID, p.Name, p.Type, p.Chemistry, p.Cells, p.CapacityMah, p.MassKg, bought)
	if violates(err, uniqueViolation) {
		return ErrTaken
	}
	if err != nil {
		return fmt.Errorf("add the pack %s: %w", p.Name, err)
	}
	return nil
}

// AddPackEvent notes something in a pack's log; the same id again is kept once. By nobody
// (uuid.Nil) is by a charger.
func (tx Tx) AddPackEvent(ctx context.Context, id, pack, by uuid.UUID, e pack.Event) error {
	body, err := json.Marshal(e)
	if err != nil {
		return fmt.Errorf("note in the pack's log: %w", err)
	}
	_, err = tx.Exec(ctx, `INSERT INTO pack_events (id, school_id, pack_id, at, kind, body, noted_by) VALUES ($1, $2, $3,
		$4, $5, $6, $7) ON CONFLICT (id) DO NOTHING`,
		id, tx.School, pack, e.At, e.Kind, body, orNull(by))
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("note in the pack's log: %w", err)
	}
	return nil
}

// packBodies are events of packs' logs as they were read, by their text: a page reads all of them at every look, and
// what a text says never changes. Nobody changes what is in it.
var packBodies = func() *lru.Cache[string, pack.Event] {
	c, err := lru.New[string, pack.Event](1 << 15)
	if err != nil {
		panic(err) // only for a size below one
	}
	return c
}()

// packEvent reads the body of an event.
func packEvent(body []byte) (e pack.Event, err error) {
	if e, known := packBodies.Get(string(body)); known {
		return e, nil
	}
	if err = json.Unmarshal(body, &e); err == nil {
		packBodies.Add(string(body), e)
	}
	return e, err
}

// PackLogs reads the logs of one pack, or, with nil, of all.
func (tx Tx) PackLogs(ctx context.Context, id *uuid.UUID) (map[uuid.UUID][]pack.Event, error) {
	rows, err := tx.Query(ctx, `SELECT e.pack_id, e.at, e.kind, e.body, coalesce(a.name, 'the charger') FROM pack_events e
		LEFT JOIN accounts a ON a.id = e.noted_by
		WHERE $1::uuid IS NULL OR e.pack_id = $1 ORDER BY e.at, e.id`, id)
	if err != nil {
		return nil, fmt.Errorf("read the packs' logs: %w", err)
	}
	out := map[uuid.UUID][]pack.Event{}
	var of uuid.UUID
	var at time.Time
	var kind, by string
	var body []byte
	_, err = pgx.ForEachRow(rows, []any{&of, &at, &kind, &body, &by}, func() error {
		e, err := packEvent(body)
		if err != nil {
			return err
		}
		e.At, e.Kind, e.By = at, pack.EventKind(kind), by
		out[of] = append(out[of], e)
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("read the packs' logs: %w", err)
	}
	return out, nil
}

// AddCraftEvent notes something in a craft's log; the same id again is kept once.
func (tx Tx) AddCraftEvent(ctx context.Context, id, craft, by uuid.UUID, e craft.Event) error {
	body, err := json.Marshal(e)
	if err != nil {
		return fmt.Errorf("note in the craft's log: %w", err)
	}
	tag, err := tx.Exec(ctx, `INSERT INTO craft_events (id, school_id, craft_id, at, kind, body, noted_by) VALUES ($1, $2,
		$3, $4, $5, $6, $7) ON CONFLICT (id) DO NOTHING`,
		id, tx.School, craft, e.At, e.Kind, body, by)
	if violates(err, foreignKeyViolation) {
		return ErrNotFound
	}
	if err != nil {
		return fmt.Errorf("note in the craft's log: %w", err)
	}
	if tag.RowsAffected() == 0 || len(e.Parts) == 0 {
		return nil
	}
	// What it took leaves the shelf.
	_, err = tx.Exec(ctx, `INSERT INTO shelf_moves (id, school_id, craft_type, part, delta, why, at, moved_by)
		SELECT gen_random_uuid(), $1, c.craft_type, p.key, -(p.value::int), $2 || ' of ' || c.name, $3, $4
		  FROM craft c, json_each_text($5::json) p WHERE c.id = $6 AND p.value::int <> 0`,
		tx.School, string(e.Kind), e.At, by, mustJSON(e.Parts), craft)
	if err != nil {
		return fmt.Errorf("take from the shelf: %w", err)
	}
	return nil
}

// orNull is nil for nobody.
func orNull(id uuid.UUID) *uuid.UUID {
	if id == uuid.Nil {
		return nil
	}
	return &id
}

func mustJSON(v any) []byte {
	data, err := json.Marshal(v)
	if err != nil {
		panic(err) // a map of numbers
	}
	return data
}

// CraftLogs reads the logs of one craft, or, with nil, of all.
func (tx Tx) CraftLogs(ctx context.Context, id *uuid.UUID) (map[uuid.UUID][]craft.Event, error) {
	rows, err := tx.Query(ctx, `SELECT e.craft_id, e.id, e.at, e.kind, e.body, a.name FROM craft_events e
		JOIN accounts a ON a.id = e.noted_by
		WHERE $1::uuid IS NULL OR e.craft_id = $1 ORDER BY e.at, e.id`, id)
	if err != nil {
		return nil, fmt.Errorf("read the craft's logs: %w", err)
	}
	out := map[uuid.UUID][]craft.Event{}
	var of, entry uuid.UUID
	var at time.Time
	var kind, by string
	var body []byte
	_, err = pgx.ForEachRow(rows, []any{&of, &entry, &at, &kind, &body, &by}, func() error {
		e := craft.Event{ID: entry.String(), At: at, Kind: craft.EventKind(kind), By: by}
		if err := json.Unmarshal(body, &e); err != nil {
			return err
		}
		out[of] = append(out[of], e)
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("read the craft's logs: %w", err)
	}
	return out, nil
}

// Shelf counts the parts on the shelf, by type and part.
func (tx Tx) Shelf(ctx context.Context) (map[string]map[string]int, error) {
	rows, err := tx.Query(ctx, `SELECT craft_type, part, sum(delta)::int FROM shelf_moves GROUP BY 1, 2`)
	if err != nil {
		return nil, fmt.Errorf("count the shelf: %w", err)
	}
	out := map[string]map[string]int{}
	var of, part string
	var n int
	_, err = pgx.ForEachRow(rows, []any{&of, &part, &n}, func() error {
		if out[of] == nil {
			out[of] = map[string]int{}
		}
		out[of][part] = n
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("count the shelf: %w", err)
	}
	return out, nil
}

// MoveShelf puts parts on the shelf or takes them off.
func (tx Tx) MoveShelf(ctx context.Context, id, by uuid.UUID, craftType, part string, delta int, why string) error {
	_, err := tx.Exec(ctx, `INSERT INTO shelf_moves (id, school_id, craft_type, part, delta, why, moved_by) VALUES ($1,
		$2, $3, $4, $5, $6, $7) ON CONFLICT (id) DO NOTHING`,
		id, tx.School, craftType, part, delta, why, by)
	if err != nil {
		return fmt.Errorf("move a part: %w", err)
	}
	return nil
}

// FlightsByType counts the attempts flown in the field with each type: each was a flight. The database keeps the count
// as attempts are recorded.
func (tx Tx) FlightsByType(ctx context.Context) (map[string]int, error) {
	rows, err := tx.Query(ctx,
		`SELECT craft_type, sum(flights)::int FROM flights_by_type GROUP BY 1`)
	if err != nil {
		return nil, fmt.Errorf("count the flights: %w", err)
	}
	out := map[string]int{}
	var of string
	var n int
	_, err = pgx.ForEachRow(rows, []any{&of, &n}, func() error { out[of] = n; return nil })
	if err != nil {
		return nil, fmt.Errorf("count the flights: %w", err)
	}
	return out, nil
}
