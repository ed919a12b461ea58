-- Launching from the hand and catching by hand are off until a school's chief
-- switches them on.

-- +goose Up
ALTER TABLE school_settings ADD COLUMN hand_catch boolean NOT NULL DEFAULT false;

-- +goose Down
ALTER TABLE school_settings DROP COLUMN hand_catch;
