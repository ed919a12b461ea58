-- Answers of the reflex trainer: what was asked, how soon and whether rightly. An item that
-- was void (the page was out of sight) is not kept.

-- +goose Up
CREATE TABLE reflexes (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    at         timestamptz NOT NULL,
    item       text NOT NULL,
    seconds    double precision NOT NULL CHECK (seconds >= 0 AND seconds <= 60),
    is_right   boolean NOT NULL,
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id)
);
CREATE INDEX reflexes_by_student ON reflexes (school_id, student_id, at DESC);
CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON reflexes FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER never_emptied BEFORE TRUNCATE ON reflexes FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
ALTER TABLE reflexes ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON reflexes USING (school_id = current_school()) WITH CHECK (school_id = current_school());
GRANT SELECT, INSERT ON reflexes TO maestrale_app;

-- +goose Down
DROP TABLE reflexes;
