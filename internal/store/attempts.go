package store

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/record"
	"maestrale/core/score"
)

// NewAttempt is an attempt to be kept, with its evidence.
type NewAttempt struct {
	record.Attempt // its ID is a UUID
	StudentID      uuid.UUID
	CraftType      string
	Result         *score.Result
	Drill          drill.Drill // as it was flown
	CourseSource   string      // as it was laid; empty = the drill's own template
	By             uuid.UUID
	RecordedAt     time.Time // zero = now
	Track          *TrackFile
	Marks          []score.Mark
	// FromS and UntilS are when it was flown, in seconds from At; UntilS is zero where that is not known.
	FromS, UntilS float64
}

// Keep appends attempts of one student, in the order given, with their tracks
// and their entries in the student's chain. An attempt whose id is there
// already is left as it is; kept tells how many are new.
func (tx Tx) Keep(ctx context.Context, student uuid.UUID, list ...NewAttempt) (kept int, err error) {
	if err := tx.Lock(ctx, student); err != nil {
		return 0, err
	}
	seq, prev, err := tx.chainEnd(ctx, student)
	if err != nil {
		return 0, err
	}
	for _, a := range list {
		if a.RecordedAt.IsZero() {
			a.RecordedAt = time.Now()
		}
		fresh, body, err := tx.insertAttempt(ctx, &a)
		if err != nil {
			return kept, err
		}
		if !fresh {
			continue
		}
		seq++
		if prev, err = tx.link(ctx, record.Link{Student: student.String(), Seq: seq, Kind: "attempt", ID: a.ID, Body: body},
			prev); err != nil {
			return kept, err
		}
		kept++
	}
	return kept, nil
}

func (tx Tx) insertAttempt(ctx context.Context, a *NewAttempt) (fresh bool, body []byte, err error) {
	a.At = a.At.UTC().Truncate(time.Microsecond)
	a.fill()
	result, err := json.Marshal(a.Result)
	if err != nil {
		return false, nil, fmt.Errorf("keep the result: %w", err)
	}
	corrects, err := correctedID(a.Corrects)
	if err != nil {
		return false, nil, err
	}
	aspects := make([]float32, field.Sectors)
	for i, s := range a.Result.AspectS {
		aspects[i] = float32(s)
	}
	tag, err := tx.Exec(ctx, `INSERT INTO attempts (id, school_id, student_id, at, drill, side, level, aids, frame,
		craft_type, craft_class,
		source, verdict, margin, wind_mps, gust_mps, wind_from_deg, eyes, automatic, zoom, site, light, counts, why_not,
		corrects, summary,
		aspect_s, result, drill_source, recorded_by, recorded_at, course_source, answering, origin, from_s,
		until_s, watched)
		VALUES ($1,$2,$3,$4,$5,$6,$7,$8,$9,$10,$11,$12,$13,$14,$15,$16,$17,$18,$19,$20,$21,$22,$23,$24,$25,$26,$27,$28,$29,
		$30,$31,$32,$33,$34,$35,nullif($36::float8, 0),$37)
		ON CONFLICT (id) DO NOTHING`,
		a.ID, tx.School, a.StudentID, a.At, a.Drill.Key, a.Side, a.Level, a.Aids, a.Frame, a.CraftType, a.CraftClass,
		a.Source, a.Verdict, a.Margin, a.WindMps, a.GustMps, a.WindFromDeg, a.Eyes, a.Automatic, a.Zoom, a.Site, a.Light,
		a.Counts, a.WhyNot,
		corrects, a.Result.Summary(), aspects, string(result), string(a.Drill.Source), a.By, a.RecordedAt, a.CourseSource,
		a.Answering, a.Origin, a.FromS, a.UntilS, a.Watched)
	if violates(err, uniqueViolation) {
		return false, nil, ErrAlreadyCorrected
	}
	if violates(err, foreignKeyViolation) {
		return false, nil, ErrNotFound
	}
	if err != nil {
		return false, nil, fmt.Errorf("keep the attempt: %w", err)
	}
	if tag.RowsAffected() == 0 {
		return false, nil, nil
	}
	if err := tx.addAspects(ctx, a, aspects); err != nil {
		return false, nil, err
	}
	b := record.AttemptBody{Attempt: a.Attempt, CraftType: a.CraftType, By: a.By.String(), DrillSHA256: a.Drill.SHA256(),
		ResultSHA256: sum(result)}
	if a.Track != nil {
		if b.TrackSHA256, err = tx.keepTrack(ctx, a.ID, a.Track); err != nil {
			return false, nil, err
		}
	}
	if a.Marks != nil {
		data, err := json.Marshal(a.Marks)
		if err != nil {
			return false, nil, fmt.Errorf("keep the marks: %w", err)
		}
		b.MarksSHA256 = sum(data)
	}
	body, err = json.Marshal(b)
	return true, body, err
}

