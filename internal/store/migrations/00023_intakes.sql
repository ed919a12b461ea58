-- Tables that people bring: kept as they came, with what was made of them, so that it can be undone within an hour. And
-- passes that were brought from paper; notes whose text the chief can take out.

-- +goose Up
ALTER TABLE attempts DROP CONSTRAINT attempts_source_check;
ALTER TABLE attempts ADD CONSTRAINT attempts_source_check CHECK (source IN ('observed', 'track', 'sim', 'claimed'));

CREATE TABLE intakes (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    kind       text NOT NULL DEFAULT '' CHECK (kind IN ('', 'students', 'craft', 'packs', 'passes')),
    name       text NOT NULL,
    sha256     bytea NOT NULL,
    file       bytea NOT NULL, -- compressed with zstd
    account_id uuid NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    taken_at   timestamptz,
    undone_at  timestamptz,
    made       uuid[] NOT NULL DEFAULT '{}',
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
CREATE INDEX intakes_by_time ON intakes (school_id, at DESC);
CREATE UNIQUE INDEX intakes_taken_once ON intakes (school_id, sha256, kind)
  WHERE taken_at IS NOT NULL AND undone_at IS NULL;

-- A note that was taken out keeps its row: who wrote it when, and who took its text out.
ALTER TABLE attempt_notes ADD COLUMN redacted_at timestamptz;
ALTER TABLE attempt_notes ADD COLUMN redacted_by uuid;

-- +goose StatementBegin
CREATE FUNCTION refuse_but_redaction() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'UPDATE' AND NEW.redacted_at IS NOT NULL AND NEW.redacted_by IS NOT NULL
       AND (NEW.id, NEW.school_id, NEW.attempt_id, NEW.t_s, NEW.account_id, NEW.written_at)
         IS NOT DISTINCT FROM (OLD.id, OLD.school_id, OLD.attempt_id, OLD.t_s, OLD.account_id, OLD.written_at) THEN
        RETURN NEW;
    END IF;
    RAISE EXCEPTION 'attempt_notes is append-only: only the text of a note can be taken out'
        USING ERRCODE = 'restrict_violation';
END $$;
DROP TRIGGER append_only ON attempt_notes;
CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON attempt_notes
  FOR EACH ROW EXECUTE FUNCTION refuse_but_redaction();

DO $$
BEGIN
    ALTER TABLE intakes ENABLE ROW LEVEL SECURITY;
    EXECUTE 'CREATE POLICY one_school ON intakes USING (school_id = current_school()) '
        'WITH CHECK (school_id = current_school())';
    GRANT SELECT, INSERT, UPDATE, DELETE ON intakes TO maestrale_app;
END $$;

-- Takes out again what an intake of students, craft or packs made, within an hour. What has been used since is held by
-- the rows that point to it, and nothing is taken out then.
CREATE FUNCTION undo_intake(intake uuid, now timestamptz) RETURNS text LANGUAGE plpgsql SECURITY DEFINER AS $$
DECLARE i record;
BEGIN
    SELECT * INTO i FROM intakes WHERE id = intake AND school_id = current_school() FOR UPDATE;
    IF NOT FOUND OR i.taken_at IS NULL THEN
        RETURN 'none';
    ELSIF i.undone_at IS NOT NULL THEN
        RETURN 'undone';
    ELSIF now > i.taken_at + interval '1 hour' THEN
        RETURN 'late';
    END IF;
    IF i.kind = 'students' THEN
        DELETE FROM students WHERE school_id = current_school() AND id = ANY (i.made);
    ELSIF i.kind = 'craft' THEN
        DELETE FROM craft WHERE school_id = current_school() AND id = ANY (i.made);
    ELSIF i.kind = 'packs' THEN
        DELETE FROM packs WHERE school_id = current_school() AND id = ANY (i.made);
    END IF;
    UPDATE intakes SET undone_at = now WHERE id = intake;
    RETURN 'done';
EXCEPTION WHEN foreign_key_violation THEN
    RETURN 'used';
END $$;

-- Takes the text of a note out; nothing else of it changes.
CREATE FUNCTION redact_note(note uuid, account uuid, words text) RETURNS boolean LANGUAGE plpgsql SECURITY DEFINER AS $$
BEGIN
    UPDATE attempt_notes SET body = words, redacted_at = now(), redacted_by = account
      WHERE id = note AND school_id = current_school();
    RETURN FOUND;
END $$;
DO $$
DECLARE f text;
BEGIN
    FOREACH f IN ARRAY ARRAY['undo_intake(uuid, timestamptz)', 'redact_note(uuid, uuid, text)'] LOOP
        EXECUTE format('ALTER FUNCTION %s SET search_path = %I', f, current_schema());
        EXECUTE format('REVOKE ALL ON FUNCTION %s FROM PUBLIC', f);
        EXECUTE format('GRANT EXECUTE ON FUNCTION %s TO maestrale_app', f);
    END LOOP;
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw claimed passes away'; END $$;
-- +goose StatementEnd
