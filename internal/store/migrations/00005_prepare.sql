-- +goose Up

ALTER TABLE accounts ADD COLUMN pace_m double precision NOT NULL DEFAULT 0.75 CHECK (pace_m BETWEEN 0.3 AND 1.5);
ALTER TABLE craft ADD COLUMN retired_at timestamptz;

-- Where the school flies.
CREATE TABLE sites (
    id        uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    name      text NOT NULL CHECK (name <> ''),
    notes     text NOT NULL DEFAULT '',
    lat_deg   double precision NOT NULL CHECK (lat_deg BETWEEN -90 AND 90),
    lon_deg   double precision NOT NULL CHECK (lon_deg BETWEEN -180 AND 180),
    alt_m     double precision NOT NULL DEFAULT 0,
    UNIQUE (school_id, id),
    UNIQUE (school_id, name)
);

-- A course is the newest of its versions; undoing one is a version more.
CREATE TABLE courses (
    id        uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    site_id   uuid NOT NULL,
    name      text NOT NULL CHECK (name <> ''),
    UNIQUE (school_id, id),
    UNIQUE (school_id, site_id, name),
    FOREIGN KEY (school_id, site_id) REFERENCES sites (school_id, id)
);
CREATE TABLE course_versions (
    course_id  uuid NOT NULL,
    seq        int NOT NULL CHECK (seq >= 1),
    school_id  uuid NOT NULL REFERENCES schools,
    at         timestamptz NOT NULL DEFAULT now(),
    drawn_by   uuid NOT NULL,
    says       text NOT NULL,
    source     text NOT NULL, -- maestrale-course/1
    PRIMARY KEY (course_id, seq),
    FOREIGN KEY (school_id, course_id) REFERENCES courses (school_id, id),
    FOREIGN KEY (school_id, drawn_by) REFERENCES accounts (school_id, id)
);

