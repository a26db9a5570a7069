-- +goose Up
-- Where water comes from, and what was read of it. Readings are only ever added;
-- one is taken back by its date.
CREATE TABLE sources (
  id         TEXT PRIMARY KEY,
  name       TEXT NOT NULL,
  created_ms INTEGER NOT NULL
) STRICT;

CREATE TABLE samples (
  id        TEXT PRIMARY KEY,
  source_id TEXT NOT NULL REFERENCES sources (id),
  taken_ms  INTEGER NOT NULL,
  how       TEXT NOT NULL,           -- strip, drops, meter, report
  body      TEXT NOT NULL,           -- the readings, JSON
  said_ms   INTEGER NOT NULL,
  gone_ms   INTEGER                  -- taken back
) STRICT;
CREATE INDEX samples_by_source ON samples (source_id, taken_ms);

-- what a machine draws from, through which treatment, from an instant on
CREATE TABLE machine_waters (
  id         TEXT PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  from_ms    INTEGER NOT NULL,
  source_id  TEXT REFERENCES sources (id),  -- null: the hardness of the five answers
  treatment  TEXT NOT NULL                  -- with its numbers, JSON
) STRICT;
CREATE INDEX waters_by_machine ON machine_waters (machine_id, from_ms);

-- the user's own numbers and prices of a treatment
CREATE TABLE treatments (
  kind TEXT PRIMARY KEY,
  body TEXT NOT NULL
) STRICT;

-- use since the last descale or filter, before the use that is read anyway,
-- counted up; a row that is missing is counted up anew
CREATE TABLE settled (
  machine_id TEXT PRIMARY KEY REFERENCES machines (id),
  until_ms   INTEGER NOT NULL,
  body       TEXT NOT NULL
) STRICT;

-- +goose Down
DROP TABLE settled;
DROP TABLE treatments;
DROP TABLE machine_waters;
DROP TABLE samples;
DROP TABLE sources;
