-- +goose Up
-- How a student holds the sticks: with the thumbs on top, or pinched between thumb and finger.
ALTER TABLE students ADD COLUMN grip text NOT NULL DEFAULT '' CHECK (grip IN ('', 'thumb', 'pinch'));

-- +goose Down
ALTER TABLE students DROP COLUMN grip;
