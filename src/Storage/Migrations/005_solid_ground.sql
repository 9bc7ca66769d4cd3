-- Every foreign key is looked up from the referring side when what it refers to is removed.
CREATE INDEX tokens_by_person ON tokens (person_id);
CREATE INDEX draft_history_by_type ON draft_history (type_code, id);
CREATE INDEX readers_by_type ON readers (type_code);
CREATE INDEX documents_by_version_of ON documents (version_of) WHERE version_of IS NOT NULL;
CREATE INDEX waves_by_inventory ON waves (inventory_id);
CREATE INDEX refile_runs_by_type ON refile_runs (type_code);
CREATE INDEX documents_of_type ON documents (type_code, id);
CREATE INDEX consequence_rows_by_document ON consequence_rows (document_id) WHERE document_id IS NOT NULL;

-- Long work. One that is running when the process ends is taken up again at the next start.
CREATE TABLE jobs (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL,
  -- What it works on, such as "inventory 3"; only one job at a time works on it.
  subject TEXT NOT NULL,
  title TEXT NOT NULL,
  -- Address of the page it belongs to, and the policy of those who may stop it.
  page TEXT NOT NULL,
  policy TEXT NOT NULL,
  -- What its kind needs to do it, JSON.
  arguments TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('running', 'ended', 'stopped', 'failed')),
  total INTEGER NOT NULL DEFAULT 0,
  done INTEGER NOT NULL DEFAULT 0,
  -- How often it was taken up after the process had ended, without having got any further.
  tries INTEGER NOT NULL DEFAULT 0,
  problem TEXT,
  who TEXT NOT NULL,
  started_at TEXT NOT NULL,
  ended_at TEXT
);
CREATE UNIQUE INDEX jobs_running ON jobs (subject) WHERE state = 'running';
CREATE INDEX jobs_by_subject ON jobs (subject, started_at);

-- Waves are applied and taken back in chunks: last_row is how far a wave has come.
ALTER TABLE waves ADD COLUMN phase TEXT NOT NULL DEFAULT 'running' CHECK (phase IN ('running', 'stopped', 'applied', 'undoing', 'undone'));
UPDATE waves SET phase = state;
ALTER TABLE waves DROP COLUMN state;
ALTER TABLE waves RENAME COLUMN phase TO state;
ALTER TABLE waves ADD COLUMN last_row INTEGER NOT NULL DEFAULT 0;
ALTER TABLE waves ADD COLUMN rows_left INTEGER NOT NULL DEFAULT 0;
ALTER TABLE waves ADD COLUMN reason TEXT;

-- Whether the rows left are those of the plan as it is.
ALTER TABLE inventories ADD COLUMN left_known INTEGER NOT NULL DEFAULT 1;
CREATE UNIQUE INDEX inventories_by_file ON inventories (file);

-- Documents that followed a change of a vocabulary; before, they were a list in vocabulary_history.
CREATE TABLE vocabulary_followed (
  step_id INTEGER NOT NULL REFERENCES vocabulary_history (id) ON DELETE CASCADE,
  document_id INTEGER NOT NULL,
  field TEXT NOT NULL,
  before TEXT NOT NULL,
  after TEXT NOT NULL,
  PRIMARY KEY (step_id, document_id, field)
) WITHOUT ROWID;
INSERT OR IGNORE INTO vocabulary_followed (step_id, document_id, field, before, after)
  SELECT h.id, d.value ->> 'id', d.value ->> 'field', d.value ->> 'before', d.value ->> 'after' FROM vocabulary_history h, json_each(h.documents) d;
ALTER TABLE vocabulary_history DROP COLUMN documents;
-- Labels that documents still have to follow, JSON; null when they have.
ALTER TABLE vocabulary_history ADD COLUMN following TEXT;
ALTER TABLE vocabulary_history ADD COLUMN last_id INTEGER NOT NULL DEFAULT 0;

-- A file is marked before it is tried: one on which the process has died is not tried for ever.
ALTER TABLE batch_files ADD COLUMN tried INTEGER NOT NULL DEFAULT 0;
CREATE INDEX batch_files_waiting ON batch_files (state) WHERE state = 'waiting';

-- Several roles a person, a stamp that ends sessions when rights change, and a one-time word that must be replaced.
CREATE TABLE person_roles (
  person_id INTEGER NOT NULL REFERENCES people (id),
  role TEXT NOT NULL CHECK (role IN ('steward', 'indexer', 'searcher', 'administrator')),
  PRIMARY KEY (person_id, role)
) WITHOUT ROWID;
INSERT INTO person_roles (person_id, role) SELECT id, role FROM people;
ALTER TABLE people DROP COLUMN role;
ALTER TABLE people ADD COLUMN stamp TEXT NOT NULL DEFAULT '';
UPDATE people SET stamp = lower(hex(randomblob(16)));
ALTER TABLE people ADD COLUMN one_time_until TEXT;
ALTER TABLE tokens ADD COLUMN scopes TEXT NOT NULL DEFAULT 'check read bring design';
ALTER TABLE tokens ADD COLUMN expires_at TEXT;

-- Failed sign-ins by name and by address; each one lengthens the wait.
CREATE TABLE sign_in_failures (
  key TEXT PRIMARY KEY,
  count INTEGER NOT NULL,
  last_at TEXT NOT NULL
) WITHOUT ROWID;

-- Settings of the whole installation.
CREATE TABLE settings (
  key TEXT PRIMARY KEY,
  value TEXT NOT NULL
) WITHOUT ROWID;

-- Number and hash of the newest line of the ledger, signed with a key that is not in this file: a tail that was cut is seen.
CREATE TABLE ledger_head (
  one INTEGER PRIMARY KEY CHECK (one = 1),
  seq INTEGER NOT NULL,
  hash TEXT NOT NULL,
  signature TEXT NOT NULL
);
INSERT INTO ledger_head (one, seq, hash, signature)
  SELECT 1, seq, hash, ledger_sign(seq || ' ' || hash) FROM (SELECT coalesce(max(seq), 0) AS seq, coalesce((SELECT hash FROM ledger ORDER BY seq DESC LIMIT 1), '') AS hash FROM ledger);
CREATE INDEX ledger_by_object ON ledger (object, seq);
CREATE INDEX ledger_by_who ON ledger (who, seq);

-- A document that no counter has numbered has the number 0; before, it had 1 and could not be told from the first that was counted.
UPDATE documents SET naming = json_set(naming, '$.counter', 0)
  WHERE naming ->> '$.counter' = 1 AND NOT EXISTS (
    SELECT 1 FROM type_versions v, json_each(v.design, '$.convention.name') p
    WHERE v.type_code = documents.type_code AND v.version = documents.version AND p.value ->> 'kind' = 'Counter' AND coalesce(p.value ->> 'onlyWhenTaken', 0) = 0);
