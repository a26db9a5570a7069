-- +goose Up
-- What held when: answers and facts hold from a day on; a correction of the past takes rows
-- back and says others. An edit names the version of a machine that it was made from.
ALTER TABLE machines ADD COLUMN version INTEGER NOT NULL DEFAULT 1;
ALTER TABLE machines ADD COLUMN stale INTEGER NOT NULL DEFAULT 1;   -- its standings are to be worked out anew
ALTER TABLE machines ADD COLUMN worked_ms INTEGER NOT NULL DEFAULT 0;  -- when they were
ALTER TABLE machines ADD COLUMN until_ms INTEGER NOT NULL DEFAULT 0;   -- until when they hold by themselves
ALTER TABLE machines ADD COLUMN says TEXT NOT NULL DEFAULT '';         -- beside its jobs
ALTER TABLE settings ADD COLUMN said_ms INTEGER NOT NULL DEFAULT 0;
ALTER TABLE settings ADD COLUMN gone_ms INTEGER;
ALTER TABLE settings ADD COLUMN version INTEGER NOT NULL DEFAULT 0;
UPDATE settings SET said_ms = from_ms;
DROP INDEX settings_by_machine;
CREATE INDEX settings_by_machine ON settings (machine_id, from_ms, id);
CREATE INDEX machines_stale ON machines (stale, until_ms);

-- Care can be taken back and dated anew; the newest of each task and part is found by an index.
DROP TRIGGER care_is_last;
DROP TABLE last_care;
ALTER TABLE care_log ADD COLUMN gone_ms INTEGER;
UPDATE care_log SET task = 'screen' WHERE task = 'hand_clean';
CREATE INDEX care_newest ON care_log (machine_id, task, part, at_ms) WHERE gone_ms IS NULL;

-- Use by the day of the machine, counted up with the entries themselves.
DROP TABLE habits;
DROP TABLE settled;
CREATE TABLE use_days (
  machine_id TEXT NOT NULL REFERENCES machines (id),
  day_ms     INTEGER NOT NULL,      -- when the day began, at 04:00 in the machine's zone
  part       TEXT NOT NULL,
  single     REAL NOT NULL DEFAULT 0,
  double     REAL NOT NULL DEFAULT 0,
  milk       REAL NOT NULL DEFAULT 0,
  flush      REAL NOT NULL DEFAULT 0,
  water      REAL NOT NULL DEFAULT 0, -- of runs, mL
  PRIMARY KEY (machine_id, day_ms, part)
) STRICT, WITHOUT ROWID;
CREATE INDEX use_spans ON use_events (machine_id, to_ms) WHERE from_ms < to_ms;

-- An id belongs to one request: what it was for, and a sum of what it said.
CREATE TABLE requests (
  id    TEXT PRIMARY KEY,
  what  TEXT NOT NULL,
  sum   TEXT NOT NULL,
  at_ms INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- Where each task stands: kept, and worked out anew when something changes or a day turns.
CREATE TABLE standings (
  machine_id  TEXT NOT NULL REFERENCES machines (id),
  seq         INTEGER NOT NULL,     -- most pressing first
  task        TEXT NOT NULL,
  part        TEXT NOT NULL,
  state       TEXT NOT NULL,
  title       TEXT NOT NULL,
  flags       INTEGER NOT NULL,
  last_ms     INTEGER,
  earliest_ms INTEGER NOT NULL,
  likely_ms   INTEGER NOT NULL,
  latest_ms   INTEGER NOT NULL,
  clock       TEXT NOT NULL,        -- the one that runs out first; empty where none does
  used        REAL NOT NULL,
  most        REAL NOT NULL,
  unit        TEXT NOT NULL,
  why         TEXT NOT NULL,        -- its first reason
  PRIMARY KEY (machine_id, seq)
) STRICT, WITHOUT ROWID;

-- Dates that an update of the application moved, until somebody has seen them.
CREATE TABLE moved (
  machine_id TEXT NOT NULL REFERENCES machines (id),
  task       TEXT NOT NULL,
  part       TEXT NOT NULL,
  was_ms     INTEGER NOT NULL,
  is_ms      INTEGER NOT NULL,
  seen_ms    INTEGER,
  PRIMARY KEY (machine_id, task, part)
) STRICT, WITHOUT ROWID;

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
