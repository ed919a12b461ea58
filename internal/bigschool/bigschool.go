// Package bigschool grows a school by many students, for measuring and for tests: each has the record of a student
// of the sample school again and again, with real results, under ids and dates of its own, sealed into a chain of
// its own. Craft and packs with their logs, and field days with their flights, grow with the number of students.
// Tracks and marks are not copied.
package bigschool

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"maestrale/core/record"
	"maestrale/internal/store"
)

// Size is by how much a school grows.
type Size struct {
	Students int
	Attempts int // of each
	Days     int // field days before today
}

// cycle is after how long a student's record begins again, fewest how many attempts make one worth copying, and
// flock how many students share a fleet and a box.
const (
	cycle  = 28 * 24 * time.Hour
	fewest = 40
	flock  = 50
)

// entry is a row of a chain that is copied.
type entry struct {
	kind string
	id   uuid.UUID
	body string
	at   time.Time // of an attempt
}

// pattern is a student whose record is copied.
type pattern struct {
	id       uuid.UUID
	attempts []entry
	others   []entry // what was seen and signed
}

type growth struct {
	*pgx.Conn
	from, to uuid.UUID
	size     Size
	patterns []pattern
	staff    []uuid.UUID // of the school that grows
	students []uuid.UUID // that are new
	columns  map[string][]string
}

// Grow adds to a school what it copies from another, a sample school that was loaded into the same database (it may
// be the same one). Rows are laid in by the owner of the tables, without the checks that a single row has.
func Grow(ctx context.Context, ownerURL string, from, to uuid.UUID, size Size) error {
	conn, err := pgx.Connect(ctx, ownerURL)
	if err != nil {
		return fmt.Errorf("grow the school: %w", err)
	}
	defer func() { _ = conn.Close(ctx) }()
	g := &growth{Conn: conn, from: from, to: to, size: size, columns: map[string][]string{}}
	for _, step := range []func(context.Context) error{g.begin, g.read, g.records, g.totals, g.fleet, g.days, g.end} {
		if err := step(ctx); err != nil {
			return fmt.Errorf("grow the school: %w", err)
		}
	}
	return nil
}

func (g *growth) run(ctx context.Context, list ...string) error {
	for _, sql := range list {
		if _, err := g.Exec(ctx, sql); err != nil {
			return fmt.Errorf("%.60s: %w", sql, err)
		}
	}
	return nil
}

func (g *growth) begin(ctx context.Context) error {
	return g.run(ctx, "SET search_path = "+store.Schema, "SET session_replication_role = replica",
		"CREATE TEMP TABLE grown (was uuid, is_id uuid, student uuid, shift interval, by_id uuid)",
		"CREATE INDEX ON grown (was)",
		// What is copied, as it is now: where a school grows out of itself its copies are not copied again.
		"CREATE TEMP TABLE first AS SELECT 'craft' AS kind, id FROM craft WHERE school_id = "+quoted(g.from)+
			" UNION ALL SELECT 'packs', id FROM packs WHERE school_id = "+quoted(g.from)+
			" UNION ALL SELECT 'flights', id FROM flights f WHERE school_id = "+quoted(g.from)+" AND student_id IS NOT NULL"+
			" AND EXISTS (SELECT FROM flight_events e WHERE e.flight_id = f.id AND e.kind = 'end')"+
			" UNION ALL SELECT 'day', id FROM (SELECT id FROM field_days WHERE school_id = "+quoted(g.from)+
			" ORDER BY starts DESC LIMIT 1) d")
}

// quoted is an id in a statement; it has nothing to escape.
func quoted(id uuid.UUID) string { return "'" + id.String() + "'::uuid" }

// first chooses the rows of a kind that were there at the beginning.
func first(kind string) string { return "t.id IN (SELECT id FROM first WHERE kind = '" + kind + "')" }

func (g *growth) end(ctx context.Context) error {
	return g.run(ctx, "DROP TABLE grown, first", "SET session_replication_role = DEFAULT", "CHECKPOINT", "VACUUM ANALYZE")
}

