-- +goose Up
-- What stands on a machine's plate, what somebody notes of it, and a photo of it.
CREATE TABLE plates (
  machine_id TEXT PRIMARY KEY REFERENCES machines(id),
  model      TEXT NOT NULL DEFAULT '',
  serial     TEXT NOT NULL DEFAULT '',
  notes      TEXT NOT NULL DEFAULT '',
  photo      BLOB
);

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
