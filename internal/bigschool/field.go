package bigschool

import (
	"context"
	"fmt"
	"time"

	"github.com/google/uuid"

	"maestrale/internal/store"
)

// fleet adds a sample fleet, with the logs of its packs, for every flock of students.
func (g *growth) fleet(ctx context.Context) error {
	for k := range max(1, g.size.Students/flock) {
		name := fmt.Sprintf("t.name || ' %d'", k+2)
		if err := g.copied(ctx, "craft", map[string]string{"id": "gen_random_uuid()", "name": name},
			"FROM craft t WHERE "+first("craft")); err != nil {
			return err
		}
		if err := g.noted(ctx, "packs", 0); err != nil {
			return err
		}
		own := map[string]string{"id": "g.is_id", "name": name}
		if err := g.copied(ctx, "packs", own, "FROM grown g JOIN packs t ON t.id = g.was"); err != nil {
			return err
		}
		own = map[string]string{"id": "gen_random_uuid()", "pack_id": "g.is_id", "noted_by": "g.by_id"}
		if err := g.copied(ctx, "pack_events", own, "FROM grown g JOIN pack_events t ON t.pack_id = g.was"); err != nil {
			return err
		}
		if err := g.run(ctx, "TRUNCATE grown"); err != nil {
			return err
		}
	}
	return nil
}

// noted notes new ids for the rows of a table that were there at the beginning.
func (g *growth) noted(ctx context.Context, table string, shift time.Duration) error {
	_, err := g.Exec(ctx, "INSERT INTO grown SELECT t.id, gen_random_uuid(), $1, $2, $3 FROM "+table+" t WHERE "+
		first(table), g.students[0], shift, g.staff[0])
	return err
}

// days adds field days before today, each with the flights of the sample's day for every flock of students.
func (g *growth) days(ctx context.Context) error {
	for k := range g.size.Days {
		shift := -time.Duration(k+1) * 48 * time.Hour
		day := store.NewID()
		if err := g.copied(ctx, "field_days", map[string]string{"id": quoted(day),
			"starts": fmt.Sprintf("t.starts + interval '%d seconds'", int(shift.Seconds())),
			"ends":   fmt.Sprintf("t.ends + interval '%d seconds'", int(shift.Seconds()))},
			"FROM field_days t WHERE "+first("day")); err != nil {
			return err
		}
		for box := range max(1, g.size.Students/flock) {
			if err := g.noted(ctx, "flights", shift); err != nil {
				return err
			}
			student := g.students[(box*flock+k)%len(g.students)]
			if err := g.flown(ctx, day, student); err != nil {
				return err
			}
		}
	}
	return nil
}

func (g *growth) flown(ctx context.Context, day, student uuid.UUID) error {
	craft, pack := "(SELECT id FROM craft WHERE school_id = "+quoted(g.to)+" LIMIT 1)",
		"(SELECT id FROM packs WHERE school_id = "+quoted(g.to)+" LIMIT 1)"
	own := map[string]string{"id": "g.is_id", "day_id": quoted(day),
		"student_id": quoted(student), "begun_at": "t.begun_at + g.shift",
		"kept_at": "t.kept_at + g.shift", "begun_by": "g.by_id", "instructor_id": "g.by_id", "spotter_id": "NULL",
		"craft_id": craft, "pack_id": pack}
	if err := g.copied(ctx, "flights", own, "FROM grown g JOIN flights t ON t.id = g.was"); err != nil {
		return err
	}
	own = map[string]string{"id": "gen_random_uuid()", "flight_id": "g.is_id", "at": "t.at + g.shift",
		"noted_at": "t.noted_at + g.shift", "noted_by": "g.by_id"}
	if err := g.copied(ctx, "flight_events", own, "FROM grown g JOIN flight_events t ON t.flight_id = g.was"); err != nil {
		return err
	}
	return g.run(ctx, "TRUNCATE grown")
}
