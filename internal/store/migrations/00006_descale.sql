-- +goose Up
-- the user's own descalers, as their labels say
CREATE TABLE products (
  id   TEXT PRIMARY KEY,
  body TEXT NOT NULL
) STRICT;

-- what spent solutions said: the share of the scale that stays in a machine, as it
-- stands after each; one that is taken back no longer counts
CREATE TABLE shares (
  id         TEXT PRIMARY KEY,
  machine_id TEXT NOT NULL REFERENCES machines (id),
  at_ms      INTEGER NOT NULL,
  share      REAL NOT NULL,
  body       TEXT NOT NULL,
  gone_ms    INTEGER
) STRICT;
CREATE INDEX shares_by_machine ON shares (machine_id, at_ms);

-- +goose Down
DROP TABLE shares;
DROP TABLE products;