// correctedID is the attempt that another corrects; nil for none.
func correctedID(text string) (*uuid.UUID, error) {
	if text == "" {
		return nil, nil
	}
	id, err := uuid.Parse(text)
	if err != nil {
		return nil, fmt.Errorf("corrected attempt: %w", err)
	}
	return &id, nil
}

// ErrAlreadyCorrected is returned where an attempt has a correction already.
var ErrAlreadyCorrected = errors.New("the attempt was corrected already")

// fill fills in what an attempt has when nothing was said.
func (a *NewAttempt) fill() {
	if a.Frame == "" {
		a.Frame = "nose"
	}
	if a.Eyes == "" {
		a.Eyes = "craft"
	}
	if a.Light == "" {
		a.Light = "day"
	}
	if a.Automatic == nil {
		a.Automatic = []string{}
	}
	a.Attempt.Drill, a.Attempt.CraftType = a.Drill.Key, a.CraftType
}

func sum(data []byte) string {
	s := sha256.Sum256(data)
	return hex.EncodeToString(s[:])
}

func (tx Tx) chainEnd(ctx context.Context, student uuid.UUID) (int64, record.Hash, error) {
	var seq int64
	var hash []byte
	err := tx.QueryRow(ctx, `SELECT seq, hash FROM chain WHERE student_id = $1 ORDER BY seq DESC LIMIT 1`,
		student).Scan(&seq, &hash)
	if errors.Is(err, pgx.ErrNoRows) {
		return 0, record.Hash{}, nil
	}
	if err != nil {
		return 0, record.Hash{}, fmt.Errorf("read the chain: %w", err)
	}
	return seq, record.Hash(hash), nil
}

func (tx Tx) link(ctx context.Context, l record.Link, prev record.Hash) (record.Hash, error) {
	hash, err := l.Sum(prev)
	if err != nil {
		return hash, err
	}
	// Kept as it was hashed, so that the database can hash it again.
	if l.Body, err = json.Marshal(l.Body); err != nil {
		return hash, fmt.Errorf("extend the chain: %w", err)
	}
	_, err = tx.Exec(ctx, `INSERT INTO chain (school_id, student_id, seq, kind, entry_id, body, prev, hash) VALUES ($1,
		$2, $3, $4, $5, $6, $7, $8)`,
		tx.School, l.Student, l.Seq, l.Kind, l.ID, string(l.Body), prev[:], hash[:])
	if err != nil {
		return hash, fmt.Errorf("extend the chain: %w", err)
	}
	return hash, nil
}

// Chain reads a student's chain whole.
func (tx Tx) Chain(ctx context.Context, student uuid.UUID) ([]record.Sealed, error) {
	rows, err := tx.Query(ctx,
		`SELECT seq, kind, entry_id, body::text, hash FROM chain WHERE student_id = $1 ORDER BY seq`, student)
	if err != nil {
		return nil, fmt.Errorf("read the chain: %w", err)
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (record.Sealed, error) {
		s := record.Sealed{Link: record.Link{Student: student.String()}}
		var id uuid.UUID
		var body string
		var hash []byte
		err := r.Scan(&s.Seq, &s.Kind, &id, &body, &hash)
		s.ID, s.Body = id.String(), json.RawMessage(body)
		if err == nil {
			s.Hash = record.Hash(hash)
		}
		return s, err
	})
}

// Flown is an attempt as standing needs it, and as a list shows it.
type Flown struct {
	record.Attempt
	Summary string
	Aspects []float32 // seconds inside tolerance by sector of the ring
}

// Attempts reads every attempt of a student, newest first.
func (tx Tx) Attempts(ctx context.Context, student uuid.UUID) ([]Flown, error) {
	return tx.flown(ctx, `student_id = $1 ORDER BY at DESC, id DESC`, student)
}

// Latest reads the newest attempts of a student.
func (tx Tx) Latest(ctx context.Context, student uuid.UUID, n int) ([]Flown, error) {
	return tx.flown(ctx, `student_id = $1 ORDER BY at DESC, id DESC LIMIT $2`, student, n)
}

