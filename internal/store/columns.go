package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// headerOf is a header as one text.
func headerOf(names []string) string { return strings.Join(names, "\x1f") }

// KeepColumnMap keeps how the columns of a header are read, in the place of what was
// kept for it before.
func (tx Tx) KeepColumnMap(ctx context.Context, by uuid.UUID, names []string, rename map[string]string) error {
	data, err := json.Marshal(rename)
	if err == nil {
		_, err = tx.Exec(ctx, `INSERT INTO column_maps (school_id, header, rename, account_id) VALUES ($1, $2, $3, $4)
			ON CONFLICT (school_id, header) DO UPDATE SET rename = $3, account_id = $4, kept_at = now()`,
			tx.School, headerOf(names), string(data), by)
	}
	if err != nil {
		return fmt.Errorf("keep the column map: %w", err)
	}
	return nil
}

// ColumnMap is how a header was read before; nil where it is new.
func (tx Tx) ColumnMap(ctx context.Context, names []string) (map[string]string, error) {
	var data string
	err := tx.QueryRow(ctx, `SELECT rename::text FROM column_maps WHERE header = $1`, headerOf(names)).Scan(&data)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, nil //nolint:nilnil // a header that is new has none
	}
	out := map[string]string{}
	if err == nil {
		err = json.Unmarshal([]byte(data), &out)
	}
	if err != nil {
		return nil, fmt.Errorf("read the column map: %w", err)
	}
	return out, nil
}
