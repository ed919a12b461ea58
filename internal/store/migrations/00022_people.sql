-- A school that begins on an empty database, its people and how they come in: setup codes, links, sign-ins, passkeys,
-- units, and a student who confirms on the instructor's device.

-- +goose Up
ALTER TABLE schools ADD COLUMN length_unit text NOT NULL DEFAULT 'm' CHECK (length_unit IN ('m', 'ft'));
ALTER TABLE schools ADD COLUMN speed_unit text NOT NULL DEFAULT 'm/s'
  CHECK (speed_unit IN ('m/s', 'km/h', 'kn', 'mph'));
ALTER TABLE schools ADD COLUMN closed_at timestamptz;
ALTER TABLE accounts ADD COLUMN length_unit text CHECK (length_unit IN ('m', 'ft')); -- null = as the school
ALTER TABLE accounts ADD COLUMN speed_unit text CHECK (speed_unit IN ('m/s', 'km/h', 'kn', 'mph'));
ALTER TABLE school_settings ADD COLUMN skipped text[] NOT NULL DEFAULT '{}'; -- first steps that were skipped
ALTER TABLE students ADD COLUMN goal text NOT NULL DEFAULT '';
ALTER TABLE students ADD COLUMN left_on date; -- null = in training

-- The names that a school has had, each from its day on: what was signed under a name keeps it.
CREATE TABLE school_names (
    id        uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    since     timestamptz NOT NULL,
    name      text NOT NULL CHECK (name <> '')
);
CREATE INDEX school_names_newest ON school_names (school_id, since DESC);
INSERT INTO school_names (id, school_id, since, name) SELECT gen_random_uuid(), id, '-infinity', name FROM schools;

-- Codes that the server printed while there was no school. Only their hashes are kept.
CREATE TABLE setup_codes (
    hash    bytea PRIMARY KEY CHECK (length(hash) = 32),
    made_at timestamptz NOT NULL DEFAULT now()
);

