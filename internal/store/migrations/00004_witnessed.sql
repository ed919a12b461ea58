-- +goose Up

-- Acts that somebody saw a student do, for the gates.
CREATE TABLE witnessed (
    id           uuid PRIMARY KEY,
    school_id    uuid NOT NULL REFERENCES schools,
    student_id   uuid NOT NULL,
    act          text NOT NULL,
    at           timestamptz NOT NULL,
    witnessed_by uuid NOT NULL,
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, witnessed_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX witnessed_by_student ON witnessed (school_id, student_id, at DESC);
CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON witnessed FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER never_emptied BEFORE TRUNCATE ON witnessed FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
ALTER TABLE witnessed ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON witnessed USING (school_id = current_school()) WITH CHECK (school_id = current_school());
GRANT SELECT, INSERT ON witnessed TO maestrale_app;

-- +goose Down
DROP TABLE witnessed;
