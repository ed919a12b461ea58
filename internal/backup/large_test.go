package backup

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"maestrale/internal/store"
)

// The school of the figures in docs/ARCHITECTURE.md.
const (
	largeStudents = 500
	largeAttempts = 1000 // of each
)

// fillLarge makes a school of many students, whose attempts have evidence of the usual size and chains that hold.
func fillLarge(b *testing.B, address string) {
	b.Helper()
	conn, err := pgx.Connect(ctx, address)
	if err != nil {
		b.Fatal(err)
	}
	defer func() { _ = conn.Close(ctx) }()
	school, chief := store.NewID(), store.NewID()
	for _, q := range []struct {
		sql  string
		args []any
	}{
		{"SET search_path = " + store.Schema, nil},
		{"INSERT INTO schools (id, name, time_zone) VALUES ($1, 'A large school', 'Europe/Rome')", []any{school}},
		{`INSERT INTO accounts (id, school_id, email, name, role, password_hash) VALUES ($1, $2, 'chief@large.example',
			'The chief', 'chief', 'x')`, []any{chief, school}},
		{`INSERT INTO students (id, school_id, name, programme, craft_type, started_on) SELECT gen_random_uuid(), $1,
			'Student ' || i, 'position-hold-first', 'poiana', now() FROM generate_series(1, $2::int) i`, []any{school,
			largeStudents}},
		{`INSERT INTO attempts (id, school_id, student_id, at, drill, side, level, aids, craft_type, craft_class, source,
			verdict, margin, wind_mps, counts, summary, aspect_s, result, drill_source, recorded_by)
			SELECT gen_random_uuid(), $1, st.id, now() - (i * interval '9 hours'), 'hover-tail-in', 'none', 1, 'position-hold',
			'poiana', 'light', 'observed', 'pass', 0.3, 3.1, true, '20 s inside, 0.4 m out at most', array_fill(1.5::real,
			ARRAY[16]), ('{"verdict":"pass","margin":0.3,"seed":"' || md5(random()::text) || repeat(md5(i::text),
			12) || '"}')::json,
			'', $2 FROM students st, generate_series(1, $3::int) i WHERE st.school_id = $1`,
			[]any{school, chief, largeAttempts}},
		// Chains that hold, in the order of the attempts of each student.
		{`CREATE FUNCTION pg_temp.chained() RETURNS void LANGUAGE plpgsql AS $$
		DECLARE s record; a record; prev bytea; n bigint; body text; words text; sum bytea;
		BEGIN
			FOR s IN SELECT DISTINCT school_id, student_id FROM maestrale.attempts LOOP
				prev := decode(repeat('00', 32), 'hex'); n := 0;
				FOR a IN SELECT id FROM maestrale.attempts WHERE student_id = s.student_id ORDER BY at LOOP
					n := n + 1;
					body := '{"attempt":{"id":"' || a.id || '","drill":"hover-tail-in"},"result_sha256":"' || repeat('ab', 32) || '"}';
					words := '{"student":"' || s.student_id || '","seq":' || n || ',"kind":"attempt","id":"' || a.id || '","body":'
						|| body || '}';
					sum := sha256(prev || convert_to(words, 'UTF8'));
					INSERT INTO maestrale.chain (school_id, student_id, seq, kind, entry_id, body, prev, hash)
						VALUES (s.school_id, s.student_id, n, 'attempt', a.id, body::json, prev, sum);
					prev := sum;
				END LOOP;
			END LOOP;
		END $$`, nil},
		{"SELECT pg_temp.chained()", nil},
	} {
		if _, err := conn.Exec(ctx, q.sql, q.args...); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkRoundTrip backs a school of 500 students with 1,000 attempts each up, and restores it.
func BenchmarkRoundTrip(b *testing.B) {
	from := on(b, source)
	if err := store.Migrate(ctx, from); err != nil {
		b.Fatal(err)
	}
	fillLarge(b, from)
	for b.Loop() {
		file := filepath.Join(b.TempDir(), "large.maestrale")
		begun := time.Now()
		m, err := To(ctx, from, file, Asked, "benchmark", time.Now())
		if err != nil {
			b.Fatal(err)
		}
		b.ReportMetric(time.Since(begun).Seconds(), "s/backup")
		b.ReportMetric(float64(m.Bytes)/1e6, "MB")
		a, err := Open(file)
		if err != nil {
			b.Fatal(err)
		}
		p, err := a.Restore(ctx, on(b, target), servedPage)
		if err != nil {
			b.Fatal(err)
		}
		if p.Entries != largeStudents*largeAttempts {
			b.Fatalf("%d entries were hashed again", p.Entries)
		}
		b.ReportMetric(p.Took.Seconds(), "s/restore")
		_ = a.Close()
		_ = os.Remove(file)
	}
}
