-- +goose Up
-- A part is named where a number stood before, 0 or 1 for the whole machine: "machine",
-- "group-2", "brew-1", "steam". A run may be of several machines; its plan is kept in a
-- form of its own, with its version, and what it came to in a record. Presses are
-- numbered within their run, so that no id of one run stands in another's way.
PRAGMA defer_foreign_keys = ON;

CREATE TABLE run_machines (
  run_id     TEXT NOT NULL REFERENCES runs (id),
  machine_id TEXT NOT NULL REFERENCES machines (id),
  seq        INTEGER NOT NULL,       -- the first leads
  open       INTEGER NOT NULL,       -- 1 while it goes on; a practice run never stands in the way
  PRIMARY KEY (run_id, seq)
) STRICT, WITHOUT ROWID;
INSERT INTO run_machines SELECT id, machine_id, 0, ended_ms IS NULL AND practice = 0 FROM runs;

CREATE TEMP TABLE old_runs AS SELECT * FROM runs;
DROP TABLE runs;
CREATE TABLE runs (
  id           TEXT PRIMARY KEY,
  device       TEXT NOT NULL,
  speed        INTEGER NOT NULL,
  practice     INTEGER NOT NULL,
  plan_version INTEGER NOT NULL,
  plan         TEXT NOT NULL,        -- frozen when the run started, in the form of that version
  started_ms   INTEGER NOT NULL,
  ended_ms     INTEGER,
  outcome      TEXT,
  record       TEXT NOT NULL DEFAULT '' -- what an ended run came to
) STRICT;
INSERT INTO runs (id, device, speed, practice, plan_version, plan, started_ms, ended_ms, outcome)
  SELECT id, device, speed, practice, COALESCE(plan ->> '$.version', 1), plan, started_ms, ended_ms, outcome FROM old_runs;
DROP TABLE old_runs;
CREATE INDEX runs_by_end ON runs (ended_ms);
CREATE UNIQUE INDEX run_open ON run_machines (machine_id) WHERE open = 1;

CREATE TABLE presses_new (
  run_id      TEXT NOT NULL REFERENCES runs (id),
  seq         INTEGER NOT NULL,      -- the order of acceptance
  id          TEXT NOT NULL,
  at_ms       INTEGER NOT NULL,      -- on the run's own clock
  received_ms INTEGER NOT NULL,      -- on the wall
  run_ms      INTEGER NOT NULL,      -- what the run's own clock showed when it was accepted
  body        TEXT NOT NULL,
  PRIMARY KEY (run_id, seq),
  UNIQUE (run_id, id)
) STRICT, WITHOUT ROWID;
INSERT INTO presses_new SELECT run_id, seq, id, at_ms, received_ms, MAX(at_ms, received_ms), body FROM presses;
DROP TABLE presses;
ALTER TABLE presses_new RENAME TO presses;

CREATE TABLE hazards_new (
  id         INTEGER PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  part       TEXT NOT NULL,
  chemical   TEXT NOT NULL,          -- detergent, acid; pressure: nothing came out at the drain
  tries      INTEGER NOT NULL DEFAULT 0, -- how often, of pressure
  run_id     TEXT NOT NULL REFERENCES runs (id),
  since_ms   INTEGER NOT NULL,
  cleared_ms INTEGER,
  cleared_by TEXT
) STRICT;
INSERT INTO hazards_new SELECT id, machine_id,
  CASE WHEN circuit = '' THEN 'group-' || group_no
       WHEN circuit = 'steam-boiler' THEN 'steam'
       WHEN circuit GLOB 'brew-*-[1-6]' THEN 'brew-' || substr(circuit, -1)
       ELSE 'brew-1' END,
  chemical, 0, run_id, since_ms, cleared_ms, cleared_by FROM hazards;
DROP TABLE hazards;
ALTER TABLE hazards_new RENAME TO hazards;
CREATE UNIQUE INDEX hazard_open ON hazards (machine_id, part, chemical) WHERE cleared_ms IS NULL;

DROP TRIGGER care_is_last;
ALTER TABLE care_log ADD COLUMN part TEXT NOT NULL DEFAULT 'machine';
UPDATE care_log SET part = 'group-' || group_no
  WHERE task NOT IN ('descale', 'acid_rinse', 'draw_off', 'filter_change', 'regenerate', 'brush', 'tray', 'waste', 'tank_water')
    AND NOT (task = 'water_backflush' AND outcome = 'recorded');
ALTER TABLE care_log DROP COLUMN group_no;
CREATE TABLE last_care_new (
  machine_id TEXT NOT NULL REFERENCES machines (id),
  task       TEXT NOT NULL,
  part       TEXT NOT NULL,
  at_ms      INTEGER NOT NULL,
  PRIMARY KEY (machine_id, task, part)
) STRICT, WITHOUT ROWID;
INSERT INTO last_care_new SELECT machine_id, task, part, MAX(at_ms) FROM care_log
  WHERE outcome IN ('done', 'recorded') GROUP BY machine_id, task, part;
DROP TABLE last_care;
ALTER TABLE last_care_new RENAME TO last_care;
-- +goose StatementBegin
CREATE TRIGGER care_is_last AFTER INSERT ON care_log WHEN NEW.outcome IN ('done', 'recorded')
BEGIN
  INSERT INTO last_care (machine_id, task, part, at_ms) VALUES (NEW.machine_id, NEW.task, NEW.part, NEW.at_ms)
  ON CONFLICT DO UPDATE SET at_ms = MAX(at_ms, excluded.at_ms);
END;
-- +goose StatementEnd

ALTER TABLE use_events ADD COLUMN part TEXT NOT NULL DEFAULT 'machine';
UPDATE use_events SET part = 'group-' || group_no WHERE group_no > 0;
ALTER TABLE use_events DROP COLUMN group_no;

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
