-- +goose Up
-- A cause that somebody found behind a symptom: it sharpens what is asked first the next time.
CREATE TABLE diagnoses (
  id         TEXT PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  symptom    TEXT NOT NULL,
  cause      TEXT NOT NULL,
  at_ms      INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX diagnoses_by_symptom ON diagnoses (symptom, cause);

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
