package main

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"

	"maestrale/core/record"
	"maestrale/internal/store"
)

// compare holds what the clients were told against what is stored.
func (s *siege) compare(ctx context.Context, told *acknowledged, out *report) error {
	if s.pg.Ended() {
		if err := s.startDatabase(ctx); err != nil {
			return err
		}
	}
	conn, err := store.Connect(ctx, s.pg.URL())
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }()
	wrong := func(format string, args ...any) {
		if len(out.Wrong) < 50 {
			out.Wrong = append(out.Wrong, fmt.Sprintf(format, args...))
		}
	}
	stored, err := counted(ctx, conn, `SELECT id::text, count(*) FROM maestrale.attempts GROUP BY 1`)
	if err != nil {
		return err
	}
	marks, err := counted(ctx, conn, `SELECT id::text, count(*) FROM maestrale.marks GROUP BY 1`)
	if err != nil {
		return err
	}
	entries, err := counted(ctx, conn, `SELECT entry_id::text, count(*) FROM maestrale.chain
		WHERE kind = 'attempt' GROUP BY 1`)
	if err != nil {
		return err
	}
	tracks, err := counted(ctx, conn, `SELECT encode(t.sha256, 'hex'), count(*) FROM maestrale.tracks t
		JOIN maestrale.attempts a ON a.id = t.attempt_id WHERE a.source = 'track' GROUP BY 1`)
	if err != nil {
		return err
	}
	for id, how := range told.attempts {
		if stored[id] != 1 || entries[id] != 1 {
			wrong("attempt %s, sent as %s: acknowledged, stored %d times, in the chain %d times", id, how, stored[id],
				entries[id])
		}
	}
	for id, of := range told.marks {
		if marks[id] != 1 {
			wrong("mark %s of attempt %s: acknowledged, stored %d times", id, of, marks[id])
		}
	}
	for id, n := range stored {
		if n != 1 || entries[id] != 1 {
			wrong("attempt %s: stored %d times, in the chain %d times", id, n, entries[id])
		}
	}
	for sum, n := range tracks {
		if n != 1 {
			wrong("the log %s: kept %d times", sum, n)
		}
	}
	for words, n := range told.refused {
		wrong("refused %d times: %s", n, words)
	}
	out.Stored, out.ChainEntries = len(stored), len(entries)
	return s.verify(ctx, wrong)
}

func counted(ctx context.Context, conn *pgx.Conn, sql string) (map[string]int, error) {
	rows, err := conn.Query(ctx, sql)
	if err != nil {
		return nil, fmt.Errorf("read what is stored: %w", err)
	}
	out := map[string]int{}
	var id string
	var n int
	if _, err := pgx.ForEachRow(rows, []any{&id, &n}, func() error { out[id] = n; return nil }); err != nil {
		return nil, fmt.Errorf("read what is stored: %w", err)
	}
	return out, nil
}

// verify computes every chain anew.
func (s *siege) verify(ctx context.Context, wrong func(string, ...any)) error {
	st, err := store.Open(ctx, s.pg.URL(), nil)
	if err != nil {
		return err
	}
	defer st.Close()
	return st.InSchool(ctx, s.school, func(tx store.Tx) error {
		for _, id := range s.students {
			chain, err := tx.Chain(ctx, id)
			if err != nil {
				return err
			}
			broken, err := record.Verify(chain)
			if err != nil {
				return err
			}
			if broken != 0 {
				wrong("the chain of student %s breaks at entry %d", id, broken)
			}
		}
		return nil
	})
}
