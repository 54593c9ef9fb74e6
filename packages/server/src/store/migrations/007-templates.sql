-- Deliverables that are kept under a name, to be made of any crossing.
CREATE TABLE templates (
  name TEXT PRIMARY KEY,
  deliverable TEXT NOT NULL,
  saved TEXT NOT NULL
) STRICT;
