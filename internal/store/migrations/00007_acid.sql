-- +goose Up
-- Detergent is in a group, acid in a circuit: group 0 and the circuit's name.
ALTER TABLE hazards ADD COLUMN circuit TEXT NOT NULL DEFAULT '';
DROP INDEX hazard_open;
CREATE UNIQUE INDEX hazard_open ON hazards (machine_id, group_no, circuit, chemical) WHERE cleared_ms IS NULL;

-- +goose Down
DROP INDEX hazard_open;
DELETE FROM hazards WHERE circuit <> '';
ALTER TABLE hazards DROP COLUMN circuit;
CREATE UNIQUE INDEX hazard_open ON hazards (machine_id, group_no, chemical) WHERE cleared_ms IS NULL;
