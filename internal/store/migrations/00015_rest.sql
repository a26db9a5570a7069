-- +goose Up
-- What a machine is closed for in days on which nobody is there: nothing is done, somebody comes once a week, or it
-- stands alone.
ALTER TABLE away ADD COLUMN stands TEXT NOT NULL DEFAULT '' CHECK (stands IN ('', 'visited', 'alone'));

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