// Evidence reads what standing rests on, for one student or, with a nil id,
// for every student of the school, and hands each attempt to take: what it was
// and whether it counts, as that was decided when it was recorded. What take
// is given is only lent.
//
// Thousands of rows are read for one page, from an index alone; they are taken
// from the wire as they are, and words that repeat are kept once.
func (tx Tx) Evidence(ctx context.Context, students []uuid.UUID, take func(uuid.UUID, *record.Attempt)) error {
	sql := `SELECT student_id, id, at, corrects, counts, level, drill, side, aids, craft_class, source, verdict, wind_mps,
		site, light, answering, craft_type, margin FROM attempts`
	var args []any
	switch len(students) {
	case 0:
	case 1:
		sql, args = sql+` WHERE student_id = $1`, []any{students[0]}
	default:
		sql, args = sql+` WHERE student_id = ANY($1)`, []any{students}
	}
	rows, err := tx.Query(ctx, sql, args...)
	if err != nil {
		return fmt.Errorf("read the evidence: %w", err)
	}
	defer rows.Close()
	for _, f := range rows.FieldDescriptions() {
		if f.Format != pgtype.BinaryFormatCode && f.DataTypeOID != pgtype.TextOID { // text is the same both ways
			return fmt.Errorf("read the evidence: column %s comes as text", f.Name)
		}
	}
	words := map[string]string{}
	word := func(b []byte) string {
		w, ok := words[string(b)]
		if !ok {
			w = string(b)
			words[w] = w
		}
		return w
	}
	var a record.Attempt
	var wind, margin float64
	for rows.Next() {
		v := rows.RawValues()
		a = record.Attempt{ID: uuid.UUID(v[1]).String(), At: postgresTime(v[2]), Counts: v[4][0] == 1,
			Level: int(binary.BigEndian.Uint32(v[5])),
			Drill: word(v[6]), Side: field.Side(word(v[7])), Aids: craft.Aids(word(v[8])), CraftClass: craft.Class(word(v[9])),
			Source: score.Source(word(v[10])), Verdict: score.Verdict(word(v[11])), WindMps: double(&wind,
				v[12]), Site: word(v[13]), Light: word(v[14]), Answering: v[15][0] == 1, CraftType: word(v[16]),
			Margin: double(&margin, v[17])}
		if v[3] != nil {
			a.Corrects = uuid.UUID(v[3]).String()
		}
		take(uuid.UUID(v[0]), &a)
	}
	if err := rows.Err(); err != nil {
		return fmt.Errorf("read the evidence: %w", err)
	}
	return nil
}

// double reads a double precision as it comes over the wire into a place; nil for null.
func double(into *float64, b []byte) *float64 {
	if b == nil {
		return nil
	}
	*into = math.Float64frombits(binary.BigEndian.Uint64(b))
	return into
}

// postgresTime reads a timestamptz as it comes over the wire: microseconds
// since the beginning of 2000.
func postgresTime(b []byte) time.Time {
	const y2000 = 946684800
	us := int64(binary.BigEndian.Uint64(b))
	return time.Unix(y2000+us/1e6, us%1e6*1000).UTC()
}

// addAspects adds an attempt's seconds by aspect to the student's totals, or
// takes them away where it is corrected. The totals can be made anew from the
// attempts at any time.
func (tx Tx) addAspects(ctx context.Context, a *NewAttempt, aspects []float32) error {
	const add = `INSERT INTO aspect_totals AS t (school_id, student_id, position_hold, seconds) VALUES ($1, $2, $3, $4)
		ON CONFLICT (school_id, student_id, position_hold) DO UPDATE SET seconds =
		(SELECT array_agg(o + n ORDER BY i) FROM unnest(t.seconds, excluded.seconds) WITH ORDINALITY AS u(o, n, i))`
	if a.Verdict != score.Void && a.Source != score.Sim { // the ring shows the field
		if _, err := tx.Exec(ctx, add, tx.School, a.StudentID, a.Aids == craft.PositionHold, aspects); err != nil {
			return fmt.Errorf("add the seconds by aspect: %w", err)
		}
	}
	if a.Corrects == "" {
		return nil
	}
	_, err := tx.Exec(ctx, `UPDATE aspect_totals t SET seconds = (SELECT array_agg(o - n ORDER BY i)
		FROM unnest(t.seconds, c.aspect_s) WITH ORDINALITY AS u(o, n, i))
		FROM attempts c WHERE c.id = $1 AND c.verdict <> 'void' AND c.source <> 'sim' AND t.student_id = c.student_id
		AND t.position_hold = (c.aids = 'position-hold')`, a.Corrects)
	if err != nil {
		return fmt.Errorf("take the seconds by aspect away: %w", err)
	}
	return nil
}

