-- Runs of the simulator as they were sent: what was kept became an attempt, what
-- was refused stays for inspection.

-- +goose Up
CREATE TABLE runs (
    id          uuid PRIMARY KEY, -- the attempt's too, where it became one
    school_id   uuid NOT NULL REFERENCES schools,
    student_id  uuid NOT NULL,
    sent_at     timestamptz NOT NULL DEFAULT now(),
    flown_at    timestamptz NOT NULL,
    sent_by     uuid NOT NULL,
    trace       bytea NOT NULL,    -- maestrale-run/1, zstd
    trace_bytes int NOT NULL,
    claimed     text NOT NULL,     -- the hash that came with it
    reflown     text NOT NULL DEFAULT '', -- the hash that the server found
    refused     text NOT NULL DEFAULT '', -- why it was refused; empty = kept
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, sent_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX runs_by_student ON runs (school_id, student_id, flown_at DESC);

-- +goose StatementBegin
DO $$
BEGIN
    EXECUTE 'CREATE TRIGGER never_changed BEFORE UPDATE OR DELETE ON runs '
        'FOR EACH ROW EXECUTE FUNCTION refuse_change()';
    EXECUTE 'CREATE TRIGGER never_emptied BEFORE TRUNCATE ON runs FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()';
    EXECUTE 'ALTER TABLE runs ENABLE ROW LEVEL SECURITY';
    EXECUTE 'CREATE POLICY one_school ON runs USING (school_id = current_school()) '
        'WITH CHECK (school_id = current_school())';
    EXECUTE 'GRANT SELECT, INSERT ON runs TO maestrale_app';
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw runs away'; END $$;
-- +goose StatementEnd
