package store

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// Table is a table of the school as it is taken out.
type Table struct{ Name, sql string }

// Tables are what a school takes out: everything but the logs and traces, which stand
// with their attempts, and what nobody else may have (passwords, keys, sessions).
var Tables = []Table{
	{"students", `SELECT id, name, programme, craft_type, trains_for, goal, started_on, left_on, grip FROM students
		WHERE own_of IS NULL
		ORDER BY name`},
	{"people", `SELECT id, name, email, role, student_id, signs_until, disabled_at FROM accounts ORDER BY name`},
	{"attempts", `SELECT id, student_id, at, drill, side, level, aids, frame, craft_type, craft_class, source, verdict,
		margin, wind_mps, gust_mps, wind_from_deg, eyes, zoom, site, light, answering, watched, counts, why_not, corrects,
		origin,
		summary, recorded_by, recorded_at FROM attempts ORDER BY at, id`},
	{"witnessed", `SELECT id, student_id, act, at, witnessed_by FROM witnessed ORDER BY at`},
	{"sign-offs", `SELECT id, student_id, gate, craft_class, at, until, signed_by, reason, conditions, carried_from,
		array_to_string(waived, ' ') AS waived FROM signoffs ORDER BY at`},
	{"sign-off-events", `SELECT id, signoff_id, student_id, kind, at, by_account, reason FROM signoff_events ORDER BY at`},
	{"flights", `SELECT id, student_id, kind, craft_id, pack_id, box, instructor_id, spotter_id, drill, side, aids,
		minutes, begun_at, wind_mps, gust_mps FROM flights ORDER BY begun_at`},
	{"flight-events", `SELECT id, flight_id, at, kind, body, noted_by FROM flight_events ORDER BY at`},
	{"craft", `SELECT id, name, craft_type FROM craft ORDER BY name`},
	{"craft-log", `SELECT id, craft_id, at, kind, body, noted_by FROM craft_events ORDER BY at`},
	{"packs", `SELECT id, name, craft_type, chemistry, cells, capacity_mah, mass_kg, bought_on FROM packs ORDER BY name`},
	{"pack-log", `SELECT id, pack_id, at, kind, body, noted_by FROM pack_events ORDER BY at`},
	{"wind", `SELECT id, at, mps, gust_mps, from_deg, from_true_deg, metered FROM wind_readings ORDER BY at`},
	{"reflexes", `SELECT id, student_id, at, item, seconds, is_right FROM reflexes ORDER BY at, id`},
	{"lost-craft", `SELECT id, student_id, flown_at, lost AS grade, coach FROM runs WHERE lost <> '' ORDER BY flown_at,
		id`},
	{"calls", `SELECT id, student_id, craft_type, at, distance_m, light, shown, called, noted_by FROM calls ORDER BY at,
		id`},
	{"lessons", `SELECT id, student_id, at, ask, plan, planned_by FROM lessons ORDER BY at`},
	{"imports", `SELECT id, student_id, from_school, key, attempts, counts, at, imported_by FROM imports ORDER BY at`},
	{"notes", `SELECT id, attempt_id, t_s, body, account_id, written_at, redacted_at, redacted_by FROM attempt_notes
		ORDER BY written_at, id`},
	{"voice-notes", `SELECT id, student_id, attempt_id, t_s, seconds, mime, spoken_by, kept_at FROM voice_notes
		ORDER BY kept_at, id`},
	{"sightings", `SELECT id, student_id, at, mark, toward, seen_by FROM sightings ORDER BY at, id`},
	{"sites", `SELECT id, name, notes, lat_deg, lon_deg, alt_m FROM sites ORDER BY name`},
	{"courses", `SELECT c.id, c.site_id, c.name, v.seq, v.at, v.drawn_by, v.says, v.source FROM courses c
		JOIN course_versions v ON v.course_id = c.id ORDER BY c.name, c.id, v.seq`},
	{"school-names", `SELECT id, since, name FROM school_names ORDER BY since`},
	{"tables-brought-in", `SELECT id, kind, name, account_id, taken_at, undone_at FROM intakes WHERE taken_at IS NOT NULL
		ORDER BY taken_at`},
	{"acts", `SELECT id, at, by_account, student_id, what FROM acts ORDER BY at`},
}

// Table hands the head of a table and then each of its rows to take, as text. The row is only lent.
func (tx Tx) Table(ctx context.Context, t Table, take func([]string) error) error {
	rows, err := tx.Query(ctx, t.sql, pgx.QueryExecModeSimpleProtocol)
	if err != nil {
		return fmt.Errorf("take out the table %s: %w", t.Name, err)
	}
	defer rows.Close()
	var head []string
	for _, f := range rows.FieldDescriptions() {
		head = append(head, f.Name)
	}
	if err := take(head); err != nil {
		return err
	}
	row := make([]string, len(head))
	var all []byte
	for rows.Next() {
		values := rows.RawValues()
		all = all[:0]
		for _, v := range values {
			all = append(all, v...)
		}
		text := string(all) // one copy for the whole row
		for i, v := range values {
			row[i], text = text[:len(v)], text[len(v):]
		}
		if err := take(row); err != nil {
			return err
		}
	}
	if err := rows.Err(); err != nil {
		return fmt.Errorf("take out the table %s: %w", t.Name, err)
	}
	return nil
}
