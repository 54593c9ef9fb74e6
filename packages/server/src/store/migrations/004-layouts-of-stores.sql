-- The layout of the store that a source was read into; those of before there was a number are read again.
ALTER TABLE sources ADD COLUMN layout INTEGER NOT NULL DEFAULT 0;
