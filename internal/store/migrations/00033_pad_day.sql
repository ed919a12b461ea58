-- The day of a pad asks of hundreds of students which flights ended and were not made void, who said lately how they feel,
-- and who flew the newest attempts. It finds them in small indexes, without a look at the rows.

-- +goose Up
CREATE INDEX flight_events_void ON flight_events (flight_id) WHERE kind = 'void';
CREATE INDEX flight_events_felt ON flight_events (school_id, at) WHERE kind IN ('before', 'after');
DROP INDEX flights_end_once;
CREATE UNIQUE INDEX flights_end_once ON flight_events (flight_id) INCLUDE (school_id, at) WHERE kind = 'end';
DROP INDEX attempts_by_time;
CREATE INDEX attempts_by_time ON attempts (school_id, at DESC) INCLUDE (student_id);

-- +goose Down
DROP INDEX flights_end_once;
CREATE UNIQUE INDEX flights_end_once ON flight_events (flight_id) WHERE kind = 'end';
DROP INDEX attempts_by_time;
CREATE INDEX attempts_by_time ON attempts (school_id, at DESC);
DROP INDEX flight_events_void;
DROP INDEX flight_events_felt;
