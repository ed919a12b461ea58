-- How a school reads the columns of logs whose names are not ours: kept with a log,
-- offered for the next one with the same header.

-- +goose Up
CREATE TABLE column_maps (
    school_id  uuid NOT NULL REFERENCES schools,
    header     text NOT NULL, -- the column names in their order
    rename     json NOT NULL, -- the file's name to ours
    account_id uuid NOT NULL,
    kept_at    timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (school_id, header),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
ALTER TABLE column_maps ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON column_maps USING (school_id = current_school()) WITH CHECK (school_id = current_school());
GRANT SELECT, INSERT, UPDATE ON column_maps TO maestrale_app;

-- +goose Down
DROP TABLE column_maps;
