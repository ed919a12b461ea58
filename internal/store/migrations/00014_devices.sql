-- Marking pads without a network: the devices that marks come from, in which order each
-- device made them, and attempts that two people marked at once, which a person settles.

-- +goose Up
CREATE TABLE devices (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    account_id uuid NOT NULL, -- who signed in on it last
    name       text NOT NULL DEFAULT '',
    first_at   timestamptz NOT NULL DEFAULT now(),
    last_at    timestamptz NOT NULL DEFAULT now(),
    UNIQUE (school_id, id),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
CREATE TABLE device_cuts (
    device_id uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    at        timestamptz NOT NULL DEFAULT now(),
    cut_by    uuid NOT NULL,
    FOREIGN KEY (school_id, device_id) REFERENCES devices (school_id, id),
    FOREIGN KEY (school_id, cut_by) REFERENCES accounts (school_id, id)
);

ALTER TABLE openings ADD COLUMN device_id uuid;
ALTER TABLE openings ADD COLUMN device_seq bigint;
ALTER TABLE openings ADD COLUMN began_at timestamptz;
  -- the device's time, set right by the server's clock; null = as the device had it
ALTER TABLE openings ADD FOREIGN KEY (school_id, device_id) REFERENCES devices (school_id, id);

CREATE INDEX openings_by_device ON openings (device_id, device_seq) WHERE device_id IS NOT NULL;

CREATE TABLE conflicts (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    first_id   uuid NOT NULL, -- the attempt that was there
    second_id  uuid NOT NULL, -- the one that came after it, of the same time
    found_at   timestamptz NOT NULL DEFAULT now(),
    UNIQUE (school_id, id),
    UNIQUE (first_id, second_id),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id)
);
CREATE TABLE conflict_decisions (
    conflict_id uuid PRIMARY KEY,
    school_id   uuid NOT NULL REFERENCES schools,
    stands      uuid NOT NULL, -- the attempt that stands
    decided_by  uuid NOT NULL,
    decided_at  timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, conflict_id) REFERENCES conflicts (school_id, id),
    FOREIGN KEY (school_id, decided_by) REFERENCES accounts (school_id, id)
);

-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
    FOREACH t IN ARRAY ARRAY['device_cuts', 'conflicts', 'conflict_decisions'] LOOP
        EXECUTE format('CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON %I '
            'FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
        EXECUTE format('CREATE TRIGGER never_emptied BEFORE TRUNCATE ON %I '
            'FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
    END LOOP;
    FOREACH t IN ARRAY ARRAY['devices', 'device_cuts', 'conflicts', 'conflict_decisions'] LOOP
        EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
        EXECUTE format('CREATE POLICY one_school ON %I USING (school_id = current_school()) '
            'WITH CHECK (school_id = current_school())', t);
        EXECUTE format('GRANT SELECT, INSERT ON %I TO maestrale_app', t);
    END LOOP;
    GRANT UPDATE ON devices TO maestrale_app;
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw away where marks came from'; END $$;
-- +goose StatementEnd
