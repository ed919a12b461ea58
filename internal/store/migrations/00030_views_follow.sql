-- +goose Up
-- What is kept of a student to be quick is worked out anew at any time, so it holds nobody: a student who was brought in
-- by mistake can be taken out again after somebody has looked at the list.
-- +goose StatementBegin
DO $$
DECLARE name text;
BEGIN
    SELECT conname INTO STRICT name FROM pg_constraint
      WHERE conrelid = 'student_views'::regclass AND confrelid = 'students'::regclass AND contype = 'f';
    EXECUTE format('ALTER TABLE student_views DROP CONSTRAINT %I', name);
END $$;
-- +goose StatementEnd
ALTER TABLE student_views ADD CONSTRAINT student_views_follow FOREIGN KEY (school_id, student_id)
  REFERENCES students (school_id, id) ON DELETE CASCADE;

-- +goose Down
ALTER TABLE student_views DROP CONSTRAINT student_views_follow;
ALTER TABLE student_views ADD FOREIGN KEY (school_id, student_id) REFERENCES students (school_id, id);
