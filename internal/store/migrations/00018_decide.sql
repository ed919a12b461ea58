-- Deciding: what an attempt was flown with that clauses ask for, who may sign, what a
-- sign-off is bound to and what became of it, the card that shows it, records that go out
-- and come in, planned lessons, and what each student's record comes to.

-- +goose Up
ALTER TABLE attempts ADD COLUMN answering boolean NOT NULL DEFAULT false; -- while answering questions
ALTER TABLE attempts ADD COLUMN origin text NOT NULL DEFAULT '';
  -- the school that recorded it, where another did
ALTER TABLE accounts ADD COLUMN signs_until timestamptz;                  -- an instructor's right to sign; null = none

DROP INDEX attempts_by_student;
CREATE INDEX attempts_by_student ON attempts (school_id, student_id, at DESC)
    INCLUDE (id, drill, side, level, aids, craft_class, source, verdict, counts, corrects, wind_mps, site, light,
      answering, craft_type, margin);
CREATE INDEX attempts_by_time ON attempts (school_id, at DESC);

ALTER TABLE signoffs ADD COLUMN conditions json NOT NULL DEFAULT '{}';
ALTER TABLE signoffs ADD COLUMN carried_from text NOT NULL DEFAULT '';
ALTER TABLE signoffs ADD COLUMN waived text[] NOT NULL DEFAULT '{}';
ALTER TABLE signoffs ADD UNIQUE (school_id, id);

-- The student has read the cautions; or the sign-off was withdrawn.
CREATE TABLE signoff_events (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    signoff_id uuid NOT NULL,
    kind       text NOT NULL CHECK (kind IN ('read', 'withdrawn')),
    at         timestamptz NOT NULL,
    by_account uuid NOT NULL,
    reason     text NOT NULL DEFAULT '',
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, signoff_id) REFERENCES signoffs (school_id, id),
    FOREIGN KEY (school_id, by_account) REFERENCES accounts (school_id, id)
);
CREATE INDEX signoff_events_by_student ON signoff_events (school_id, student_id);

-- Cards: an address that shows one sign-off to everybody who has it, until it is revoked.
-- Only the hash of the address is kept.
CREATE TABLE cards (
    hash       bytea PRIMARY KEY CHECK (length(hash) = 32),
    school_id  uuid NOT NULL REFERENCES schools,
    signoff_id uuid NOT NULL,
    made_by    uuid NOT NULL,
    made_at    timestamptz NOT NULL DEFAULT now(),
    revoked_at timestamptz,
    FOREIGN KEY (school_id, signoff_id) REFERENCES signoffs (school_id, id),
    FOREIGN KEY (school_id, made_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX cards_by_signoff ON cards (school_id, signoff_id);

-- The key with which a school signs what it hands out.
CREATE TABLE school_keys (
    school_id uuid PRIMARY KEY REFERENCES schools,
    seed      bytea NOT NULL CHECK (length(seed) = 32),
    made_at   timestamptz NOT NULL DEFAULT now()
);

-- Records that came from another school, as they came.
CREATE TABLE imports (
    id          uuid PRIMARY KEY,
    school_id   uuid NOT NULL REFERENCES schools,
    student_id  uuid NOT NULL,
    from_school text NOT NULL,
    key         text NOT NULL,
    sha256      bytea NOT NULL,
    file        bytea NOT NULL, -- compressed with zstd
    attempts    int NOT NULL,
    counts      boolean NOT NULL, -- as the chief decided when it came
    at          timestamptz NOT NULL,
    imported_by uuid NOT NULL,
    UNIQUE (school_id, id),
    UNIQUE (school_id, sha256),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, imported_by) REFERENCES accounts (school_id, id)
);

-- Lessons as they were planned.
CREATE TABLE lessons (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    at         timestamptz NOT NULL,
    ask        json NOT NULL,
    plan       json NOT NULL,
    planned_by uuid NOT NULL,
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, planned_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX lessons_by_student ON lessons (school_id, student_id, at DESC);

-- Who did what besides what the records themselves say.
CREATE TABLE acts (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    at         timestamptz NOT NULL DEFAULT now(),
    by_account uuid NOT NULL,
    student_id uuid,
    what       text NOT NULL,
    FOREIGN KEY (school_id, by_account) REFERENCES accounts (school_id, id)
);
CREATE INDEX acts_by_time ON acts (school_id, at DESC);

-- What a student's record comes to, for the view of the whole school: good while the
-- chain has not grown and nothing has lapsed by time. It can be made anew at any time.
CREATE TABLE student_views (
    school_id   uuid NOT NULL REFERENCES schools,
    student_id  uuid NOT NULL,
    seq         bigint NOT NULL,
    rules       text NOT NULL, -- which rules it was made by
    valid_until timestamptz NOT NULL,
    body        json NOT NULL,
    PRIMARY KEY (school_id, student_id),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id)
);

ALTER TABLE school_files DROP CONSTRAINT school_files_format_check;
ALTER TABLE school_files ADD CONSTRAINT school_files_format_check CHECK (format IN ('maestrale-drill/1',
  'maestrale-programme/1', 'maestrale-gate/1'));

-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
    FOREACH t IN ARRAY ARRAY['signoff_events', 'imports', 'lessons', 'acts', 'school_keys'] LOOP
        EXECUTE format('CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON %I '
            'FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
        EXECUTE format('CREATE TRIGGER never_emptied BEFORE TRUNCATE ON %I '
            'FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
    END LOOP;
    FOREACH t IN ARRAY ARRAY['signoff_events', 'cards', 'school_keys', 'imports', 'lessons', 'acts',
      'student_views'] LOOP
        EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
        EXECUTE format('CREATE POLICY one_school ON %I USING (school_id = current_school()) '
            'WITH CHECK (school_id = current_school())', t);
        EXECUTE format('GRANT SELECT, INSERT ON %I TO maestrale_app', t);
    END LOOP;
    GRANT UPDATE ON cards, student_views TO maestrale_app;
END $$;

-- Whose card it is: asked before a school is known. A revoked one is nobody's.
CREATE FUNCTION card_of(address bytea) RETURNS TABLE (school_id uuid, signoff_id uuid, school text,
  time_zone text) LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT c.school_id, c.signoff_id, s.name, s.time_zone FROM cards c JOIN schools s ON s.id = c.school_id
      WHERE c.hash = address AND c.revoked_at IS NULL
$$;
CREATE FUNCTION signs_until_of(account uuid) RETURNS timestamptz LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT a.signs_until FROM accounts a WHERE a.id = account
$$;
DO $$
BEGIN
    EXECUTE format('ALTER FUNCTION card_of(bytea) SET search_path = %I', current_schema());
    EXECUTE format('ALTER FUNCTION signs_until_of(uuid) SET search_path = %I', current_schema());
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION card_of(bytea), signs_until_of(uuid) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION card_of(bytea), signs_until_of(uuid) TO maestrale_app;

-- +goose Down
-- +goose StatementBegin
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw decisions away'; END $$;
-- +goose StatementEnd
