-- What an instructor writes to a moment of an attempt.

-- +goose Up
CREATE TABLE attempt_notes (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    attempt_id uuid NOT NULL,
    t_s        double precision CHECK (t_s >= 0), -- null = of the whole attempt
    body       text NOT NULL CHECK (body <> ''),
    account_id uuid NOT NULL,
    written_at timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, attempt_id) REFERENCES attempts (school_id, id),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
CREATE INDEX attempt_notes_by_attempt ON attempt_notes (school_id, attempt_id, t_s);
CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON attempt_notes FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER never_emptied BEFORE TRUNCATE ON attempt_notes FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
ALTER TABLE attempt_notes ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON attempt_notes USING (school_id = current_school()) WITH
  CHECK (school_id = current_school());
GRANT SELECT, INSERT ON attempt_notes TO maestrale_app;

-- +goose Down
DROP TABLE attempt_notes;