const flownColumns = `id, at, drill, side, level, aids, frame, craft_class, source, verdict, margin, wind_mps,
	wind_from_deg,
	eyes, automatic, zoom, counts, why_not, corrects, summary, aspect_s, gust_mps, site, light, answering, origin,
		craft_type, watched`

func scanFlown(rows pgx.Rows, more ...any) (Flown, error) {
	var f Flown
	var id uuid.UUID
	var corrects *uuid.UUID
	err := rows.Scan(append(more, &id, &f.At, &f.Drill, &f.Side, &f.Level, &f.Aids, &f.Frame, &f.CraftClass, &f.Source,
		&f.Verdict, &f.Margin,
		&f.WindMps, &f.WindFromDeg, &f.Eyes, &f.Automatic, &f.Zoom, &f.Counts, &f.WhyNot, &corrects, &f.Summary, &f.Aspects,
		&f.GustMps, &f.Site, &f.Light, &f.Answering, &f.Origin, &f.Attempt.CraftType,
		&f.Watched)...)
	f.ID = id.String()
	if corrects != nil {
		f.Corrects = corrects.String()
	}
	return f, err
}

func (tx Tx) flown(ctx context.Context, where string, args ...any) ([]Flown, error) {
	rows, err := tx.Query(ctx, `SELECT `+flownColumns+` FROM attempts WHERE `+where, args...)
	if err != nil {
		return nil, fmt.Errorf("read attempts: %w", err)
	}
	var out []Flown
	for rows.Next() {
		f, err := scanFlown(rows)
		if err != nil {
			return nil, fmt.Errorf("read attempts: %w", err)
		}
		out = append(out, f)
	}
	return out, rows.Err()
}

// Kept is an attempt whole, with its student and who recorded it.
type Kept struct {
	record.Attempt
	StudentID    uuid.UUID
	Student      string
	CraftType    string
	Result       score.Result
	DrillSource  []byte
	CourseSource string
	By           string
	RecordedAt   time.Time
	CorrectedBy  *uuid.UUID
	HasTrack     bool
}

// Attempt reads an attempt of the school.
func (tx Tx) Attempt(ctx context.Context, id uuid.UUID) (Kept, error) {
	var k Kept
	var result, source string
	var own uuid.UUID
	var corrects *uuid.UUID
	err := tx.QueryRow(ctx, `SELECT a.id, a.at, a.drill, a.side, a.level, a.aids, a.frame, a.craft_class, a.source,
		a.verdict, a.margin,
		a.wind_mps, a.gust_mps, a.wind_from_deg, a.eyes, a.automatic, a.zoom, a.site, a.light, a.counts, a.why_not,
		a.corrects, a.answering, a.watched, a.origin,
		a.student_id, s.name, a.craft_type, a.result::text, a.drill_source, a.course_source, b.name, a.recorded_at,
		(SELECT c.id FROM attempts c WHERE c.corrects = a.id), EXISTS (SELECT FROM tracks t
		WHERE t.attempt_id = coalesce(a.corrects, a.id))
		FROM attempts a JOIN students s ON s.id = a.student_id JOIN accounts b ON b.id = a.recorded_by
		WHERE a.id = $1`, id).Scan(
		&own, &k.At, &k.Drill, &k.Side, &k.Level, &k.Aids, &k.Frame, &k.CraftClass, &k.Source, &k.Verdict, &k.Margin,
		&k.WindMps, &k.GustMps, &k.WindFromDeg, &k.Eyes, &k.Automatic, &k.Zoom, &k.Site, &k.Light, &k.Counts, &k.WhyNot,
		&corrects, &k.Answering, &k.Watched, &k.Origin,
		&k.StudentID, &k.Student, &k.CraftType, &result, &source, &k.CourseSource, &k.By, &k.RecordedAt, &k.CorrectedBy,
		&k.HasTrack)
	if errors.Is(err, pgx.ErrNoRows) {
		return k, ErrNotFound
	}
	if err != nil {
		return k, fmt.Errorf("read the attempt: %w", err)
	}
	k.ID, k.DrillSource = own.String(), []byte(source)
	if corrects != nil {
		k.Corrects = corrects.String()
	}
	if err := json.Unmarshal([]byte(result), &k.Result); err != nil {
		return k, fmt.Errorf("read the result: %w", err)
	}
	return k, nil
}
