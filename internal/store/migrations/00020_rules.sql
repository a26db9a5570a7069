-- +goose Up
-- By which version of the rules the standings of a machine were worked out; 0 is by those before any had one.
ALTER TABLE machines ADD COLUMN rules INTEGER NOT NULL DEFAULT 0;

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
