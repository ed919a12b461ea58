-- +goose Up

-- An attempt that is being marked; it becomes a row of attempts, with the same
-- id, when it is done or void.
CREATE TABLE openings (
    id           uuid PRIMARY KEY,
    school_id    uuid NOT NULL REFERENCES schools,
    student_id   uuid NOT NULL,
    drill        text NOT NULL,
    side         text NOT NULL,
    level        int NOT NULL,
    aids         text NOT NULL,
    craft_type   text NOT NULL,
    site         text NOT NULL DEFAULT '',
    opened_by    uuid NOT NULL,
    device_at    timestamptz NOT NULL, -- as the device's clock had it
    opened_at    timestamptz NOT NULL DEFAULT now(),
    drill_source text NOT NULL,        -- the drill as it stood: it is judged by this version
    UNIQUE (school_id, id),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, opened_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX openings_by_student ON openings (school_id, student_id, opened_at DESC);

CREATE TABLE marks (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    opening_id uuid NOT NULL,
    t_s        double precision NOT NULL,
    mark       text NOT NULL,
    body       json NOT NULL, -- the mark whole
    marked_by  uuid NOT NULL,
    kept_at    timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, opening_id) REFERENCES openings (school_id, id),
    FOREIGN KEY (school_id, marked_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX marks_by_opening ON marks (school_id, opening_id, t_s);

CREATE TABLE attempts (
    id            uuid PRIMARY KEY,
    school_id     uuid NOT NULL REFERENCES schools,
    student_id    uuid NOT NULL,
    at            timestamptz NOT NULL,
    drill         text NOT NULL,
    side          text NOT NULL CHECK (side IN ('none', 'left', 'right')),
    level         int NOT NULL CHECK (level >= 1),
    aids          text NOT NULL,
    frame         text NOT NULL DEFAULT 'nose',
    craft_type    text NOT NULL,
    craft_class   text NOT NULL CHECK (craft_class IN ('micro', 'light', 'medium', 'heavy')),
    source        text NOT NULL CHECK (source IN ('observed', 'track', 'sim')),
    verdict       text NOT NULL CHECK (verdict IN ('pass', 'fail', 'incomplete', 'void')),
    margin        double precision,
    wind_mps      double precision,
    gust_mps      double precision,
    wind_from_deg double precision,
    eyes          text NOT NULL DEFAULT 'craft',
    automatic     text[] NOT NULL DEFAULT '{}',
    zoom          boolean NOT NULL DEFAULT false,
    site          text NOT NULL DEFAULT '',
    light         text NOT NULL DEFAULT 'day',
    counts        boolean NOT NULL,
    why_not       text NOT NULL DEFAULT '',
    corrects      uuid,
    summary       text NOT NULL,  -- what happened, in a line
    aspect_s      real[] NOT NULL,
    result        json NOT NULL,  -- the result whole, to the letter
    drill_source  text NOT NULL,
    recorded_by   uuid NOT NULL,
    recorded_at   timestamptz NOT NULL DEFAULT now(),
    UNIQUE (school_id, id),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, recorded_by) REFERENCES accounts (school_id, id),
    FOREIGN KEY (school_id, corrects) REFERENCES attempts (school_id, id)
);
-- What standing rests on is read from the index alone.
CREATE INDEX attempts_by_student ON attempts (school_id, student_id, at DESC)
    INCLUDE (id, drill, side, level, aids, craft_class, source, verdict, counts, corrects);
CREATE UNIQUE INDEX attempts_corrected_once ON attempts (corrects) WHERE corrects IS NOT NULL;

-- Seconds flown inside tolerance by sector of the aspect ring, added up from
-- the attempts.
CREATE TABLE aspect_totals (
    school_id     uuid NOT NULL REFERENCES schools,
    student_id    uuid NOT NULL,
    position_hold boolean NOT NULL,
    seconds       real[] NOT NULL,
    PRIMARY KEY (school_id, student_id, position_hold),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id)
);

CREATE TABLE tracks (
    attempt_id uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    sha256     bytea NOT NULL,       -- of the file as it was
    file       bytea NOT NULL,       -- the file as it was, compressed with zstd
    file_bytes bigint NOT NULL,
    reading    json NOT NULL,        -- how its columns were read
    FOREIGN KEY (school_id, attempt_id) REFERENCES attempts (school_id, id)
);

CREATE TABLE signoffs (
    id          uuid PRIMARY KEY,
    school_id   uuid NOT NULL REFERENCES schools,
    student_id  uuid NOT NULL,
    gate        text NOT NULL,
    craft_class text NOT NULL,
    at          timestamptz NOT NULL,
    until       timestamptz NOT NULL,
    signed_by   uuid NOT NULL,
    withdraws   uuid,
    reason      text NOT NULL DEFAULT '',
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, signed_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX signoffs_by_student ON signoffs (school_id, student_id, at DESC);

-- The chain of each student's record: every row of it names the hash of the
-- one before.
CREATE TABLE chain (
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    seq        bigint NOT NULL CHECK (seq >= 1),
    kind       text NOT NULL,
    entry_id   uuid NOT NULL,
    body       json NOT NULL,
    prev       bytea NOT NULL CHECK (length(prev) = 32),
    hash       bytea NOT NULL CHECK (length(hash) = 32),
    PRIMARY KEY (school_id, student_id, seq),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id)
);

CREATE TABLE wind_readings (
    id        uuid PRIMARY KEY,
    school_id uuid NOT NULL REFERENCES schools,
    at        timestamptz NOT NULL DEFAULT now(),
    mps       double precision NOT NULL CHECK (mps >= 0 AND mps < 80),
    gust_mps  double precision CHECK (gust_mps >= mps),
    from_deg  double precision,
    read_by   uuid NOT NULL,
    FOREIGN KEY (school_id, read_by) REFERENCES accounts (school_id, id)
);
CREATE INDEX wind_readings_newest ON wind_readings (school_id, at DESC);

-- A log that was uploaded and not yet kept or thrown away.
CREATE TABLE uploads (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    student_id uuid NOT NULL,
    account_id uuid NOT NULL,
    name       text NOT NULL,
    file       bytea NOT NULL,
    file_bytes bigint NOT NULL,
    at         timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    FOREIGN KEY (school_id, account_id) REFERENCES accounts (school_id, id)
);
CREATE INDEX uploads_by_age ON uploads (school_id, at);

-- +goose Down
DROP TABLE uploads, wind_readings, chain, signoffs, tracks, aspect_totals, attempts, marks, openings;
