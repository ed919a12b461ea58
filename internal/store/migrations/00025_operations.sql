-- +goose Up

-- Functions that run as the owner, and those that guard the tables, look for names in this schema first and among
-- temporary objects last, wherever the caller's path begins.
-- +goose StatementBegin
DO $$
DECLARE f regprocedure;
BEGIN
    FOR f IN SELECT p.oid::regprocedure FROM pg_proc p JOIN pg_language l ON l.oid = p.prolang
      WHERE p.pronamespace = current_schema()::regnamespace AND (p.prosecdef OR l.lanname = 'plpgsql') LOOP
        EXECUTE format('ALTER FUNCTION %s SET search_path = %I, pg_temp', f, current_schema());
    END LOOP;
END $$;

-- An entry of the chain follows the newest one, names its hash, and carries the hash of its own words: SHA-256 over the
-- hash before and the entry as JSON, as core/record does it. A hash that is anything else is refused.
CREATE OR REPLACE FUNCTION chain_follows() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    last record;
    words text;
BEGIN
    SELECT seq, hash INTO last FROM chain
     WHERE school_id = NEW.school_id AND student_id = NEW.student_id ORDER BY seq DESC LIMIT 1;
    IF NEW.seq <> coalesce(last.seq, 0) + 1 OR NEW.prev <> coalesce(last.hash, decode(repeat('00', 32), 'hex')) THEN
        RAISE EXCEPTION 'entry % does not follow the chain of student %', NEW.seq, NEW.student_id
            USING ERRCODE = 'integrity_constraint_violation';
    END IF;
    words := '{"student":"' || NEW.student_id || '","seq":' || NEW.seq || ',"kind":' || to_json(NEW.kind) || ',"id":"'
        || NEW.entry_id || '","body":' || NEW.body || '}';
    IF NEW.hash <> sha256(NEW.prev || convert_to(words, 'UTF8')) THEN
        RAISE EXCEPTION 'entry % of student % carries a hash that is not that of its words', NEW.seq, NEW.student_id
            USING ERRCODE = 'integrity_constraint_violation';
    END IF;
    RETURN NEW;
END $$;

DO $$ BEGIN
    EXECUTE format('ALTER FUNCTION chain_follows() SET search_path = %I, pg_temp', current_schema());
END $$;
-- +goose StatementEnd

-- The server reads which version the tables have, and refuses one that it does not know.
GRANT SELECT ON goose_db_version TO maestrale_app;

-- Backups that were made of this database. The server reads them for the School page; only the owner writes here.
CREATE TABLE backups (
    id      uuid PRIMARY KEY,
    at      timestamptz NOT NULL,
    file    text NOT NULL,
    bytes   bigint NOT NULL CHECK (bytes > 0),
    sha256  bytea NOT NULL CHECK (length(sha256) = 32),
    why     text NOT NULL CHECK (why IN ('asked', 'daily', 'before-migration'))
);
CREATE INDEX backups_by_time ON backups (at DESC);
GRANT SELECT ON backups TO maestrale_app;

-- Browsers that have signed in to an account before: they are not locked out by somebody else's guesses. Only the hash
-- of what the browser keeps is here.
CREATE TABLE known_browsers (
    hash       bytea PRIMARY KEY CHECK (length(hash) = 32),
    account_id uuid NOT NULL REFERENCES accounts,
    at         timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX known_browsers_by_account ON known_browsers (account_id, at DESC);
GRANT SELECT, INSERT, DELETE ON known_browsers TO maestrale_app;

-- Counts one attempt to sign in under its keys, before the password is looked at, and tells whether it may be: of
-- several at once each is counted. The keys are those of the thing from this place, of the thing from anywhere, and of
-- the place. From a place with too many attempts each thing can still be tried once.
-- +goose StatementBegin
CREATE FUNCTION count_sign_in(keys bytea[], most int[], since timestamptz, now timestamptz) RETURNS boolean
LANGUAGE plpgsql AS $$
DECLARE
    tries int[];
BEGIN
    PERFORM pg_advisory_xact_lock(hashtextextended(encode(k, 'hex'), 19)) FROM unnest(keys) k ORDER BY k;
    SELECT array_agg((SELECT count(*) FROM sign_in_failures f WHERE f.key = k.key AND f.at >= since) ORDER BY k.ord)
      INTO tries FROM unnest(keys) WITH ORDINALITY AS k(key, ord);
    IF tries[1] >= most[1] OR tries[2] >= most[2] OR tries[3] >= most[3] AND tries[1] > 0 THEN
        RETURN false;
    END IF;
    INSERT INTO sign_in_failures (key, at) SELECT k, now FROM unnest(keys) k;
    IF random() < 0.02 THEN
        DELETE FROM sign_in_failures f WHERE f.at < now - interval '1 day';
    END IF;
    RETURN true;
END $$;
DO $$ BEGIN
    EXECUTE format('ALTER FUNCTION count_sign_in(bytea[], int[], timestamptz, timestamptz) '
      'SET search_path = %I, pg_temp', current_schema());
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION count_sign_in(bytea[], int[], timestamptz, timestamptz) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION count_sign_in(bytea[], int[], timestamptz, timestamptz) TO maestrale_app;

-- After how many idle minutes a sign-in ends; the school decides.
ALTER TABLE schools ADD COLUMN idle_minutes int NOT NULL DEFAULT 720 CHECK (idle_minutes BETWEEN 5 AND 43200);
GRANT UPDATE (idle_minutes) ON schools TO maestrale_app;
-- +goose StatementBegin
CREATE FUNCTION idle_minutes_of(school uuid) RETURNS int LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT idle_minutes FROM schools WHERE id = school
$$;
DO $$ BEGIN
    EXECUTE format('ALTER FUNCTION idle_minutes_of(uuid) SET search_path = %I, pg_temp', current_schema());
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION idle_minutes_of(uuid) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION idle_minutes_of(uuid) TO maestrale_app;

-- +goose Down
DROP FUNCTION idle_minutes_of(uuid);
ALTER TABLE schools DROP COLUMN idle_minutes;
DROP FUNCTION count_sign_in(bytea[], int[], timestamptz, timestamptz);
DROP TABLE known_browsers, backups;
