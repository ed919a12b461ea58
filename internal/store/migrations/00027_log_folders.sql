-- The logs of a field day, given in one go: held for a day, with what was found in them, until they are kept or thrown
-- away. What is kept becomes attempts.

-- +goose Up
CREATE TABLE log_folders (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    account_id uuid NOT NULL, -- who gave them
    day_id     uuid NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    found      text, -- JSON; null until all files are there
    kept_at    timestamptz,
    UNIQUE (school_id, id),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
CREATE INDEX log_folders_by_age ON log_folders (school_id, at);
CREATE TABLE folder_logs (
    folder_id  uuid NOT NULL,
    school_id  uuid NOT NULL REFERENCES schools,
    name       text NOT NULL, -- with the folders that it lies in
    changed_at timestamptz,   -- when the file was last written, as the device says
    file       bytea NOT NULL, -- compressed with zstd
    file_bytes bigint NOT NULL,
    PRIMARY KEY (folder_id, name),
    FOREIGN KEY (school_id, folder_id) REFERENCES log_folders (school_id, id) ON DELETE CASCADE
);

-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
    FOREACH t IN ARRAY ARRAY['log_folders', 'folder_logs'] LOOP
        EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
        EXECUTE format('CREATE POLICY one_school ON %I USING (school_id = (SELECT current_school())) '
            'WITH CHECK (school_id = (SELECT current_school()))', t);
        EXECUTE format('GRANT SELECT, INSERT, UPDATE, DELETE ON %I TO maestrale_app', t);
    END LOOP;
END $$;
-- +goose StatementEnd

-- +goose Down
DROP TABLE folder_logs, log_folders;
