-- Runs of before are kept, with the rules that they were made by; those of before this have none. A crossing that was deleted lies in the bin.
ALTER TABLE runs ADD COLUMN pinned INTEGER NOT NULL DEFAULT 0;
ALTER TABLE runs ADD COLUMN recipe TEXT NOT NULL DEFAULT 'null';
ALTER TABLE crossings ADD COLUMN binned TEXT;
