-- What an instructor let happen to a run while it was flown: the run's trace has to
-- agree. And how each person's radio is set, by device.

-- +goose Up
CREATE TABLE injections (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    run_id     uuid NOT NULL, -- the run may never be sent
    event      text NOT NULL,
    account_id uuid NOT NULL,
    sent_at    timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
CREATE INDEX injections_by_run ON injections (school_id, run_id, sent_at);
CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON injections FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER never_emptied BEFORE TRUNCATE ON injections FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
ALTER TABLE injections ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON injections USING (school_id = current_school()) WITH CHECK (school_id = current_school());
GRANT SELECT, INSERT ON injections TO maestrale_app;

CREATE TABLE radios (
    school_id  uuid NOT NULL REFERENCES schools,
    account_id uuid NOT NULL,
    device     text NOT NULL CHECK (device <> ''),
    settings   json NOT NULL,
    changed_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (school_id, account_id, device),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
ALTER TABLE radios ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON radios USING (school_id = current_school()) WITH CHECK (school_id = current_school());
GRANT SELECT, INSERT, UPDATE ON radios TO maestrale_app;

-- +goose Down
DROP TABLE injections, radios;
