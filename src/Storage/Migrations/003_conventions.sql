-- What surrounded a document when it was named (system values, number of the counter), so that its path can be made again.
ALTER TABLE documents ADD COLUMN naming TEXT;
-- SHA-256 of the file it came as.
ALTER TABLE documents ADD COLUMN source_hash TEXT;
-- The document that this one is a later version of.
ALTER TABLE documents ADD COLUMN version_of INTEGER REFERENCES documents (id);
-- Folder and name as file systems compare them, made by Database.PlaceKey; NOCASE knows no letter beyond ASCII.
ALTER TABLE documents ADD COLUMN place_key TEXT;
UPDATE documents SET place_key = place_key(folder, name) WHERE state = 'filed';
DROP INDEX documents_place;
CREATE UNIQUE INDEX documents_place ON documents (place_key) WHERE state = 'filed';
CREATE INDEX documents_by_folder ON documents (folder, name) WHERE state = 'filed';
CREATE INDEX documents_by_source_hash ON documents (source_hash) WHERE source_hash IS NOT NULL;

-- The last number that a counter gave. Numbers are never given twice.
CREATE TABLE counters (
  key TEXT PRIMARY KEY,
  last INTEGER NOT NULL
) WITHOUT ROWID;

-- Documents moved together because their convention changed.
CREATE TABLE refile_runs (
  id INTEGER PRIMARY KEY,
  type_code TEXT NOT NULL REFERENCES document_types (code),
  version INTEGER NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'applied', 'stopped', 'undone')),
  who TEXT NOT NULL,
  at TEXT NOT NULL,
  -- Documents that could not be moved, with the reasons, as a JSON array of sentences.
  left_over TEXT NOT NULL DEFAULT '[]'
);

-- Each move of a filed document. 'begun' means that the file may have moved but the record has not followed.
CREATE TABLE moves (
  id INTEGER PRIMARY KEY,
  run_id INTEGER REFERENCES refile_runs (id),
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  state TEXT NOT NULL CHECK (state IN ('begun', 'done', 'undone')),
  from_folder TEXT NOT NULL,
  from_name TEXT NOT NULL,
  to_folder TEXT NOT NULL,
  to_name TEXT NOT NULL,
  naming_before TEXT,
  who TEXT NOT NULL,
  at TEXT NOT NULL
);
CREATE INDEX moves_by_document ON moves (document_id);
CREATE INDEX moves_by_run ON moves (run_id) WHERE run_id IS NOT NULL;
CREATE INDEX moves_begun ON moves (state) WHERE state = 'begun';

-- What publishing a draft would do to what exists: the last look of each type.
CREATE TABLE consequences (
  type_code TEXT PRIMARY KEY REFERENCES document_types (code),
  draft_hash TEXT NOT NULL,
  version INTEGER NOT NULL,
  result TEXT NOT NULL,
  at TEXT NOT NULL
);

-- The documents and rows that a draft would change; for listing and export.
CREATE TABLE consequence_rows (
  type_code TEXT NOT NULL REFERENCES document_types (code),
  number INTEGER NOT NULL,
  document_id INTEGER,
  title TEXT NOT NULL,
  what TEXT NOT NULL,
  cause TEXT NOT NULL,
  before TEXT NOT NULL,
  after TEXT NOT NULL,
  PRIMARY KEY (type_code, number)
) WITHOUT ROWID;

-- Filed documents set aside because they fail a newer version.
ALTER TABLE documents ADD COLUMN parked TEXT;
CREATE INDEX documents_parked ON documents (type_code) WHERE parked IS NOT NULL;
