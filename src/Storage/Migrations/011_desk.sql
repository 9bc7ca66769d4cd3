-- Pages that left a document on the desk: a person took them out, or a turned picture took their place.
CREATE TABLE pages_aside (
  id INTEGER PRIMARY KEY,
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  image TEXT NOT NULL UNIQUE,
  page TEXT NOT NULL,
  notice TEXT,
  file_id INTEGER REFERENCES batch_files (id),
  file_page INTEGER,
  replaced INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX pages_aside_by_document ON pages_aside (document_id);
CREATE INDEX pages_aside_by_file ON pages_aside (file_id) WHERE file_id IS NOT NULL;

-- What was done with the pages of a document on the desk, with the documents before and after it (JSON), for undo. The document may be one
-- that went into another and comes back when that is undone.
CREATE TABLE page_acts (
  id INTEGER PRIMARY KEY,
  document_id INTEGER NOT NULL,
  says TEXT NOT NULL,
  before TEXT NOT NULL,
  after TEXT NOT NULL,
  at TEXT NOT NULL,
  who TEXT NOT NULL
);
CREATE INDEX page_acts_by_document ON page_acts (document_id);

-- The document that the pages of a batch are added to; null for batches that become documents of their own.
ALTER TABLE batches ADD COLUMN joins INTEGER REFERENCES documents (id) ON DELETE SET NULL;
CREATE INDEX batches_that_join ON batches (joins) WHERE joins IS NOT NULL;

-- Filing everything that is ready as one act: which documents a person has seen, what became of each, for going on and for taking back.
CREATE TABLE filing_runs (
  id INTEGER PRIMARY KEY,
  batch_id INTEGER REFERENCES batches (id) ON DELETE SET NULL,
  state TEXT NOT NULL CHECK (state IN ('filing', 'undoing')),
  at TEXT NOT NULL,
  who TEXT NOT NULL
);
CREATE INDEX filing_runs_by_batch ON filing_runs (batch_id) WHERE batch_id IS NOT NULL;

-- last_change is the newest line of the values' history when it was filed: a later one was written by somebody else.
CREATE TABLE filing_run_documents (
  run_id INTEGER NOT NULL REFERENCES filing_runs (id) ON DELETE CASCADE,
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('planned', 'filed', 'left', 'back', 'stays')),
  path TEXT NOT NULL,
  says TEXT NOT NULL DEFAULT '',
  last_change INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (run_id, document_id)
) WITHOUT ROWID;
CREATE INDEX filing_run_documents_by_document ON filing_run_documents (document_id);

-- Documents that get another type: a look first, then changed, then, if wanted, taken back.
CREATE TABLE retype_runs (
  id INTEGER PRIMARY KEY,
  to_type TEXT NOT NULL REFERENCES document_types (code),
  asks TEXT,
  document_id INTEGER REFERENCES documents (id) ON DELETE CASCADE,
  rereads INTEGER NOT NULL,
  reason TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('looking', 'looked', 'applying', 'applied', 'undoing', 'undone')),
  at TEXT NOT NULL,
  who TEXT NOT NULL
);
CREATE INDEX retype_runs_by_document ON retype_runs (document_id) WHERE document_id IS NOT NULL;
CREATE INDEX retype_runs_by_type ON retype_runs (to_type);

-- lost: what the new type has no place for (JSON, label and text). before: the document as it was, once it is changed.
CREATE TABLE retypings (
  run_id INTEGER NOT NULL REFERENCES retype_runs (id) ON DELETE CASCADE,
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('planned', 'held', 'moving', 'done', 'left', 'returning', 'back', 'stays')),
  to_path TEXT NOT NULL,
  lost TEXT NOT NULL,
  says TEXT NOT NULL DEFAULT '',
  before TEXT,
  move_id INTEGER,
  last_change INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (run_id, document_id)
) WITHOUT ROWID;
CREATE INDEX retypings_by_document ON retypings (document_id);
CREATE INDEX retypings_under_way ON retypings (run_id) WHERE state IN ('moving', 'returning');

-- Who is told when documents that a question finds are filed or changed.
ALTER TABLE people ADD COLUMN email TEXT NOT NULL DEFAULT '';
CREATE TABLE notice_rules (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  asks TEXT NOT NULL,
  on_filed INTEGER NOT NULL,
  on_changed INTEGER NOT NULL,
  to_whom TEXT NOT NULL,
  daily INTEGER NOT NULL,
  made_by TEXT NOT NULL
);

-- mailed: 0 is still to be sent, 1 was sent, 2 goes to nobody's address.
CREATE TABLE notices (
  id INTEGER PRIMARY KEY,
  rule_id INTEGER NOT NULL REFERENCES notice_rules (id) ON DELETE CASCADE,
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  person_id INTEGER NOT NULL REFERENCES people (id) ON DELETE CASCADE,
  what TEXT NOT NULL CHECK (what IN ('filed', 'changed')),
  at TEXT NOT NULL,
  seen INTEGER NOT NULL DEFAULT 0,
  mailed INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX notices_by_person ON notices (person_id, seen, id);
CREATE INDEX notices_by_document ON notices (document_id);
CREATE UNIQUE INDEX notices_new ON notices (rule_id, document_id, person_id) WHERE seen = 0;
CREATE INDEX notices_by_rule ON notices (rule_id);
CREATE INDEX notices_to_mail ON notices (id) WHERE mailed = 0;

-- When a plan is run next by itself; null for never.
ALTER TABLE export_plans ADD COLUMN next_at TEXT;
CREATE INDEX export_plans_due ON export_plans (next_at) WHERE next_at IS NOT NULL;

-- The question (JSON) whose documents alone are read again; null for all of the scope.
ALTER TABLE rereadings ADD COLUMN asks TEXT;
