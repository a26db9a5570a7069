-- +goose Up
-- A day that somebody put a task on, for its next time; of each task and part the last word.
CREATE TABLE placings (
  machine_id TEXT NOT NULL REFERENCES machines (id),
  task       TEXT NOT NULL,
  part       TEXT NOT NULL,
  on_ms      INTEGER NOT NULL,
  set_ms     INTEGER NOT NULL,
  PRIMARY KEY (machine_id, task, part)
) STRICT, WITHOUT ROWID;

-- What is kept of a task says from here on whether a workshop does it.
UPDATE machines SET stale = 1;

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
