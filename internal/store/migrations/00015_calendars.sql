-- Calendar feeds: a private address for each person, of which only the hash is kept; a
-- new one takes the place of the old.

-- +goose Up
CREATE TABLE calendar_feeds (
    account_id uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    hash       bytea NOT NULL UNIQUE,
    made_at    timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
ALTER TABLE calendar_feeds ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON calendar_feeds USING (school_id = current_school()) WITH
  CHECK (school_id = current_school());
GRANT SELECT, INSERT, UPDATE ON calendar_feeds TO maestrale_app;

CREATE FUNCTION account_of_feed(address bytea) RETURNS uuid LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT f.account_id FROM calendar_feeds f JOIN accounts a ON a.id = f.account_id WHERE f.hash = address
      AND a.disabled_at IS NULL
$$;
-- +goose StatementBegin
DO $$
BEGIN
    EXECUTE format('ALTER FUNCTION account_of_feed(bytea) SET search_path = %I', current_schema());
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION account_of_feed(bytea) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION account_of_feed(bytea) TO maestrale_app;

-- +goose Down
DROP FUNCTION account_of_feed(bytea);
DROP TABLE calendar_feeds;
