-- Saved questions to the repository; one that was removed can be put back.
CREATE TABLE views (
  id INTEGER PRIMARY KEY,
  owner TEXT NOT NULL,
  name TEXT NOT NULL,
  name_key TEXT NOT NULL,
  shared_with TEXT,
  definition TEXT NOT NULL,
  changed_at TEXT NOT NULL,
  removed_at TEXT,
  UNIQUE (owner, name_key)
);
CREATE INDEX views_shared ON views (shared_with) WHERE shared_with IS NOT NULL;

-- What leaves the house: plans, their runs, the files of each run.
CREATE TABLE export_plans (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  owner TEXT NOT NULL,
  definition TEXT NOT NULL,
  changed_at TEXT NOT NULL,
  removed_at TEXT
);
CREATE TABLE export_runs (
  id INTEGER PRIMARY KEY,
  plan_id INTEGER NOT NULL REFERENCES export_plans (id),
  definition TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'moving', 'done', 'stopped')),
  folder TEXT NOT NULL,
  documents INTEGER NOT NULL DEFAULT 0,
  at TEXT NOT NULL,
  who TEXT NOT NULL
);
CREATE INDEX export_runs_by_plan ON export_runs (plan_id, id);
CREATE TABLE export_files (
  run_id INTEGER NOT NULL REFERENCES export_runs (id) ON DELETE CASCADE,
  path TEXT NOT NULL,
  document_id INTEGER,
  bytes INTEGER NOT NULL,
  sha256 TEXT NOT NULL,
  PRIMARY KEY (run_id, path)
) WITHOUT ROWID;
CREATE INDEX export_files_by_document ON export_files (run_id, document_id);
-- Documents that did not leave, with the reasons.
CREATE TABLE export_left (
  run_id INTEGER NOT NULL REFERENCES export_runs (id) ON DELETE CASCADE,
  document_id INTEGER NOT NULL,
  reason TEXT NOT NULL,
  PRIMARY KEY (run_id, document_id)
) WITHOUT ROWID;

-- One change of a field of many documents: what it would set, what it did set, what stood there before.
CREATE TABLE bulk_edits (
  id INTEGER PRIMARY KEY,
  type_code TEXT NOT NULL,
  asks TEXT NOT NULL,
  change TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('looking', 'looked', 'applying', 'applied', 'undoing', 'undone')),
  looked INTEGER NOT NULL DEFAULT 0,
  at TEXT NOT NULL,
  who TEXT NOT NULL
);
CREATE TABLE bulk_values (
  id INTEGER PRIMARY KEY,
  edit_id INTEGER NOT NULL REFERENCES bulk_edits (id) ON DELETE CASCADE,
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  before TEXT NOT NULL,
  after TEXT NOT NULL,
  to_path TEXT,
  moved INTEGER NOT NULL DEFAULT 0,
  state TEXT NOT NULL CHECK (state IN ('planned', 'held', 'set', 'left', 'back', 'stays')),
  reason TEXT,
  UNIQUE (edit_id, document_id)
);
CREATE INDEX bulk_values_by_edit ON bulk_values (edit_id, state, id);
CREATE INDEX bulk_values_by_document ON bulk_values (document_id);
CREATE INDEX bulk_values_to_move ON bulk_values (edit_id, state, moved, id) WHERE to_path IS NOT NULL;

-- Values that a person keeps for the next documents of a type.
CREATE TABLE held_values (
  who TEXT NOT NULL,
  type_code TEXT NOT NULL,
  field TEXT NOT NULL,
  text TEXT NOT NULL,
  used INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (who, type_code, field)
) WITHOUT ROWID;

-- Documents that somebody set aside on the desk until they can be completed.
CREATE TABLE parkings (
  document_id INTEGER PRIMARY KEY REFERENCES documents (id) ON DELETE CASCADE,
  reason TEXT NOT NULL,
  for_whom TEXT NOT NULL,
  due TEXT,
  at TEXT NOT NULL,
  who TEXT NOT NULL
);

-- Filed documents that went back to the desk, or out of the repository: where they stood, and the file that was there.
CREATE TABLE withdrawals (
  id INTEGER PRIMARY KEY,
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  folder TEXT NOT NULL,
  name TEXT NOT NULL,
  naming TEXT,
  filed_at TEXT,
  filed_by TEXT,
  kept TEXT NOT NULL,
  is_out INTEGER NOT NULL,
  reason TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('begun', 'done', 'returning', 'undone')),
  at TEXT NOT NULL,
  who TEXT NOT NULL
);
CREATE INDEX withdrawals_by_document ON withdrawals (document_id, id);
CREATE INDEX withdrawals_by_state ON withdrawals (state, is_out);
