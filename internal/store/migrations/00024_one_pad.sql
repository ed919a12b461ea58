-- One marking pad: what is marked belongs to the sign-in that fetched the day. What comes from another sign-in waits
-- for a person; what a device keeps is sealed to the server; voice notes and what a spotter saw stand beside the marks.

-- +goose Up
ALTER TABLE openings ADD COLUMN sign_in_id uuid;  -- null = marked before it was noted
ALTER TABLE openings ADD COLUMN sure_s double precision;
  -- by how much began_at may be off; null = not known, then the order of the device's counter was used

-- How long an attempt lasted, from its moment: what overlaps it is of the same flight.
ALTER TABLE attempts ADD COLUMN from_s double precision NOT NULL DEFAULT 0;
ALTER TABLE attempts ADD COLUMN until_s double precision; -- null = not known

CREATE INDEX openings_by_sign_in ON openings (device_id, sign_in_id, device_seq) WHERE device_id IS NOT NULL;

-- The server's own key: devices seal to its public half what they have not sent. One for all schools of a server.
CREATE TABLE seal_keys (
    id      uuid PRIMARY KEY,
    private bytea NOT NULL,   -- P-256
    secret  bytea NOT NULL,   -- what the secrets of sign-ins are made with
    made_at timestamptz NOT NULL DEFAULT now()
);

-- What a device delivered that was made under another sign-in than the one that delivered it.
CREATE TABLE held (
    id           uuid PRIMARY KEY,
    item         uuid NOT NULL,    -- the attempt, the run or the note; it can be delivered again, with more in it
    school_id    uuid NOT NULL REFERENCES schools,
    kind         text NOT NULL,
    account_id   uuid NOT NULL,    -- whose sign-in made it
    sign_in_id   uuid NOT NULL,
    body         json NOT NULL,
    delivered_by uuid NOT NULL,    -- may be of another school
    delivered_at timestamptz NOT NULL DEFAULT now(),
    UNIQUE (school_id, id),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
CREATE UNIQUE INDEX held_once ON held (item, md5(body::text));
CREATE INDEX held_by_school ON held (school_id, delivered_at DESC);
CREATE TABLE held_decisions (
    held_id    uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    keeps      boolean NOT NULL,
    reason     text NOT NULL DEFAULT '',
    decided_by uuid NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, held_id) REFERENCES held (school_id, id),
    FOREIGN KEY (school_id, decided_by) REFERENCES accounts (school_id, id)
);

-- Attempts whose date somebody has looked at, because it may be wrong.
CREATE TABLE dates_looked_at (
    attempt_id uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    looked_by  uuid NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, looked_by) REFERENCES accounts (school_id, id)
);

-- What a spotter saw, by the server's time: it joins the marks of the attempt that was flown then.
CREATE TABLE sightings (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    at         timestamptz NOT NULL,
    mark       text NOT NULL,
    toward     text NOT NULL DEFAULT '',
    seen_by    uuid NOT NULL,
    kept_at    timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, seen_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX sightings_by_student ON sightings (school_id, student_id, at DESC);

-- What was said while an attempt was flown. Who spoke and the chief can delete it.
CREATE TABLE voice_notes (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    attempt_id uuid NOT NULL,     -- of the opening; the attempt may come later
    t_s        double precision NOT NULL,
    seconds    double precision NOT NULL,
    mime       text NOT NULL,
    sound      bytea NOT NULL,
    spoken_by  uuid NOT NULL,
    kept_at    timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, spoken_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX voice_notes_by_attempt ON voice_notes (school_id, attempt_id, t_s);
CREATE TABLE voice_notes_gone (
    id        uuid PRIMARY KEY,   -- a note that was deleted stays deleted, however late a device sends it
    school_id uuid NOT NULL REFERENCES schools,
    gone_by   uuid NOT NULL,
    at        timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, gone_by) REFERENCES accounts (school_id, id)
);

-- +goose StatementBegin
-- Whose sign-in it is, in whatever school, whether or not it has ended.
CREATE FUNCTION owner_of_sign_in(sign_in uuid)
RETURNS TABLE (account_id uuid, school_id uuid, begun_at timestamptz, ended_at timestamptz)
LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT i.account_id, i.school_id, i.begun_at, i.ended_at FROM sign_ins i WHERE i.id = sign_in
$$;

DO $$
DECLARE t text;
BEGIN
    FOREACH t IN ARRAY ARRAY['held', 'held_decisions', 'sightings', 'voice_notes_gone',
      'dates_looked_at'] LOOP
        EXECUTE format('CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON %I '
            'FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
        EXECUTE format('CREATE TRIGGER never_emptied BEFORE TRUNCATE ON %I '
            'FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
    END LOOP;
    FOREACH t IN ARRAY ARRAY['held', 'held_decisions', 'sightings', 'voice_notes', 'voice_notes_gone',
      'dates_looked_at'] LOOP
        EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
        EXECUTE format('CREATE POLICY one_school ON %I USING (school_id = current_school()) '
            'WITH CHECK (school_id = current_school())', t);
        EXECUTE format('GRANT SELECT, INSERT ON %I TO maestrale_app', t);
    END LOOP;
    GRANT DELETE ON voice_notes TO maestrale_app;
    GRANT SELECT, INSERT ON seal_keys TO maestrale_app;
    EXECUTE format('ALTER FUNCTION owner_of_sign_in(uuid) SET search_path = %I', current_schema());
    REVOKE ALL ON FUNCTION owner_of_sign_in(uuid) FROM PUBLIC;
    GRANT EXECUTE ON FUNCTION owner_of_sign_in(uuid) TO maestrale_app;
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw away who marked what'; END $$;
-- +goose StatementEnd
