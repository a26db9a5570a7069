-- +goose Up
-- Who may do what: a person with a role and a passphrase, and the browsers that are let in. Of a passphrase its
-- argon2id hash is kept, of a session's token its SHA-256.
ALTER TABLE people ADD COLUMN role TEXT NOT NULL DEFAULT 'closer';
ALTER TABLE people ADD COLUMN secret TEXT NOT NULL DEFAULT '';
CREATE TABLE sessions (
  id         TEXT PRIMARY KEY,
  token      TEXT NOT NULL UNIQUE,
  person_id  TEXT REFERENCES people(id),
  role       TEXT NOT NULL,
  device     TEXT NOT NULL DEFAULT '',
  made_ms    INTEGER NOT NULL,
  seen_ms    INTEGER NOT NULL,
  ends_ms    INTEGER NOT NULL
);
CREATE INDEX sessions_person ON sessions (person_id);
-- who asked for it; nobody where there was no login
ALTER TABLE requests ADD COLUMN person_id TEXT NOT NULL DEFAULT '';
ALTER TABLE use_events ADD COLUMN person_id TEXT NOT NULL DEFAULT '';

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
