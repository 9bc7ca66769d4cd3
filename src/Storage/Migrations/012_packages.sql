-- Packages of whole repositories that were looked at and taken over. look is what was found in one (JSON); reached is the last document that
-- is here, -1 while not even the design is.
CREATE TABLE takeovers (
  id INTEGER PRIMARY KEY,
  folder TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('looking', 'looked', 'taking', 'taken', 'returning', 'undone')),
  look TEXT,
  reached INTEGER NOT NULL DEFAULT -1,
  batch_id INTEGER REFERENCES batches (id),
  at TEXT NOT NULL,
  who TEXT NOT NULL
);
CREATE INDEX takeovers_by_batch ON takeovers (batch_id) WHERE batch_id IS NOT NULL;
