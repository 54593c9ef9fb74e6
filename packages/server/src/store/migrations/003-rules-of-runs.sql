-- What a run was made by, so that changes that do not touch it do not make it old. Runs of before have none, and go by their revision.
ALTER TABLE runs ADD COLUMN rules TEXT NOT NULL DEFAULT '';
