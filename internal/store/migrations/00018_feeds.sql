-- +goose Up
-- Calendars that are asked for from outside, each behind a secret address that can be changed; and what each date of
-- a machine said when it was last given out, so that a change has a higher sequence.
CREATE TABLE feeds (
  id      TEXT PRIMARY KEY,
  of      TEXT NOT NULL, -- bench, owner or machine
  key     TEXT NOT NULL, -- the owner's name, or the machine's id; empty for the bench
  secret  TEXT NOT NULL UNIQUE,
  made_ms INTEGER NOT NULL,
  UNIQUE (of, key)
);
CREATE TABLE dates (
  machine_id TEXT NOT NULL REFERENCES machines(id),
  uid        TEXT NOT NULL,
  day        TEXT NOT NULL, -- as it was last given out
  digest     TEXT NOT NULL,
  sequence   INTEGER NOT NULL,
  changed_ms INTEGER NOT NULL,
  PRIMARY KEY (machine_id, uid)
) WITHOUT ROWID;

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
