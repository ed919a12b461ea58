-- What the chargers say, slot by slot; and a pack's log that a charger writes in.

-- +goose Up
ALTER TABLE school_settings ADD COLUMN charger_addr text NOT NULL DEFAULT '';
ALTER TABLE pack_events ALTER COLUMN noted_by DROP NOT NULL;

CREATE TABLE charger_now (
    school_id uuid NOT NULL REFERENCES schools,
    charger   text NOT NULL,
    slot      integer NOT NULL,
    at        timestamptz NOT NULL,
    state     text NOT NULL,
    pack      text NOT NULL,
    charge    double precision NOT NULL,
    amps      double precision NOT NULL,
    mah       double precision NOT NULL,
    says      text NOT NULL,
    PRIMARY KEY (school_id, charger, slot)
);
ALTER TABLE charger_now ENABLE ROW LEVEL SECURITY;
CREATE POLICY one_school ON charger_now USING (school_id = current_school()) WITH CHECK (school_id = current_school());
GRANT SELECT, INSERT, UPDATE, DELETE ON charger_now TO maestrale_app;

-- Which schools have chargers to listen to: asked before a school is known.
CREATE FUNCTION charger_streams() RETURNS TABLE (school_id uuid, addr text) LANGUAGE sql STABLE SECURITY DEFINER AS $$
    SELECT g.school_id, g.charger_addr FROM school_settings g WHERE g.charger_addr <> ''
$$;
-- +goose StatementBegin
DO $$
BEGIN
    EXECUTE format('ALTER FUNCTION charger_streams() SET search_path = %I', current_schema());
END $$;
-- +goose StatementEnd
REVOKE ALL ON FUNCTION charger_streams() FROM PUBLIC;
GRANT EXECUTE ON FUNCTION charger_streams() TO maestrale_app;

-- +goose Down
-- +goose StatementBegin
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw a log away'; END $$;
-- +goose StatementEnd