CREATE TABLE packs (
    id           uuid PRIMARY KEY,
    school_id    uuid NOT NULL REFERENCES schools,
    name         text NOT NULL CHECK (name <> ''),
    craft_type   text NOT NULL,
    chemistry    text NOT NULL CHECK (chemistry IN ('lipo', 'lihv', 'li-ion')),
    cells        int NOT NULL CHECK (cells BETWEEN 1 AND 24),
    capacity_mah double precision NOT NULL CHECK (capacity_mah > 0),
    mass_kg      double precision NOT NULL DEFAULT 0,
    bought_on    date,
    UNIQUE (school_id, id),
    UNIQUE (school_id, name)
);
CREATE TABLE pack_events (
    id        uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    pack_id   uuid NOT NULL,
    at        timestamptz NOT NULL,
    kind      text NOT NULL,
    body      json NOT NULL,
    noted_by  uuid NOT NULL,
    noted_at  timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, pack_id) REFERENCES packs (school_id, id),
    FOREIGN KEY (school_id, noted_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX pack_events_by_pack ON pack_events (school_id, pack_id, at);

CREATE TABLE craft_events (
    id        uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    craft_id  uuid NOT NULL,
    at        timestamptz NOT NULL,
    kind      text NOT NULL,
    body      json NOT NULL,
    noted_by  uuid NOT NULL,
    noted_at  timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, craft_id) REFERENCES craft (school_id, id),
    FOREIGN KEY (school_id, noted_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX craft_events_by_craft ON craft_events (school_id, craft_id, at);

-- What comes to the shelf and leaves it.
CREATE TABLE shelf_moves (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    craft_type text NOT NULL,
    part       text NOT NULL CHECK (part <> ''),
    delta      int NOT NULL CHECK (delta <> 0),
    why        text NOT NULL DEFAULT '',
    at         timestamptz NOT NULL DEFAULT now(),
    moved_by   uuid NOT NULL,
    FOREIGN KEY (school_id, moved_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX shelf_moves_by_part ON shelf_moves (school_id, craft_type, part);

CREATE TABLE checks (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    craft_id   uuid NOT NULL,
    pack_id    uuid,
    student_id uuid,
    course_id  uuid,
    site       text NOT NULL DEFAULT '',
    aids       text NOT NULL,
    minutes    double precision NOT NULL,
    first      boolean NOT NULL,
    goggles    boolean NOT NULL,
    proving    boolean NOT NULL,
    begun_by   uuid NOT NULL,
    begun_at   timestamptz NOT NULL DEFAULT now(),
    UNIQUE (school_id, id),
    FOREIGN KEY (school_id, craft_id) REFERENCES craft (school_id, id),
    FOREIGN KEY (school_id, pack_id) REFERENCES packs (school_id, id),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, course_id) REFERENCES courses (school_id, id),
    FOREIGN KEY (school_id, begun_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX checks_by_craft ON checks (school_id, craft_id, begun_at DESC);

-- What was answered and overridden, and that the craft was cleared; in order of seq.
CREATE TABLE check_entries (
    check_id  uuid NOT NULL,
    seq       int NOT NULL CHECK (seq >= 1),
    school_id uuid NOT NULL REFERENCES schools,
    at        timestamptz NOT NULL,
    kind      text NOT NULL CHECK (kind IN ('answer', 'override', 'cleared')),
    item      text NOT NULL DEFAULT '',
    value     text NOT NULL DEFAULT '', -- the answer, or the reason
    body      json,                     -- when cleared: facts, and every line as it was judged
    noted_by  uuid NOT NULL,
    PRIMARY KEY (check_id, seq),
    FOREIGN KEY (school_id, check_id) REFERENCES checks (school_id, id),
    FOREIGN KEY (school_id, noted_by) REFERENCES accounts (school_id, id)
);

CREATE TABLE school_settings (
    school_id    uuid PRIMARY KEY REFERENCES schools,
    compass_kind text NOT NULL DEFAULT 'when-moved' CHECK (compass_kind IN ('every-day', 'when-moved', 'when-asked')),
    compass_km   double precision NOT NULL DEFAULT 50,
    compass_days int NOT NULL DEFAULT 30,
    course_id    uuid,              -- of the day
    away_deg     double precision,  -- of that course, so that a true wind can be drawn on every page
    session_from text NOT NULL DEFAULT '08:30',
    session_to   text NOT NULL DEFAULT '12:30',
    meter_addr   text NOT NULL DEFAULT '',
    meter_zero_deg double precision NOT NULL DEFAULT 0, -- true direction of the meter's zero mark
    FOREIGN KEY (school_id, course_id) REFERENCES courses (school_id, id)
);

-- The wind as the meter has it now; one row a school, written every few seconds.
CREATE TABLE wind_now (
    school_id uuid PRIMARY KEY REFERENCES schools,
    at        timestamptz, -- of the newest sound sentence; NULL while there was none
    mps       double precision NOT NULL,
    gust_mps  double precision NOT NULL,
    from_true_deg double precision NOT NULL,
    long_mps  double precision NOT NULL,
    long_gust_mps double precision NOT NULL,
    long_from_true_deg double precision NOT NULL,
    steady    double precision NOT NULL,
    sound     bigint NOT NULL,
    dropped   bigint NOT NULL,
    flooded   bigint NOT NULL,
    stuck     boolean NOT NULL,
    why       text NOT NULL DEFAULT ''
);

ALTER TABLE wind_readings ALTER COLUMN read_by DROP NOT NULL;
ALTER TABLE wind_readings ADD COLUMN from_true_deg double precision;
ALTER TABLE wind_readings ADD COLUMN metered boolean NOT NULL DEFAULT false;

-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
    FOREACH t IN ARRAY ARRAY['course_versions', 'pack_events', 'craft_events', 'shelf_moves', 'checks',
      'check_entries'] LOOP
        EXECUTE format('CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON %I '
            'FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
        EXECUTE format('CREATE TRIGGER never_emptied BEFORE TRUNCATE ON %I '
            'FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
    END LOOP;
    FOREACH t IN ARRAY ARRAY['sites', 'courses', 'course_versions', 'packs', 'pack_events', 'craft_events',
      'shelf_moves', 'checks', 'check_entries', 'school_settings', 'wind_now'] LOOP
        EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
        EXECUTE format('CREATE POLICY one_school ON %I USING (school_id = current_school()) '
            'WITH CHECK (school_id = current_school())', t);
        EXECUTE format('GRANT SELECT, INSERT ON %I TO maestrale_app', t);
    END LOOP;
    GRANT UPDATE ON sites, courses, school_settings, wind_now TO maestrale_app;
END $$;

DROP FUNCTION account_in_session(uuid);
-- Who is signed in, with the school's newest wind: the meter's or a typed one,
-- whichever is newer.
CREATE FUNCTION account_in_session(account uuid)
RETURNS TABLE (id uuid, school_id uuid, name text, email text, role text, student_id uuid, pace_m double precision,
  school text, time_zone text, away_deg double precision,
               wind_at timestamptz, wind_mps double precision, gust_mps double precision,
                 wind_from_deg double precision, from_true_deg double precision,
               long_mps double precision, long_gust_mps double precision, metered boolean, stuck boolean)
LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT a.id, a.school_id, a.name, a.email, a.role, a.student_id, a.pace_m, s.name, s.time_zone, g.away_deg,
           w.at, w.mps, w.gust_mps, w.from_deg, w.from_true_deg, w.long_mps, w.long_gust_mps, coalesce(w.metered,
             false), coalesce(w.stuck, false)
      FROM accounts a JOIN schools s ON s.id = a.school_id
      LEFT JOIN school_settings g ON g.school_id = a.school_id
      LEFT JOIN LATERAL (
        (SELECT r.at, r.mps, r.gust_mps, r.from_deg, r.from_true_deg, NULL::double precision AS long_mps,
          NULL::double precision AS long_gust_mps, r.metered, false AS stuck
           FROM wind_readings r WHERE r.school_id = a.school_id ORDER BY r.at DESC LIMIT 1)
        UNION ALL
        SELECT n.at, n.mps, n.gust_mps, NULL, n.from_true_deg, n.long_mps, n.long_gust_mps, true, n.stuck
          FROM wind_now n WHERE n.school_id = a.school_id AND n.at IS NOT NULL
        ORDER BY 1 DESC, 6 NULLS LAST LIMIT 1) w ON true -- of the same moment the one that says more
     WHERE a.id = account AND a.disabled_at IS NULL
$$;

-- Which schools have a wind meter to listen to: asked before a school is known.
CREATE FUNCTION wind_meters() RETURNS TABLE (school_id uuid, addr text,
  zero_deg double precision) LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT g.school_id, g.meter_addr, g.meter_zero_deg FROM school_settings g WHERE g.meter_addr <> ''
$$;
DO $$
BEGIN
    EXECUTE format('ALTER FUNCTION account_in_session(uuid) SET search_path = %I', current_schema());
    EXECUTE format('ALTER FUNCTION wind_meters() SET search_path = %I', current_schema());
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION account_in_session(uuid), wind_meters() FROM PUBLIC;
GRANT EXECUTE ON FUNCTION account_in_session(uuid), wind_meters() TO maestrale_app;

-- +goose Down
-- +goose StatementBegin
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw logs and checks away'; END $$;
-- +goose StatementEnd
