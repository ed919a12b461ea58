-- +goose Up
-- How common the kinds of learners are at a school, fitted to its own records.
CREATE TABLE learning_fits (
    id        uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    fitted_at timestamptz NOT NULL,
    cells     integer NOT NULL CHECK (cells >= 0),    -- runs of attempts that it rests on
    attempts  integer NOT NULL CHECK (attempts >= 0),
    weights   double precision[] NOT NULL             -- of the kinds, in the order of core/readiness
);
CREATE INDEX learning_fits_newest ON learning_fits (school_id, fitted_at DESC);
CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON learning_fits FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER never_emptied BEFORE TRUNCATE ON learning_fits FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
ALTER TABLE learning_fits ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON learning_fits USING (school_id = current_school()) WITH
  CHECK (school_id = current_school());
GRANT SELECT, INSERT ON learning_fits TO maestrale_app;
-- The schools whose records grew since their newest fit, or that have none.
CREATE FUNCTION schools_to_fit(before timestamptz) RETURNS TABLE (school_id uuid)
LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT s.id FROM schools s
    WHERE NOT EXISTS (SELECT FROM learning_fits f WHERE f.school_id = s.id AND f.fitted_at > before)
      AND EXISTS (SELECT FROM attempts a WHERE a.school_id = s.id)
$$;
-- +goose StatementBegin
DO $$
BEGIN
    EXECUTE format('ALTER FUNCTION schools_to_fit(timestamptz) SET search_path = %I', current_schema());
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION schools_to_fit(timestamptz) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION schools_to_fit(timestamptz) TO maestrale_app;

-- +goose Down
DROP FUNCTION schools_to_fit(timestamptz);
DROP TABLE learning_fits;
