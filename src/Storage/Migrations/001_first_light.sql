CREATE TABLE people (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  password_hash TEXT NOT NULL,
  role TEXT NOT NULL CHECK (role IN ('steward', 'indexer', 'searcher', 'administrator')),
  removed INTEGER NOT NULL DEFAULT 0
);

CREATE TABLE tokens (
  id INTEGER PRIMARY KEY,
  person_id INTEGER NOT NULL REFERENCES people (id),
  label TEXT NOT NULL,
  hash TEXT NOT NULL UNIQUE,
  created_at TEXT NOT NULL,
  revoked INTEGER NOT NULL DEFAULT 0
);

CREATE TABLE vocabularies (
  key TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  revision INTEGER NOT NULL DEFAULT 1
);

CREATE TABLE terms (
  vocabulary_key TEXT NOT NULL REFERENCES vocabularies (key),
  position INTEGER NOT NULL,
  label TEXT NOT NULL,
  variants TEXT NOT NULL,
  code TEXT,
  status TEXT NOT NULL CHECK (status IN ('Current', 'Retired')),
  PRIMARY KEY (vocabulary_key, label)
);

CREATE TABLE document_types (
  code TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  draft TEXT NOT NULL,
  draft_open INTEGER NOT NULL DEFAULT 1
);

-- Designs before each change of the draft; undo takes the newest back.
CREATE TABLE draft_history (
  id INTEGER PRIMARY KEY,
  type_code TEXT NOT NULL REFERENCES document_types (code),
  design TEXT NOT NULL,
  draft_open INTEGER NOT NULL,
  change TEXT NOT NULL
);

CREATE TABLE type_versions (
  type_code TEXT NOT NULL REFERENCES document_types (code),
  version INTEGER NOT NULL,
  design TEXT NOT NULL,
  published_at TEXT NOT NULL,
  published_by TEXT NOT NULL,
  PRIMARY KEY (type_code, version)
);
CREATE TRIGGER type_versions_never_change BEFORE UPDATE ON type_versions
BEGIN SELECT RAISE(ABORT, 'a published version never changes'); END;
CREATE TRIGGER type_versions_never_go BEFORE DELETE ON type_versions
BEGIN SELECT RAISE(ABORT, 'a published version is never removed'); END;

CREATE TABLE readers (
  key TEXT PRIMARY KEY,
  type_code TEXT NOT NULL REFERENCES document_types (code),
  definition TEXT NOT NULL
);

CREATE TABLE samples (
  id INTEGER PRIMARY KEY,
  reader_key TEXT NOT NULL REFERENCES readers (key),
  name TEXT NOT NULL,
  image TEXT NOT NULL,
  page TEXT NOT NULL,
  truth TEXT NOT NULL
);
CREATE INDEX samples_by_reader ON samples (reader_key);

CREATE TABLE batches (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  brought_by TEXT NOT NULL,
  brought_at TEXT NOT NULL
);

CREATE TABLE batch_files (
  id INTEGER PRIMARY KEY,
  batch_id INTEGER NOT NULL REFERENCES batches (id),
  name TEXT NOT NULL,
  stored TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('waiting', 'taken', 'refused')),
  message TEXT
);
CREATE INDEX batch_files_by_batch ON batch_files (batch_id, state);

-- A document from the moment it is taken in. Its file and its filed state appear together: see filing_journal.
CREATE TABLE documents (
  id INTEGER PRIMARY KEY,
  state TEXT NOT NULL CHECK (state IN ('desk', 'filed')),
  type_code TEXT REFERENCES document_types (code),
  version INTEGER,
  reader_key TEXT,
  batch_id INTEGER REFERENCES batches (id),
  source_name TEXT NOT NULL,
  source_file TEXT,
  record TEXT NOT NULL,
  evidence TEXT NOT NULL,
  overrides TEXT NOT NULL,
  folder TEXT,
  name TEXT,
  file_hash TEXT,
  filed_at TEXT,
  filed_by TEXT,
  wave_id INTEGER REFERENCES waves (id),
  legacy_path TEXT
);
CREATE UNIQUE INDEX documents_place ON documents (folder COLLATE NOCASE, name COLLATE NOCASE) WHERE state = 'filed';
CREATE INDEX documents_by_type ON documents (type_code, state);
CREATE INDEX documents_by_batch ON documents (batch_id, state);
CREATE INDEX documents_by_wave ON documents (wave_id) WHERE wave_id IS NOT NULL;

CREATE TABLE pages (
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  image TEXT NOT NULL,
  page TEXT NOT NULL,
  notice TEXT,
  PRIMARY KEY (document_id, number)
);

CREATE TABLE unique_keys (
  type_code TEXT NOT NULL,
  rule_id TEXT NOT NULL,
  key TEXT NOT NULL,
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  PRIMARY KEY (type_code, rule_id, key, document_id)
) WITHOUT ROWID;
CREATE INDEX unique_keys_by_document ON unique_keys (document_id);

CREATE TABLE value_history (
  id INTEGER PRIMARY KEY,
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  field TEXT NOT NULL,
  before TEXT NOT NULL,
  after TEXT NOT NULL,
  how TEXT NOT NULL,
  at TEXT NOT NULL,
  who TEXT NOT NULL
);
CREATE INDEX value_history_by_document ON value_history (document_id);

-- Filings under way. A row left here at start means the process was stopped between file and record.
CREATE TABLE filing_journal (
  id INTEGER PRIMARY KEY,
  document_id INTEGER NOT NULL,
  draft_file TEXT NOT NULL,
  final_file TEXT NOT NULL,
  file_hash TEXT NOT NULL
);

CREATE VIRTUAL TABLE document_text USING fts5 (body, restricted, tokenize = 'unicode61 remove_diacritics 2');

CREATE TABLE inventories (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  file TEXT NOT NULL,
  shape TEXT NOT NULL,
  profile TEXT,
  plan TEXT,
  dry_run TEXT,
  brought_by TEXT NOT NULL,
  brought_at TEXT NOT NULL
);

CREATE TABLE waves (
  id INTEGER PRIMARY KEY,
  inventory_id INTEGER NOT NULL REFERENCES inventories (id),
  state TEXT NOT NULL CHECK (state IN ('running', 'applied', 'undone')),
  tagged INTEGER NOT NULL DEFAULT 0,
  applied_by TEXT NOT NULL,
  applied_at TEXT NOT NULL
);

-- Rows of the last dry run that were not ready, with their reasons.
CREATE TABLE left_rows (
  inventory_id INTEGER NOT NULL REFERENCES inventories (id),
  row INTEGER NOT NULL,
  verdict TEXT NOT NULL,
  title TEXT NOT NULL,
  reasons TEXT NOT NULL,
  PRIMARY KEY (inventory_id, row)
) WITHOUT ROWID;

CREATE TABLE ledger (
  seq INTEGER PRIMARY KEY,
  at TEXT NOT NULL,
  who TEXT NOT NULL,
  action TEXT NOT NULL,
  object TEXT NOT NULL,
  detail TEXT NOT NULL,
  hash TEXT NOT NULL
);
CREATE TRIGGER ledger_never_changes BEFORE UPDATE ON ledger
BEGIN SELECT RAISE(ABORT, 'the ledger is append-only'); END;
CREATE TRIGGER ledger_never_forgets BEFORE DELETE ON ledger
BEGIN SELECT RAISE(ABORT, 'the ledger is append-only'); END;
