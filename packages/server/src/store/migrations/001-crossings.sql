CREATE TABLE crossings (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  recipe TEXT NOT NULL,
  revision INTEGER NOT NULL DEFAULT 1,
  created TEXT NOT NULL,
  opened TEXT NOT NULL
) STRICT;

CREATE TABLE sources (
  id TEXT PRIMARY KEY,
  crossing TEXT NOT NULL REFERENCES crossings (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  format TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  added TEXT NOT NULL,
  facts TEXT NOT NULL,
  layers TEXT NOT NULL,
  findings TEXT NOT NULL,
  UNIQUE (crossing, name)
) STRICT;

CREATE TABLE runs (
  id TEXT PRIMARY KEY,
  crossing TEXT NOT NULL REFERENCES crossings (id) ON DELETE CASCADE,
  deliverable TEXT NOT NULL,
  name TEXT NOT NULL,
  finished TEXT NOT NULL,
  revision INTEGER NOT NULL,
  files TEXT NOT NULL,
  target TEXT NOT NULL,
  proof TEXT NOT NULL,
  seconds REAL NOT NULL
) STRICT;
CREATE INDEX runs_by_crossing ON runs (crossing, finished);

CREATE TABLE jobs (
  id TEXT PRIMARY KEY,
  crossing TEXT NOT NULL REFERENCES crossings (id) ON DELETE CASCADE,
  kind TEXT NOT NULL,
  subject TEXT NOT NULL,
  subject_id TEXT NOT NULL,
  status TEXT NOT NULL,
  phase TEXT NOT NULL,
  done INTEGER NOT NULL,
  total INTEGER NOT NULL,
  unit TEXT NOT NULL,
  message TEXT,
  started TEXT NOT NULL,
  ended TEXT,
  result TEXT
) STRICT;
CREATE INDEX jobs_by_crossing ON jobs (crossing, started);
