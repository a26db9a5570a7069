-- +goose Up
-- A look may be a number, and may put something in the way of using a machine: detergent that foams in a cup, or a
-- danger for which it is switched off.
ALTER TABLE looks ADD COLUMN number REAL;

CREATE TABLE hazards_new (
  id         INTEGER PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  part       TEXT NOT NULL,
  chemical   TEXT NOT NULL,          -- detergent, acid; pressure: nothing came out at the drain; stopped: a look found a danger
  tries      INTEGER NOT NULL DEFAULT 0, -- how often, of pressure
  run_id     TEXT REFERENCES runs (id),  -- that put it there; null where a look did
  look_id    TEXT REFERENCES looks (id),
  since_ms   INTEGER NOT NULL,
  cleared_ms INTEGER,
  cleared_by TEXT,
  CHECK ((run_id IS NULL) <> (look_id IS NULL))
) STRICT;
INSERT INTO hazards_new SELECT id, machine_id, part, chemical, tries, run_id, NULL, since_ms, cleared_ms, cleared_by
  FROM hazards;
DROP TABLE hazards;
ALTER TABLE hazards_new RENAME TO hazards;
CREATE UNIQUE INDEX hazard_open ON hazards (machine_id, part, chemical) WHERE cleared_ms IS NULL;

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
