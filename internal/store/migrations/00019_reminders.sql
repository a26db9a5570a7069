-- +goose Up
-- What was told of each job, by mail or to a webhook: each time of it once when due and once when overdue.
CREATE TABLE reminded (
  channel TEXT NOT NULL, -- mail, webhook
  job     TEXT NOT NULL, -- one time that a task of a part comes round at a machine
  stage   TEXT NOT NULL, -- due, overdue
  at_ms   INTEGER NOT NULL,
  PRIMARY KEY (channel, job)
) WITHOUT ROWID;

-- +goose Down
SELECT RAISE(ABORT, 'the copy made before this migration is the way back');
