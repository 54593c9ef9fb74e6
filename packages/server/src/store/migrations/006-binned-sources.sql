-- Sources that were removed, or in whose place another file was put, lie in the bin with their folders and the rules that they had.
CREATE TABLE binned_sources (
  id TEXT PRIMARY KEY,
  crossing TEXT NOT NULL REFERENCES crossings (id) ON DELETE CASCADE,
  source TEXT NOT NULL,
  layout INTEGER NOT NULL,
  binned TEXT NOT NULL,
  by TEXT,
  rules TEXT NOT NULL
) STRICT;
