-- A school's own drills and programmes, each version of them. The newest of a key is
-- in force; an empty one takes the school's own back.

-- +goose Up
CREATE TABLE school_files (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    format     text NOT NULL CHECK (format IN ('maestrale-drill/1', 'maestrale-programme/1')),
    key        text NOT NULL CHECK (key <> ''),
    version    int NOT NULL CHECK (version > 0),
    source     text NOT NULL,
    account_id uuid NOT NULL,
    written_at timestamptz NOT NULL DEFAULT now(),
    UNIQUE (school_id, format, key, version),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON school_files FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER never_emptied BEFORE TRUNCATE ON school_files FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
ALTER TABLE school_files ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON school_files USING (school_id = current_school()) WITH CHECK (school_id = current_school());
GRANT SELECT, INSERT ON school_files TO maestrale_app;

-- How many there are, asked with every request: a school's drills are read anew only
-- when that changes.
-- +goose StatementBegin
CREATE FUNCTION files_of(school uuid) RETURNS bigint LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT count(*) FROM school_files f WHERE f.school_id = school
$$;
DO $$
BEGIN
    EXECUTE format('ALTER FUNCTION files_of(uuid) SET search_path = %I', current_schema());
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION files_of(uuid) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION files_of(uuid) TO maestrale_app;

-- +goose Down
-- +goose StatementBegin
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw a school''s own drills away'; END $$;
-- +goose StatementEnd
