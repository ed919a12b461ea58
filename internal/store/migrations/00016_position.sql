-- Where a craft's position stream is heard.

-- +goose Up
ALTER TABLE school_settings ADD COLUMN position_addr text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE school_settings DROP COLUMN position_addr;
