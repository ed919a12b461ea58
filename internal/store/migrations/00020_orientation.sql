-- Orientation: which grade of the lost-craft trainer a run was of, and calls of a craft's
-- aspect at known distances, from which how far a student tells it is fitted.

-- +goose Up
ALTER TABLE runs ADD COLUMN lost text NOT NULL DEFAULT '';         -- the grade; empty = the craft was seen
ALTER TABLE runs ADD COLUMN coach boolean NOT NULL DEFAULT false;  -- the coach was asked
CREATE INDEX runs_lost ON runs (school_id, student_id, flown_at DESC) WHERE lost <> '';

CREATE TABLE calls (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    craft_type text NOT NULL,
    at         timestamptz NOT NULL,
    distance_m double precision NOT NULL CHECK (distance_m >= 1 AND distance_m <= 1000),
    light      text NOT NULL CHECK (light IN ('day', 'overcast', 'dusk')),
    shown      smallint NOT NULL CHECK (shown BETWEEN 0 AND 3),  -- tail-in, nose right, nose-in, nose left
    called     smallint NOT NULL CHECK (called BETWEEN -1 AND 3), -- -1 = could not tell
    noted_by   uuid NOT NULL,
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, noted_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX calls_by_student ON calls (school_id, student_id, craft_type, at DESC);
CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON calls FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER never_emptied BEFORE TRUNCATE ON calls FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
ALTER TABLE calls ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON calls USING (school_id = current_school()) WITH CHECK (school_id = current_school());
GRANT SELECT, INSERT ON calls TO maestrale_app;

-- +goose Down
DROP TABLE calls;
DROP INDEX runs_lost;
ALTER TABLE runs DROP COLUMN lost, DROP COLUMN coach;
