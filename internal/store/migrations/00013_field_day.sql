-- The field day: who is there with what, as it was said and planned, each change a new
-- version; the flights as they were flown, and what was noted of each.

-- +goose Up
CREATE TABLE field_days (
    id        uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    starts    timestamptz NOT NULL,
    ends      timestamptz NOT NULL CHECK (ends > starts),
    UNIQUE (school_id, id)
);
CREATE INDEX field_days_by_start ON field_days (school_id, starts DESC);

CREATE TABLE day_versions (
    day_id    uuid NOT NULL,
    seq       int NOT NULL CHECK (seq >= 1),
    school_id uuid NOT NULL REFERENCES schools,
    at        timestamptz NOT NULL DEFAULT now(),
    says      text NOT NULL,
    source    json NOT NULL, -- who is there, and with what
    plan      json NOT NULL, -- maestrale-day-plan/1, with a drill for each flight
    said_by   uuid NOT NULL,
    PRIMARY KEY (day_id, seq),
    FOREIGN KEY (school_id, day_id) REFERENCES field_days (school_id, id),
    FOREIGN KEY (school_id, said_by) REFERENCES accounts (school_id, id)
);

CREATE TABLE flights (
    id            uuid PRIMARY KEY,
    school_id     uuid NOT NULL REFERENCES schools,
    day_id        uuid,
    student_id    uuid,           -- of a proving or demonstration flight none
    kind          text NOT NULL CHECK (kind IN ('lesson', 'proving', 'demonstration')),
    craft_id      uuid NOT NULL,
    pack_id       uuid NOT NULL,
    box           int NOT NULL CHECK (box >= 1),
    instructor_id uuid,
    spotter_id    uuid,
    drill         text NOT NULL DEFAULT '',
    side          text NOT NULL DEFAULT 'none',
    aids          text NOT NULL,
    minutes       double precision NOT NULL CHECK (minutes > 0), -- that were planned
    begun_at      timestamptz NOT NULL,
    wind_mps      double precision,
    gust_mps      double precision,
    begun_by      uuid NOT NULL,
    kept_at       timestamptz NOT NULL DEFAULT now(),
    UNIQUE (school_id, id),
    CHECK ((student_id IS NULL) = (kind <> 'lesson')),
    FOREIGN KEY (school_id, day_id) REFERENCES field_days (school_id, id),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, craft_id) REFERENCES craft (school_id, id),
    FOREIGN KEY (school_id, pack_id) REFERENCES packs (school_id, id),
    FOREIGN KEY (school_id, instructor_id) REFERENCES accounts (school_id, id),
    FOREIGN KEY (school_id, spotter_id) REFERENCES accounts (school_id, id),
    FOREIGN KEY (school_id, begun_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX flights_by_day ON flights (school_id, day_id, begun_at);
CREATE INDEX flights_by_student ON flights (school_id, student_id, begun_at DESC);

CREATE TABLE flight_events (
    id        uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    flight_id uuid NOT NULL,
    at        timestamptz NOT NULL,
    kind      text NOT NULL CHECK (kind IN ('end', 'void', 'incident', 'before', 'after')),
    body      text NOT NULL DEFAULT '', -- why, what, or calm, tense, shaken
    noted_by  uuid NOT NULL,
    noted_at  timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, flight_id) REFERENCES flights (school_id, id),
    FOREIGN KEY (school_id, noted_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX flight_events_by_flight ON flight_events (school_id, flight_id);
CREATE UNIQUE INDEX flights_end_once ON flight_events (flight_id) WHERE kind = 'end';

CREATE TABLE holds (
    id        uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    day_id    uuid NOT NULL,
    at        timestamptz NOT NULL DEFAULT now(),
    on_hold   boolean NOT NULL,
    why       text NOT NULL DEFAULT '',
    called_by uuid NOT NULL,
    FOREIGN KEY (school_id, day_id) REFERENCES field_days (school_id, id),
    FOREIGN KEY (school_id, called_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX holds_by_day ON holds (school_id, day_id, at DESC);

ALTER TABLE openings ADD COLUMN flight_id uuid;
ALTER TABLE openings ADD FOREIGN KEY (school_id, flight_id) REFERENCES flights (school_id, id);

-- +goose StatementBegin
DO $$
DECLARE t text;
BEGIN
    FOREACH t IN ARRAY ARRAY['field_days', 'day_versions', 'flights', 'flight_events', 'holds'] LOOP
        EXECUTE format('CREATE TRIGGER append_only BEFORE UPDATE OR DELETE ON %I '
            'FOR EACH ROW EXECUTE FUNCTION refuse_change()', t);
        EXECUTE format('CREATE TRIGGER never_emptied BEFORE TRUNCATE ON %I '
            'FOR EACH STATEMENT EXECUTE FUNCTION refuse_change()', t);
        EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', t);
        EXECUTE format('CREATE POLICY one_school ON %I USING (school_id = current_school()) '
            'WITH CHECK (school_id = current_school())', t);
        EXECUTE format('GRANT SELECT, INSERT ON %I TO maestrale_app', t);
    END LOOP;
END $$;
-- +goose StatementEnd

-- +goose Down
-- +goose StatementBegin
DO $$ BEGIN RAISE EXCEPTION 'this step is not undone: it would throw days and flights away'; END $$;
-- +goose StatementEnd