-- Links that are used once: an invitation, or a new password. Only the hash of the address is kept.
CREATE TABLE links (
    id         uuid PRIMARY KEY,
    hash       bytea NOT NULL UNIQUE CHECK (length(hash) = 32),
    school_id  uuid NOT NULL REFERENCES schools,
    kind       text NOT NULL CHECK (kind IN ('invitation', 'password')),
    account_id uuid,                      -- of a new password
    role       text NOT NULL DEFAULT '',  -- of an invitation
    name       text NOT NULL DEFAULT '',
    email      text NOT NULL DEFAULT '',
    student_id uuid,
    made_by    uuid,                      -- null = from the command line
    made_at    timestamptz NOT NULL DEFAULT now(),
    ends_at    timestamptz NOT NULL,
    used_at    timestamptz,
    revoked_at timestamptz,
    CHECK ((kind = 'password') = (account_id IS NOT NULL)),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, made_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX links_by_school ON links (school_id, made_at DESC);

-- Where people are signed in. The session names its row; once that has ended the session is worth nothing.
CREATE TABLE sign_ins (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    account_id uuid NOT NULL,
    begun_at   timestamptz NOT NULL DEFAULT now(),
    seen_at    timestamptz NOT NULL DEFAULT now(),
    browser    text NOT NULL,
    way        text NOT NULL CHECK (way IN ('password', 'passkey', 'link')),
    ended_at   timestamptz,
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
CREATE INDEX sign_ins_by_account ON sign_ins (school_id, account_id, begun_at DESC);

CREATE TABLE passkeys (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    account_id uuid NOT NULL,
    credential bytea NOT NULL UNIQUE, -- its id, as the browser says it
    name       text NOT NULL,
    host       text NOT NULL,         -- that it signs in at
    body       json NOT NULL,         -- public key, counter and flags
    made_at    timestamptz NOT NULL DEFAULT now(),
    used_at    timestamptz,
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
CREATE INDEX passkeys_by_account ON passkeys (school_id, account_id);

-- How a student confirmed a sign-off's cautions on the instructor's device: the typed name and the drawn signature. The
-- event and the chain hold their hash, so that they can be taken out when the student is forgotten.
ALTER TABLE signoff_events ADD COLUMN way text NOT NULL DEFAULT 'account' CHECK (way IN ('account', 'device'));
ALTER TABLE signoff_events ADD UNIQUE (school_id, id);
CREATE TABLE confirmations (
    event_id  uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    typed     text NOT NULL,
    strokes   text NOT NULL, -- an SVG path in a box of 300 by 100
    FOREIGN KEY (school_id, event_id) REFERENCES signoff_events (school_id, id)
);

ALTER TABLE school_files DROP CONSTRAINT school_files_format_check;
ALTER TABLE school_files ADD CONSTRAINT school_files_format_check CHECK (format IN ('maestrale-drill/1',
  'maestrale-programme/1', 'maestrale-gate/1', 'maestrale-craft/1'));

-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
    EXECUTE 'CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON school_names '
        'FOR EACH ROW EXECUTE FUNCTION refuse_change()';
    FOREACH t IN ARRAY ARRAY['school_names', 'links', 'sign_ins', 'passkeys', 'confirmations'] LOOP
        EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
        EXECUTE format('CREATE POLICY one_school ON %I USING (school_id = current_school()) '
            'WITH CHECK (school_id = current_school())', t);
        EXECUTE format('GRANT SELECT, INSERT ON %I TO maestrale_app', t);
    END LOOP;
    GRANT UPDATE ON links, sign_ins, passkeys, confirmations TO maestrale_app;
    GRANT DELETE ON passkeys TO maestrale_app;
    GRANT UPDATE (name, time_zone, length_unit, speed_unit, closed_at) ON schools TO maestrale_app;
END $$;

-- Whether there is a school at all: until then only the setup is served.
CREATE FUNCTION has_schools() RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT EXISTS (SELECT FROM schools)
$$;
-- Keeps the hash of a setup code; once there is a school it keeps none, and says so.
CREATE FUNCTION keep_setup_code(code bytea) RETURNS boolean LANGUAGE plpgsql SECURITY DEFINER AS $$
BEGIN
    IF EXISTS (SELECT FROM schools) THEN
        RETURN false;
    END IF;
    INSERT INTO setup_codes (hash) VALUES (code);
    RETURN true;
END $$;
CREATE FUNCTION is_setup_code(code bytea) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT EXISTS (SELECT FROM setup_codes WHERE hash = code)
$$;
-- Makes the first school and its chief, for whoever has a setup code. Of two at once the first is served: the second
-- waits and is told that there is a school. It answers 'made', 'code' (not a code) or 'late'.
CREATE FUNCTION begin_school(code bytea, school uuid, school_name text, zone text, lengths text, speeds text,
  chief uuid, chief_name text, chief_email text, hash_of_password text) RETURNS text
LANGUAGE plpgsql SECURITY DEFINER AS $$
BEGIN
    LOCK TABLE schools IN SHARE ROW EXCLUSIVE MODE;
    IF EXISTS (SELECT FROM schools) THEN
        RETURN 'late';
    END IF;
    IF NOT EXISTS (SELECT FROM setup_codes WHERE hash = code) THEN
        RETURN 'code';
    END IF;
    INSERT INTO schools (id, name, time_zone, length_unit, speed_unit)
      VALUES (school, school_name, zone, lengths, speeds);
    INSERT INTO school_names (id, school_id, since, name) VALUES (gen_random_uuid(), school, '-infinity', school_name);
    INSERT INTO accounts (id, school_id, email, name, role, password_hash)
      VALUES (chief, school, lower(chief_email), chief_name, 'chief', hash_of_password);
    DELETE FROM setup_codes;
    RETURN 'made';
END $$;

-- Whose link an address is: asked before a school is known.
CREATE FUNCTION link_of(address bytea) RETURNS TABLE (id uuid, school_id uuid, school text, kind text, account_id uuid,
  role text, name text, email text, ends_at timestamptz, used_at timestamptz, revoked_at timestamptz)
LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT l.id, l.school_id, s.name, l.kind, l.account_id, coalesce(a.role, l.role), coalesce(a.name, l.name),
      coalesce(a.email, l.email), l.ends_at, l.used_at, l.revoked_at
      FROM links l JOIN schools s ON s.id = l.school_id LEFT JOIN accounts a ON a.id = l.account_id
      WHERE l.hash = address
$$;
-- Whose passkey it is: asked before a school is known.
CREATE FUNCTION passkey_of(key bytea) RETURNS TABLE (id uuid, school_id uuid, account_id uuid, body json)
LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT p.id, p.school_id, p.account_id, p.body FROM passkeys p JOIN accounts a ON a.id = p.account_id
      JOIN schools s ON s.id = p.school_id
      WHERE p.credential = key AND a.disabled_at IS NULL AND (s.closed_at IS NULL OR a.role = 'chief')
$$;

CREATE OR REPLACE FUNCTION account_by_email(address text)
RETURNS TABLE (id uuid, school_id uuid, password_hash text) LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT a.id, a.school_id, a.password_hash FROM accounts a JOIN schools s ON s.id = a.school_id
      WHERE a.email = lower(address) AND a.disabled_at IS NULL AND (s.closed_at IS NULL OR a.role = 'chief')
$$;

DROP FUNCTION account_in_session(uuid);
-- Whose account it is, with the school's newest wind: the meter's or a typed one, whichever is newer. An account that
-- was closed, a sign-in that has ended and a school that is closed (but for its chiefs) are nobody's. Without a sign-in
-- only the account is looked at.
CREATE FUNCTION account_in_session(account uuid, sign_in uuid)
RETURNS TABLE (id uuid, school_id uuid, name text, email text, role text, student_id uuid, pace_m double precision,
  school text, time_zone text, length_unit text, speed_unit text, closed_at timestamptz, seen_at timestamptz,
  away_deg double precision, wind_at timestamptz, wind_mps double precision, gust_mps double precision,
  wind_from_deg double precision, from_true_deg double precision,
  long_mps double precision, long_gust_mps double precision, metered boolean, stuck boolean)
LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT a.id, a.school_id, a.name, a.email, a.role, a.student_id, a.pace_m, s.name, s.time_zone,
           coalesce(a.length_unit, s.length_unit), coalesce(a.speed_unit, s.speed_unit), s.closed_at, i.seen_at,
           g.away_deg, w.at, w.mps, w.gust_mps, w.from_deg, w.from_true_deg, w.long_mps, w.long_gust_mps,
           coalesce(w.metered, false), coalesce(w.stuck, false)
      FROM accounts a JOIN schools s ON s.id = a.school_id
      LEFT JOIN sign_ins i ON i.id = sign_in AND i.account_id = a.id AND i.ended_at IS NULL
      LEFT JOIN school_settings g ON g.school_id = a.school_id
      LEFT JOIN LATERAL (
        (SELECT r.at, r.mps, r.gust_mps, r.from_deg, r.from_true_deg, NULL::double precision AS long_mps,
          NULL::double precision AS long_gust_mps, r.metered, false AS stuck
           FROM wind_readings r WHERE r.school_id = a.school_id ORDER BY r.at DESC LIMIT 1)
        UNION ALL
        SELECT n.at, n.mps, n.gust_mps, NULL, n.from_true_deg, n.long_mps, n.long_gust_mps, true, n.stuck
          FROM wind_now n WHERE n.school_id = a.school_id AND n.at IS NOT NULL
        ORDER BY 1 DESC, 6 NULLS LAST LIMIT 1) w ON true -- of the same moment the one that says more
     WHERE a.id = account AND a.disabled_at IS NULL AND (s.closed_at IS NULL OR a.role = 'chief')
       AND (sign_in IS NULL OR i.id IS NOT NULL)
$$;

DO $$
DECLARE f text;
BEGIN
    FOREACH f IN ARRAY ARRAY['has_schools()', 'keep_setup_code(bytea)', 'is_setup_code(bytea)',
      'begin_school(bytea, uuid, text, text, text, text, uuid, text, text, text)', 'link_of(bytea)',
      'passkey_of(bytea)', 'account_by_email(text)', 'account_in_session(uuid, uuid)'] LOOP
        EXECUTE format('ALTER FUNCTION %s SET search_path = %I', f, current_schema());
        EXECUTE format('REVOKE ALL ON FUNCTION %s FROM PUBLIC', f);
        EXECUTE format('GRANT EXECUTE ON FUNCTION %s TO maestrale_app', f);
    END LOOP;
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw accounts and confirmations away'; END $$;
-- +goose StatementEnd
