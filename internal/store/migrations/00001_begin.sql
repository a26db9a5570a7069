-- +goose Up
-- Times are integer UTC milliseconds. Ids are UUIDs made by the client.

-- marks the file as ours: "FAnv"
PRAGMA application_id = 1178693238;

CREATE TABLE meta (
  key   TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT;

CREATE TABLE machines (
  id              TEXT PRIMARY KEY,
  name            TEXT NOT NULL,
  zone            TEXT NOT NULL,
  owner           TEXT NOT NULL DEFAULT '',
  place           TEXT NOT NULL DEFAULT '',
  created_ms      INTEGER NOT NULL,
  archived_ms     INTEGER,
  logged_since_ms INTEGER          -- first use on record; null where there is none
) STRICT;

-- what holds from a date on, so that an old answer can be worked out again
CREATE TABLE settings (
  id             INTEGER PRIMARY KEY,
  machine_id     TEXT NOT NULL REFERENCES machines (id),
  from_ms        INTEGER NOT NULL,
  layout         TEXT NOT NULL,
  valve          TEXT NOT NULL,
  drinks         REAL NOT NULL,
  milk_drinks    REAL NOT NULL,
  hardness_known INTEGER NOT NULL,
  hardness_value REAL NOT NULL,
  hardness_unit  TEXT NOT NULL,
  treatment      TEXT NOT NULL,
  facts          TEXT NOT NULL DEFAULT '{}'  -- what somebody said beside the five answers
) STRICT;
CREATE INDEX settings_by_machine ON settings (machine_id, id);

-- the ledger: only ever appended to
CREATE TABLE use_events (
  id         TEXT PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  group_no   INTEGER NOT NULL,
  kind       TEXT NOT NULL,
  count      REAL NOT NULL,
  from_ms    INTEGER NOT NULL,
  to_ms      INTEGER NOT NULL,
  source     TEXT NOT NULL,
  supersedes TEXT REFERENCES use_events (id)
) STRICT;
CREATE INDEX use_by_machine ON use_events (machine_id, to_ms);
CREATE INDEX use_by_time ON use_events (to_ms);
CREATE UNIQUE INDEX use_superseded ON use_events (supersedes) WHERE supersedes IS NOT NULL;

CREATE TABLE runs (
  id         TEXT PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  group_no   INTEGER NOT NULL,
  device     TEXT NOT NULL,
  speed      INTEGER NOT NULL,
  plan       TEXT NOT NULL,        -- frozen when the run started
  started_ms INTEGER NOT NULL,
  ended_ms   INTEGER,
  outcome    TEXT
) STRICT;
CREATE UNIQUE INDEX run_open ON runs (machine_id) WHERE ended_ms IS NULL;
CREATE INDEX runs_by_end ON runs (ended_ms);

CREATE TABLE presses (
  id          TEXT PRIMARY KEY,
  run_id      TEXT NOT NULL REFERENCES runs (id),
  seq         INTEGER NOT NULL,
  at_ms       INTEGER NOT NULL,
  received_ms INTEGER NOT NULL,
  body        TEXT NOT NULL,
  UNIQUE (run_id, seq)
) STRICT;

-- a chemical in a part of the machine; it outlives the run that put it there
CREATE TABLE hazards (
  id         INTEGER PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  group_no   INTEGER NOT NULL,
  chemical   TEXT NOT NULL,
  run_id     TEXT NOT NULL REFERENCES runs (id),
  since_ms   INTEGER NOT NULL,
  cleared_ms INTEGER,
  cleared_by TEXT
) STRICT;
CREATE UNIQUE INDEX hazard_open ON hazards (machine_id, group_no, chemical) WHERE cleared_ms IS NULL;

-- what was done, by a run or put on record; what the log shows
CREATE TABLE care_log (
  id         TEXT PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  group_no   INTEGER NOT NULL,
  task       TEXT NOT NULL,
  at_ms      INTEGER NOT NULL,
  outcome    TEXT NOT NULL,        -- done, recorded; stopped, stopped_unsafe count for nothing
  title      TEXT NOT NULL,
  run_id     TEXT REFERENCES runs (id),
  record     TEXT NOT NULL         -- what the run came to, as JSON
) STRICT;
CREATE INDEX care_by_time ON care_log (at_ms);
CREATE INDEX care_by_machine ON care_log (machine_id, at_ms);

-- the newest completion of each task and group, so that a due answer reads
-- nothing older; kept by the database itself, since care_log is only added to
CREATE TABLE last_care (
  machine_id TEXT NOT NULL REFERENCES machines (id),
  task       TEXT NOT NULL,
  group_no   INTEGER NOT NULL,
  at_ms      INTEGER NOT NULL,
  PRIMARY KEY (machine_id, task, group_no)
) STRICT, WITHOUT ROWID;
-- +goose StatementBegin
CREATE TRIGGER care_is_last AFTER INSERT ON care_log WHEN NEW.outcome IN ('done', 'recorded')
BEGIN
  INSERT INTO last_care (machine_id, task, group_no, at_ms) VALUES (NEW.machine_id, NEW.task, NEW.group_no, NEW.at_ms)
  ON CONFLICT DO UPDATE SET at_ms = MAX(at_ms, excluded.at_ms);
END;
-- +goose StatementEnd

-- what a tub of detergent held at one instant; the newest row is in use
CREATE TABLE tubs (
  id        TEXT PRIMARY KEY,
  at_ms     INTEGER NOT NULL,
  form      TEXT NOT NULL,          -- powder, tablets
  amount    REAL NOT NULL,          -- grams or tablets in it at that instant
  holds     REAL NOT NULL,          -- full
  gram_tsp  REAL NOT NULL,          -- of powder, a level teaspoon
  opened_ms INTEGER NOT NULL,
  price     REAL NOT NULL DEFAULT 0 -- of the full tub, in the preferred currency
) STRICT;

CREATE TABLE foam_tests (
  id     TEXT PRIMARY KEY,
  tub_id TEXT NOT NULL REFERENCES tubs (id),
  at_ms  INTEGER NOT NULL,
  foams  INTEGER NOT NULL
) STRICT;

-- +goose Down
DROP TABLE foam_tests;
DROP TABLE tubs;
DROP TABLE last_care;
DROP TABLE care_log;
DROP TABLE hazards;
DROP TABLE presses;
DROP TABLE runs;
DROP TABLE use_events;
DROP TABLE settings;
DROP TABLE machines;
DROP TABLE meta;
