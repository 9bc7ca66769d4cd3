-- The mapping that carries documents of a type from its published version to its draft, as written on the page.
CREATE TABLE carry_lines (
  type_code TEXT PRIMARY KEY REFERENCES document_types (code),
  lines TEXT NOT NULL
);

-- Documents carried through together. They are carried in the order of their ids; last_id is how far it has come.
CREATE TABLE carry_runs (
  id INTEGER PRIMARY KEY,
  type_code TEXT NOT NULL REFERENCES document_types (code),
  version_before INTEGER NOT NULL,
  version INTEGER NOT NULL,
  lines TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'carried', 'stopped', 'undone')),
  last_id INTEGER NOT NULL DEFAULT 0,
  who TEXT NOT NULL,
  at TEXT NOT NULL,
  -- Documents that could not be taken back, with the reasons, as a JSON array of sentences.
  left_over TEXT NOT NULL DEFAULT '[]'
);
CREATE INDEX carry_runs_by_type ON carry_runs (type_code);

-- What each document held before, so that it can be taken back.
CREATE TABLE carried (
  run_id INTEGER NOT NULL REFERENCES carry_runs (id),
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  record_before TEXT NOT NULL,
  evidence_before TEXT NOT NULL,
  version_before INTEGER,
  parked_before TEXT,
  record_after TEXT NOT NULL,
  PRIMARY KEY (run_id, document_id)
) WITHOUT ROWID;
CREATE INDEX carried_by_document ON carried (document_id);