// read finds whose records are worth copying.
func (g *growth) read(ctx context.Context) error {
	err := g.ids(ctx, &g.staff,
		"SELECT id FROM accounts WHERE school_id = $1 AND role IN ('chief', 'instructor') ORDER BY role", g.to)
	if err != nil {
		return err
	}
	var students []uuid.UUID
	if err := g.ids(ctx, &students, "SELECT id FROM students WHERE school_id = $1 ORDER BY name", g.from); err != nil {
		return err
	}
	for _, id := range students {
		p := pattern{id: id}
		rows, err := g.Query(ctx, `SELECT c.kind, c.entry_id, c.body::text, coalesce(a.at, 'epoch'), a.corrects IS NOT NULL
			FROM chain c LEFT JOIN attempts a ON a.id = c.entry_id WHERE c.student_id = $1 ORDER BY c.seq`, id)
		if err != nil {
			return err
		}
		var e entry
		var corrects bool
		if _, err := pgx.ForEachRow(rows, []any{&e.kind, &e.id, &e.body, &e.at, &corrects}, func() error {
			switch {
			case e.kind == "attempt" && !corrects:
				p.attempts = append(p.attempts, e)
			case e.kind == "witnessed" || e.kind == "signoff":
				p.others = append(p.others, e)
			}
			return nil
		}); err != nil {
			return err
		}
		if len(p.attempts) >= fewest {
			g.patterns = append(g.patterns, p)
		}
	}
	if len(g.patterns) == 0 || len(g.staff) == 0 {
		return fmt.Errorf("%d records with %d attempts and %d instructors; expected one of each at least", len(g.patterns),
			fewest, len(g.staff))
	}
	return nil
}

func (g *growth) ids(ctx context.Context, into *[]uuid.UUID, sql string, args ...any) error {
	rows, err := g.Query(ctx, sql, args...)
	if err == nil {
		*into, err = pgx.CollectRows(rows, pgx.RowTo[uuid.UUID])
	}
	return err
}

// records adds the students with their attempts, what was seen and signed, and their chains.
func (g *growth) records(ctx context.Context) error {
	for i := range g.size.Students {
		p := g.patterns[i%len(g.patterns)]
		student := store.NewID()
		g.students = append(g.students, student)
		if err := g.copied(ctx, "students", map[string]string{"id": quoted(student),
			"name": fmt.Sprintf("'Student %04d'", i+1)}, "FROM students t WHERE t.id = "+quoted(p.id)); err != nil {
			return err
		}
		chain, grown, err := p.again(student, g.size.Attempts, g.staff[i%len(g.staff)])
		if err != nil {
			return err
		}
		for k := range chain {
			chain[k][0] = g.to
		}
		if _, err := g.CopyFrom(ctx, pgx.Identifier{"grown"}, []string{"was", "is_id", "student", "shift", "by_id"},
			pgx.CopyFromRows(grown)); err != nil {
			return err
		}
		if _, err := g.CopyFrom(ctx, pgx.Identifier{store.Schema, "chain"}, []string{"school_id", "student_id", "seq", "kind",
			"entry_id", "body", "prev", "hash"}, pgx.CopyFromRows(chain)); err != nil {
			return err
		}
	}
	own := map[string]string{"id": "g.is_id", "student_id": "g.student", "at": "t.at + g.shift",
		"recorded_at": "t.recorded_at + g.shift", "recorded_by": "g.by_id", "witnessed_by": "g.by_id", "signed_by": "g.by_id",
		"until": "t.until + g.shift"}
	for _, table := range []string{"attempts", "witnessed", "signoffs"} {
		if err := g.copied(ctx, table, own, "FROM grown g JOIN "+table+" t ON t.id = g.was"); err != nil {
			return err
		}
	}
	return g.run(ctx, "TRUNCATE grown")
}

var evidence = regexp.MustCompile(`,"(track|marks)_sha256":"[0-9a-f]*"`)

