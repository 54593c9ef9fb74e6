CREATE TABLE layers (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE entities (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE features (
  id INTEGER PRIMARY KEY,
  layer INTEGER NOT NULL REFERENCES layers (id),
  entity INTEGER NOT NULL REFERENCES entities (id),
  kind INTEGER NOT NULL,
  place REAL NOT NULL,
  geometry BLOB NOT NULL,
  attributes TEXT NOT NULL
);
CREATE VIRTUAL TABLE bounds USING rtree (id, minx, maxx, miny, maxy, +layer INTEGER);
-- the same bounds as plain numbers, page by page in the order of the tree
CREATE TABLE bounds_pages (minx REAL NOT NULL, maxx REAL NOT NULL, miny REAL NOT NULL, maxy REAL NOT NULL, bytes BLOB NOT NULL);
-- what the records are drawn with, as one serialised value; at most one row
CREATE TABLE library (bytes BLOB NOT NULL);

-- The batches in which the reader gave the records: a proof that reads the source again goes through them in step.
CREATE TABLE batches (
  first INTEGER PRIMARY KEY,
  count INTEGER NOT NULL
) STRICT;
-- what the source declares of the fields of a layer, as pairs of a name and a declaration in JSON
CREATE TABLE declared (layer INTEGER PRIMARY KEY REFERENCES layers (id), fields TEXT NOT NULL) STRICT;
