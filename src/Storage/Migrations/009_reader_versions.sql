-- What reads incoming pages is a published version, which never changes; the definition in readers is the draft.
CREATE TABLE reader_versions (
  reader_key TEXT NOT NULL REFERENCES readers (key),
  version INTEGER NOT NULL,
  definition TEXT NOT NULL,
  published_at TEXT NOT NULL,
  published_by TEXT NOT NULL,
  PRIMARY KEY (reader_key, version)
);
CREATE TRIGGER reader_versions_never_change BEFORE UPDATE ON reader_versions
BEGIN SELECT RAISE(ABORT, 'a published version never changes'); END;
CREATE TRIGGER reader_versions_never_go BEFORE DELETE ON reader_versions
BEGIN SELECT RAISE(ABORT, 'a published version is never removed'); END;
INSERT INTO reader_versions (reader_key, version, definition, published_at, published_by)
SELECT key, 1, definition, strftime('%Y-%m-%dT%H:%M:%fZ', 'now'), '' FROM readers;

-- Readers before each change of the draft; undo takes the newest back.
CREATE TABLE reader_history (
  id INTEGER PRIMARY KEY,
  reader_key TEXT NOT NULL REFERENCES readers (key),
  definition TEXT NOT NULL,
  change TEXT NOT NULL
);
CREATE INDEX reader_history_by_reader ON reader_history (reader_key, id);

-- The version that read it; null for documents read before that was noted.
ALTER TABLE documents ADD COLUMN reader_version INTEGER;
CREATE INDEX documents_by_reader ON documents (reader_key) WHERE reader_key IS NOT NULL;
CREATE INDEX documents_by_reader_and_day ON documents (reader_key, filed_at) WHERE filed_at IS NOT NULL AND reader_key IS NOT NULL;

-- Documents read again by a changed reader: what it would set, what it did set, and what stood there before.
CREATE TABLE rereadings (
  id INTEGER PRIMARY KEY,
  reader_key TEXT NOT NULL REFERENCES readers (key),
  version INTEGER NOT NULL,
  scope TEXT NOT NULL CHECK (scope IN ('desk', 'filed', 'both')),
  only_empty INTEGER NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('looking', 'looked', 'applying', 'applied', 'undoing', 'undone')),
  reached INTEGER NOT NULL DEFAULT 0,
  looked INTEGER NOT NULL DEFAULT 0,
  at TEXT NOT NULL,
  who TEXT NOT NULL
);
CREATE INDEX rereadings_by_reader ON rereadings (reader_key, id);
CREATE TABLE reread_values (
  id INTEGER PRIMARY KEY,
  run_id INTEGER NOT NULL REFERENCES rereadings (id) ON DELETE CASCADE,
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  field TEXT NOT NULL,
  before TEXT NOT NULL,
  after TEXT NOT NULL,
  evidence_before TEXT,
  evidence_after TEXT,
  state TEXT NOT NULL DEFAULT 'planned' CHECK (state IN ('planned', 'set', 'left', 'back', 'stays')),
  reason TEXT
);
CREATE INDEX reread_values_by_run ON reread_values (run_id, state, id);
CREATE INDEX reread_values_by_document ON reread_values (document_id);

-- Piles of unlabelled pages that are sorted by design.
CREATE TABLE piles (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('reading', 'grouped')),
  at TEXT NOT NULL,
  who TEXT NOT NULL
);
CREATE TABLE pile_files (
  id INTEGER PRIMARY KEY,
  pile_id INTEGER NOT NULL REFERENCES piles (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  stored TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'read', 'refused')),
  problem TEXT
);
CREATE INDEX pile_files_by_pile ON pile_files (pile_id, state);
-- group_no counts the groups from 1; claimed is the reader that knew the page already, taken the one whose sample it became.
CREATE TABLE pile_pages (
  id INTEGER PRIMARY KEY,
  pile_id INTEGER NOT NULL REFERENCES piles (id) ON DELETE CASCADE,
  file_id INTEGER REFERENCES pile_files (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  image TEXT NOT NULL,
  page TEXT NOT NULL,
  group_no INTEGER,
  position INTEGER NOT NULL DEFAULT 0,
  odd INTEGER NOT NULL DEFAULT 0,
  claimed TEXT,
  taken TEXT
);
CREATE INDEX pile_pages_by_pile ON pile_pages (pile_id, group_no, position);
CREATE INDEX pile_pages_by_file ON pile_pages (file_id);
CREATE TABLE pile_groups (
  pile_id INTEGER NOT NULL REFERENCES piles (id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  words TEXT NOT NULL,
  PRIMARY KEY (pile_id, number)
);