// again is a record once more, of another student and with so many attempts: the rows of its chain, and what became
// of what.
func (p *pattern) again(student uuid.UUID, attempts int, by uuid.UUID) (chain, grown [][]any, err error) {
	var prev record.Hash
	add := func(e entry, shift time.Duration) error {
		id := store.NewID()
		body := evidence.ReplaceAllString(strings.ReplaceAll(e.body, e.id.String(), id.String()), "")
		if e.kind == "attempt" {
			var err error
			if body, err = moved(body, e.at.Add(shift), by); err != nil {
				return err
			}
		}
		seq := int64(len(chain) + 1)
		hash, err := record.Link{Student: student.String(), Seq: seq, Kind: e.kind, ID: id.String(),
			Body: json.RawMessage(body)}.Sum(prev)
		if err != nil {
			return err
		}
		chain = append(chain, []any{nil, student, seq, e.kind, id, body, slices.Clone(prev[:]), slices.Clone(hash[:])})
		grown = append(grown, []any{e.id, id, student, shift, by})
		prev = hash
		return nil
	}
	for _, e := range p.others { // before the oldest attempt, as they are in the sample
		if err := add(e, 0); err != nil {
			return nil, nil, err
		}
	}
	for i := range attempts {
		left := attempts - 1 - i // after this one
		n := len(p.attempts)
		e := p.attempts[n-1-left%n]
		if err := add(e, -time.Duration(left/n)*cycle); err != nil {
			return nil, nil, err
		}
	}
	return chain, grown, nil
}

// moved is the body of an attempt with another date and recorder.
func moved(body string, at time.Time, by uuid.UUID) (string, error) {
	var b record.AttemptBody
	if err := json.Unmarshal([]byte(body), &b); err != nil {
		return "", err
	}
	b.Attempt.At, b.By = at.UTC(), by.String()
	out, err := json.Marshal(b)
	return string(out), err
}

// copied inserts rows of a table again, with some columns of another value; school_id is that of the school that
// grows.
func (g *growth) copied(ctx context.Context, table string, own map[string]string, from string) error {
	if g.columns[table] == nil {
		rows, err := g.Query(ctx, `SELECT column_name FROM information_schema.columns WHERE table_schema = $1
			AND table_name = $2 AND is_generated = 'NEVER' ORDER BY ordinal_position`, store.Schema, table)
		if err == nil {
			g.columns[table], err = pgx.CollectRows(rows, pgx.RowTo[string])
		}
		if err != nil {
			return err
		}
	}
	columns := g.columns[table]
	var values []string
	for _, c := range columns {
		switch v, ok := own[c]; {
		case c == "school_id":
			values = append(values, quoted(g.to))
		case ok:
			values = append(values, v)
		default:
			values = append(values, "t."+c)
		}
	}
	return g.run(ctx, "INSERT INTO "+table+" ("+strings.Join(columns, ", ")+") SELECT "+strings.Join(values, ", ")+
		" "+from)
}

// totals works out what the triggers and the store count as attempts come.
func (g *growth) totals(ctx context.Context) error {
	if _, err := g.Exec(ctx, `INSERT INTO flights_by_type SELECT school_id, student_id, craft_type, count(*) FROM attempts
		WHERE student_id = ANY($1) AND source <> 'sim' AND corrects IS NULL GROUP BY 1, 2, 3`, g.students); err != nil {
		return err
	}
	_, err := g.Exec(ctx, `INSERT INTO aspect_totals (school_id, student_id, position_hold, seconds)
		SELECT school_id, student_id, hold, array_agg(sum ORDER BY i) FROM (SELECT school_id, student_id,
			aids = 'position-hold' AS hold, i, sum(s) AS sum FROM attempts, unnest(aspect_s) WITH ORDINALITY AS u(s, i)
			WHERE student_id = ANY($1) AND verdict <> 'void' AND source <> 'sim' GROUP BY 1, 2, 3, 4) x GROUP BY 1, 2, 3`,
		g.students)
	return err
}
