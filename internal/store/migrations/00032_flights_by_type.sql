-- How many attempts were flown in the field with each type of craft, by student. The fleet asks for the sum at every look;
-- it is kept here as attempts are recorded, since counting half a million of them takes longer than the rest of the page.

-- +goose Up
CREATE TABLE flights_by_type (
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    craft_type text NOT NULL,
    flights    int NOT NULL,
    PRIMARY KEY (school_id, student_id, craft_type),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id) ON DELETE CASCADE
);
ALTER TABLE flights_by_type ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON flights_by_type USING (school_id = (SELECT current_school()));
GRANT SELECT ON flights_by_type TO maestrale_app;

INSERT INTO flights_by_type SELECT school_id, student_id, craft_type, count(*) FROM attempts
    WHERE source <> 'sim' AND corrects IS NULL GROUP BY 1, 2, 3;

-- +goose StatementBegin
CREATE FUNCTION count_flight() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER AS $$
BEGIN
    INSERT INTO flights_by_type AS f VALUES (NEW.school_id, NEW.student_id, NEW.craft_type, 1)
        ON CONFLICT (school_id, student_id, craft_type) DO UPDATE SET flights = f.flights + 1;
    RETURN NULL;
END $$;
-- +goose StatementEnd
-- +goose StatementBegin
DO $$
BEGIN
    EXECUTE format('ALTER FUNCTION count_flight() SET search_path = %I, pg_temp', current_schema());
END $$;
-- +goose StatementEnd
CREATE TRIGGER count_flight AFTER INSERT ON attempts FOR EACH ROW
    WHEN (NEW.source <> 'sim' AND NEW.corrects IS NULL) EXECUTE FUNCTION count_flight();

-- +goose Down
DROP TRIGGER count_flight ON attempts;
DROP FUNCTION count_flight;
DROP TABLE flights_by_type;
