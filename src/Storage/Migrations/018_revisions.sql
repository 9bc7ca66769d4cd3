-- How often a document has been changed, so that nothing is written over what somebody else has changed since it was read.
ALTER TABLE documents ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
