-- +goose Up
-- Whether people looked on while an attempt was flown.
ALTER TABLE attempts ADD COLUMN watched boolean NOT NULL DEFAULT false;
CREATE INDEX attempts_watched ON attempts (school_id, student_id) WHERE watched;

-- +goose Down
ALTER TABLE attempts DROP COLUMN watched;
