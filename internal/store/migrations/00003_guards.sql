-- +goose Up

-- Append-only tables say no to every change, whoever asks.
-- +goose StatementBegin
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '% is append-only: a correction is a new row that points to the old one', TG_TABLE_NAME
        USING ERRCODE = 'restrict_violation';
END $$;

-- An entry of the chain follows the newest one, and names its hash.
CREATE FUNCTION chain_follows() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE last record;
BEGIN
    SELECT seq, hash INTO last FROM chain
     WHERE school_id = NEW.school_id AND student_id = NEW.student_id ORDER BY seq DESC LIMIT 1;
    IF NEW.seq <> coalesce(last.seq, 0) + 1 OR NEW.prev <> coalesce(last.hash, decode(repeat('00', 32), 'hex')) THEN
        RAISE EXCEPTION 'entry % does not follow the chain of student %', NEW.seq, NEW.student_id
            USING ERRCODE = 'integrity_constraint_violation';
    END IF;
    RETURN NEW;
END $$;

DO $$
DECLARE t text;
BEGIN
    FOREACH t IN ARRAY ARRAY['openings', 'marks', 'attempts', 'tracks', 'signoffs', 'chain', 'wind_readings'] LOOP
        EXECUTE format('CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON %I '
            'FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
        EXECUTE format('CREATE TRIGGER never_emptied BEFORE TRUNCATE ON %I '
            'FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
    END LOOP;
END $$;

-- The application's role: it owns nothing, bypasses nothing, and sees one
-- school at a time.
DO $$
BEGIN
    IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'maestrale_app') THEN
        CREATE ROLE maestrale_app NOLOGIN NOSUPERUSER NOBYPASSRLS NOCREATEDB NOCREATEROLE;
    END IF;
EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL; -- another database made it at the same time
END $$;
-- Where an administrator has made the role and granted it, nothing is left to do.
DO $$ BEGIN
    IF NOT pg_has_role(current_user, 'maestrale_app', 'MEMBER') THEN
        EXECUTE format('GRANT maestrale_app TO %I', current_user);
    END IF;
EXCEPTION WHEN insufficient_privilege THEN NULL; -- an owner who makes no roles needs none of this one's rights
END $$;

DO $$
DECLARE t text;
BEGIN
    EXECUTE format('GRANT USAGE ON SCHEMA %I TO maestrale_app', current_schema());
    FOREACH t IN ARRAY ARRAY['openings', 'marks', 'attempts', 'tracks', 'signoffs', 'chain', 'wind_readings',
      'students', 'accounts', 'craft', 'uploads', 'aspect_totals'] LOOP
        EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
        EXECUTE format('CREATE POLICY one_school ON %I USING (school_id = current_school()) '
            'WITH CHECK (school_id = current_school())', t);
        EXECUTE format('GRANT SELECT, INSERT ON %I TO maestrale_app', t);
    END LOOP;
    ALTER TABLE schools ENABLE ROW LEVEL SECURITY;
    CREATE POLICY one_school ON schools USING (id = current_school());
    GRANT SELECT ON schools TO maestrale_app;
    GRANT UPDATE ON students, accounts, craft, aspect_totals TO maestrale_app;
    GRANT DELETE ON uploads TO maestrale_app;
    GRANT SELECT, INSERT, UPDATE, DELETE ON sessions TO maestrale_app;
    GRANT SELECT, INSERT, DELETE ON sign_in_failures TO maestrale_app;
END $$;
-- +goose StatementEnd

CREATE TRIGGER follows BEFORE INSERT ON chain FOR EACH ROW EXECUTE FUNCTION chain_follows();

-- The two questions that have to be asked before a school is known: who signs
-- in with this address, and whose session this is.
-- +goose StatementBegin
CREATE FUNCTION account_by_email(address text)
RETURNS TABLE (id uuid, school_id uuid, password_hash text) LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT a.id, a.school_id, a.password_hash FROM accounts a WHERE a.email = lower(address) AND a.disabled_at IS NULL
$$;
CREATE FUNCTION account_in_session(account uuid)
RETURNS TABLE (id uuid, school_id uuid, name text, email text, role text, student_id uuid, school text, time_zone text,
               wind_at timestamptz, wind_mps double precision, gust_mps double precision,
                 wind_from_deg double precision)
LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT a.id, a.school_id, a.name, a.email, a.role, a.student_id, s.name, s.time_zone, w.at, w.mps, w.gust_mps,
      w.from_deg
      FROM accounts a JOIN schools s ON s.id = a.school_id
      LEFT JOIN LATERAL (SELECT * FROM wind_readings r
        WHERE r.school_id = a.school_id ORDER BY r.at DESC LIMIT 1) w ON true
     WHERE a.id = account AND a.disabled_at IS NULL
$$;
DO $$
BEGIN
    -- They run in the schema they were made in, whatever the caller's path is.
    EXECUTE format('ALTER FUNCTION account_by_email(text) SET search_path = %I', current_schema());
    EXECUTE format('ALTER FUNCTION account_in_session(uuid) SET search_path = %I', current_schema());
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION account_by_email(text), account_in_session(uuid) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION account_by_email(text), account_in_session(uuid) TO maestrale_app;

-- +goose Down
DROP FUNCTION account_in_session, account_by_email;
DROP FUNCTION chain_follows, refuse_change CASCADE;
