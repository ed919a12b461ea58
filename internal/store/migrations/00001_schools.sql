-- +goose Up

-- The school that a transaction works for. Set by the application at the
-- beginning of every transaction; unset, it is nobody's.
CREATE FUNCTION current_school() RETURNS uuid LANGUAGE sql STABLE PARALLEL SAFE
RETURN nullif(current_setting('maestrale.school', true), '')::uuid;

CREATE TABLE schools (
    id         uuid PRIMARY KEY,
    name       text NOT NULL CHECK (name <> ''),
    time_zone  text NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE students (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    name       text NOT NULL CHECK (name <> ''),
    programme  text NOT NULL,
    craft_type text NOT NULL,
    trains_for text NOT NULL DEFAULT '',
    started_on date NOT NULL,
    UNIQUE (school_id, id)
);
CREATE INDEX students_by_name ON students (school_id, name);

CREATE TABLE accounts (
    id            uuid PRIMARY KEY,
    school_id     uuid NOT NULL REFERENCES schools,
    email         text NOT NULL UNIQUE CHECK (email = lower(email)),
    name          text NOT NULL CHECK (name <> ''),
    role          text NOT NULL CHECK (role IN ('chief', 'instructor', 'spotter', 'student')),
    student_id    uuid,
    password_hash text NOT NULL,
    disabled_at   timestamptz,
    UNIQUE (school_id, id),
    FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id),
    CHECK ((role = 'student') = (student_id IS NOT NULL))
);
CREATE INDEX accounts_by_school ON accounts (school_id);

CREATE TABLE craft (
    id         uuid PRIMARY KEY,
    school_id  uuid NOT NULL REFERENCES schools,
    name       text NOT NULL CHECK (name <> ''),
    craft_type text NOT NULL,
    UNIQUE (school_id, id),
    UNIQUE (school_id, name)
);

CREATE TABLE sessions (
    token  text PRIMARY KEY,
    data   bytea NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX sessions_by_expiry ON sessions (expiry);

-- Failed sign-ins, by a hash of the address and by the place they came from.
CREATE TABLE sign_in_failures (
    key  bytea NOT NULL,
    at   timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sign_in_failures_by_key ON sign_in_failures (key, at);

-- +goose Down
DROP TABLE sign_in_failures, sessions, craft, accounts, students, schools;
DROP FUNCTION current_school;
