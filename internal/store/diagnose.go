package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// Diagnosis is what the database says of itself and of the server's login.
type Diagnosis struct {
	Server          string
	Login           string
	Version         int64
	Now             time.Time
	Connections     int
	MostConnections int
	Loose           []string // what the server may do beyond its work
}

// Diagnose asks the database about itself and about the server's login.
func (s *Store) Diagnose(ctx context.Context) (d Diagnosis, err error) {
	err = s.pool.QueryRow(ctx, `SELECT current_setting('server_version'), session_user::text, clock_timestamp(),
		(SELECT count(*)::int FROM pg_stat_activity WHERE backend_type = 'client backend'),
		current_setting('max_connections')::int`).Scan(&d.Server, &d.Login, &d.Now, &d.Connections, &d.MostConnections)
	if err == nil {
		d.Version, err = VersionOf(ctx, s.pool)
	}
	if err != nil {
		return d, fmt.Errorf("ask the database about itself: %w", err)
	}
	rows, err := s.pool.Query(ctx, `
		SELECT 'it may make temporary objects' WHERE has_database_privilege(current_database(), 'TEMP')
		UNION ALL SELECT 'it may make objects in the schema' WHERE has_schema_privilege($1, 'CREATE')
		UNION ALL SELECT 'it is a superuser, or may pass row security, or may make roles' FROM pg_roles
			WHERE rolname = session_user AND (rolsuper OR rolbypassrls OR rolcreaterole)
		UNION ALL SELECT 'the table ' || tablename || ' has no row security, though it belongs to schools' FROM pg_tables t
			WHERE schemaname = $1 AND NOT rowsecurity AND EXISTS (SELECT FROM information_schema.columns c
				WHERE c.table_schema = $1 AND c.table_name = t.tablename AND c.column_name = 'school_id')
		UNION ALL SELECT 'the function ' || proname || ' runs as the owner and may use temporary objects first' FROM pg_proc
			WHERE pronamespace = $1::regnamespace AND prosecdef
			AND NOT coalesce('search_path=' || $1 || ', pg_temp' = ANY (proconfig), false)`, Schema)
	if err != nil {
		return d, fmt.Errorf("ask the database for rights: %w", err)
	}
	if d.Loose, err = pgx.CollectRows(rows, pgx.RowTo[string]); err != nil {
		return d, fmt.Errorf("ask the database for rights: %w", err)
	}
	return d, nil
}
