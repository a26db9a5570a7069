-- +goose Up
-- A practice run is played without a machine: nothing follows from it, and it
-- does not stand in the way of a real one.
ALTER TABLE runs ADD COLUMN practice INTEGER NOT NULL DEFAULT 0;
DROP INDEX run_open;
CREATE UNIQUE INDEX run_open ON runs (machine_id) WHERE ended_ms IS NULL AND practice = 0;

-- +goose Down
DROP INDEX run_open;
CREATE UNIQUE INDEX run_open ON runs (machine_id) WHERE ended_ms IS NULL;
ALTER TABLE runs DROP COLUMN practice;
