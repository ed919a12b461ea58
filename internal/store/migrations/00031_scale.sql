-- Row security asks for the school once a query instead of once a row, and who did what is found by its time.

-- +goose Up
-- +goose StatementBegin
DO $$
DECLARE p record;
BEGIN
    FOR p IN SELECT tablename, qual, with_check FROM pg_policies
        WHERE schemaname = current_schema() AND policyname = 'one_school' AND qual NOT ILIKE '%select%'
    LOOP
        EXECUTE format('ALTER POLICY one_school ON %I USING (%s)', p.tablename,
            replace(p.qual, 'current_school()', '(SELECT current_school())'));
        IF p.with_check IS NOT NULL THEN
            EXECUTE format('ALTER POLICY one_school ON %I WITH CHECK (%s)', p.tablename,
                replace(p.with_check, 'current_school()', '(SELECT current_school())'));
        END IF;
    END LOOP;
END $$;
-- +goose StatementEnd
CREATE INDEX attempts_by_record ON attempts (school_id, recorded_at DESC);

-- +goose Down
DROP INDEX attempts_by_record;
