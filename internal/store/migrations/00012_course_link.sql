-- +goose Up
-- The course that something is flown on, as it stood; empty where the drill's own
-- template was laid.
ALTER TABLE openings ADD COLUMN course_source text NOT NULL DEFAULT '';
ALTER TABLE attempts ADD COLUMN course_source text NOT NULL DEFAULT '';

-- Flights of those who teach, to be compared with: a record of their own, which is
-- no student's.
ALTER TABLE students ADD COLUMN own_of uuid UNIQUE;
ALTER TABLE students ADD FOREIGN KEY (school_id, own_of) REFERENCES accounts (school_id, id);

-- +goose Down
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw away on which course attempts were flown'; END $$;
