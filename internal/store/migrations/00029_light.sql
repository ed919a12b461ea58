-- +goose Up
-- In which light the school flies: by the sun over its site, or always as by day (a hall, floodlights).
ALTER TABLE schools ADD COLUMN light text NOT NULL DEFAULT 'sun' CHECK (light IN ('sun', 'day'));
GRANT UPDATE (light) ON schools TO maestrale_app;
-- +goose StatementBegin
CREATE FUNCTION light_of(school uuid, OUT light text, OUT lat_deg double precision, OUT lon_deg double precision)
LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT s.light, p.lat_deg, p.lon_deg FROM schools s
      LEFT JOIN school_settings g ON g.school_id = s.id
      LEFT JOIN courses c ON c.school_id = s.id AND c.id = g.course_id
      LEFT JOIN sites p ON p.school_id = s.id AND p.id = c.site_id
      WHERE s.id = school
$$;
DO $$ BEGIN
    EXECUTE format('ALTER FUNCTION light_of(uuid) SET search_path = %I, pg_temp', current_schema());
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION light_of(uuid) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION light_of(uuid) TO maestrale_app;

-- +goose Down
DROP FUNCTION light_of(uuid);
ALTER TABLE schools DROP COLUMN light;
