-- +goose Up
-- How often and how: chosen, learned from the first discharge, shortened by
-- oily beans or a party, or taken back. Only ever added to; of what stands, the
-- newest holds from its date on.
CREATE TABLE interval_changes (
  id         TEXT PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  at_ms      INTEGER NOT NULL,
  what       TEXT NOT NULL,          -- chosen, learned, oily, party, undone
  choice     TEXT NOT NULL,          -- JSON; what holds after it
  why        TEXT NOT NULL,
  supersedes TEXT REFERENCES interval_changes (id)
) STRICT;
CREATE INDEX interval_changes_by_machine ON interval_changes (machine_id, at_ms);
CREATE UNIQUE INDEX interval_superseded ON interval_changes (supersedes) WHERE supersedes IS NOT NULL;

-- times nobody is there, as entered
CREATE TABLE away (
  id         TEXT PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  from_ms    INTEGER NOT NULL,
  to_ms      INTEGER NOT NULL,
  note       TEXT NOT NULL,
  said_ms    INTEGER NOT NULL,
  gone_ms    INTEGER                 -- taken back
) STRICT;
CREATE INDEX away_by_machine ON away (machine_id, to_ms);

-- what the machine's own counter showed; its use stands in the ledger under
-- the same id, where there was any
CREATE TABLE counter_readings (
  id         TEXT PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  at_ms      INTEGER NOT NULL,
  value      REAL NOT NULL
) STRICT;
CREATE INDEX counter_by_machine ON counter_readings (machine_id, at_ms);

-- use by the day over the last weeks, counted up from the ledger: a row that is
-- missing is counted up anew
CREATE TABLE habits (
  machine_id TEXT PRIMARY KEY REFERENCES machines (id),
  body       TEXT NOT NULL,
  spans_ms   INTEGER NOT NULL,       -- end of the latest span in it
  until_ms   INTEGER NOT NULL        -- end of the newest entry where that is a span, else 0
) STRICT;

-- +goose Down
DROP TABLE habits;
DROP TABLE counter_readings;
DROP TABLE away;
DROP TABLE interval_changes;
