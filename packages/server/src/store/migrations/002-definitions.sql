CREATE TABLE definitions (
  name TEXT PRIMARY KEY,
  text TEXT NOT NULL,
  saved TEXT NOT NULL
) STRICT;
