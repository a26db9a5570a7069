-- +goose Up
-- What somebody saw of a part: it moves dates, and stays on record.
CREATE TABLE looks (
  id         TEXT PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  part       TEXT NOT NULL,
  sight      TEXT NOT NULL,
  verdict    TEXT NOT NULL,
  at_ms      INTEGER NOT NULL,
  run_id     TEXT,                  -- in which it was seen; null where somebody just looked
  gone_ms    INTEGER                -- taken back
) STRICT, WITHOUT ROWID;
CREATE INDEX looks_newest ON looks (machine_id, sight, part, at_ms) WHERE gone_ms IS NULL;

-- Who does the small jobs, by name and initials: no accounts.
CREATE TABLE people (
  id       TEXT PRIMARY KEY,
  name     TEXT NOT NULL,
  initials TEXT NOT NULL,
  said_ms  INTEGER NOT NULL,
  gone_ms  INTEGER
) STRICT, WITHOUT ROWID;

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
