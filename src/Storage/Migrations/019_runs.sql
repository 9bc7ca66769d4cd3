-- Acts on many documents that are looked at, done, stopped, gone on with and taken back: one table for runs of every kind, and one for
-- what each does to a document. They keep the numbers that they had in tables of their own.
CREATE TABLE runs (
  key INTEGER PRIMARY KEY,
  kind TEXT NOT NULL,
  id INTEGER NOT NULL,
  -- What it works on, as jobs say it.
  subject TEXT NOT NULL,
  -- What is to be done, JSON.
  what TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('looking', 'looked', 'applying', 'applied', 'undoing', 'undone')),
  reached INTEGER NOT NULL DEFAULT 0,
  looked INTEGER NOT NULL DEFAULT 0,
  -- Why it could not go on.
  problem TEXT,
  at TEXT NOT NULL,
  who TEXT NOT NULL,
  UNIQUE (kind, id)
);
CREATE INDEX runs_by_subject ON runs (kind, subject, id);

CREATE TABLE run_steps (
  id INTEGER PRIMARY KEY,
  run INTEGER NOT NULL REFERENCES runs (key) ON DELETE CASCADE,
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  -- What the document was called; null for what it is called.
  name TEXT,
  state TEXT NOT NULL CHECK (state IN ('planned', 'held', 'moving', 'done', 'skipped', 'returning', 'undone', 'stays')),
  -- What is done, and what taking it back needs, JSON.
  what TEXT NOT NULL,
  to_path TEXT,
  message TEXT NOT NULL DEFAULT '',
  -- The newest line of the document's history when it was done: a later one was written by somebody.
  last_change INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX run_steps_by_run ON run_steps (run, state, id);
CREATE INDEX run_steps_by_document ON run_steps (document_id);

INSERT INTO runs (kind, id, subject, what, state, looked, at, who)
SELECT 'bulk', id, 'bulk ' || type_code, json_set(change, '$.typeCode', type_code, '$.asks', json(asks)), state, looked, at, who
FROM bulk_edits ORDER BY id;
INSERT INTO run_steps (run, document_id, state, what, to_path, message)
SELECT r.key, v.document_id,
  CASE WHEN v.state = 'set' AND v.to_path IS NOT NULL AND v.moved = 0 AND r.what ->> '$.moves' = 1 THEN 'moving'
    WHEN v.state = 'back' AND v.to_path IS NOT NULL AND v.moved = 1 THEN 'returning'
    WHEN v.state = 'set' THEN 'done' WHEN v.state = 'left' THEN 'skipped' WHEN v.state = 'back' THEN 'undone' ELSE v.state END,
  json_object('field', r.what ->> '$.what.field', 'before', v.before, 'after', v.after), v.to_path, coalesce(v.reason, '')
FROM bulk_values v JOIN runs r ON r.kind = 'bulk' AND r.id = v.edit_id ORDER BY v.id;

INSERT INTO runs (kind, id, subject, what, state, reached, looked, at, who)
SELECT 'reread', id, 'reader ' || reader_key, json_object('reader', reader_key, 'version', version, 'scope', scope,
  'onlyEmpty', json(iif(only_empty, 'true', 'false')), 'asks', json(asks)), state, reached, looked, at, who
FROM rereadings ORDER BY id;
INSERT INTO run_steps (run, document_id, state, what, message)
SELECT r.key, v.document_id,
  CASE v.state WHEN 'set' THEN 'done' WHEN 'left' THEN 'skipped' WHEN 'back' THEN 'undone' ELSE v.state END,
  json_object('field', v.field, 'before', v.before, 'after', v.after, 'evidenceBefore', json(v.evidence_before),
    'evidenceAfter', json(v.evidence_after)), coalesce(v.reason, '')
FROM reread_values v JOIN runs r ON r.kind = 'reread' AND r.id = v.run_id ORDER BY v.id;

INSERT INTO runs (kind, id, subject, what, state, at, who)
SELECT 'retype', id, 'document types of documents', json_object('toType', to_type, 'asks', json(asks), 'document', document_id,
  'rereads', json(iif(rereads, 'true', 'false')), 'reason', reason), state, at, who
FROM retype_runs ORDER BY id;
INSERT INTO run_steps (run, document_id, name, state, what, to_path, message, last_change)
-- One that was returning has its type yet, so that it is as one that is done and is taken back again.
SELECT r.key, t.document_id, t.name,
  CASE t.state WHEN 'left' THEN 'skipped' WHEN 'back' THEN 'undone' WHEN 'returning' THEN 'done' ELSE t.state END,
  json_object('lost', json(t.lost), 'before', json(t.before), 'move', t.move_id), nullif(t.to_path, ''), t.says, t.last_change
FROM retypings t JOIN runs r ON r.kind = 'retype' AND r.id = t.run_id ORDER BY t.run_id, t.document_id;

INSERT INTO runs (kind, id, subject, what, state, reached, looked, at, who)
SELECT 'carry', id, 'type ' || type_code, json_object('typeCode', type_code, 'versionBefore', version_before, 'version', version,
  'lines', json(lines)), CASE state WHEN 'carried' THEN 'applied' WHEN 'undone' THEN 'undone' ELSE 'applying' END, last_id,
  (SELECT count(*) FROM carried x WHERE x.run_id = carry_runs.id), at, who
FROM carry_runs ORDER BY id;
INSERT INTO run_steps (run, document_id, state, what, message)
SELECT r.key, x.document_id, iif(r.state = 'undone', 'stays', 'done'), json_object('record', json(x.record_before),
  'evidence', json(x.evidence_before), 'version', x.version_before, 'parked', x.parked_before, 'after', json(x.record_after)),
  iif(r.state = 'undone', 'It has been edited since.', '')
FROM carried x JOIN runs r ON r.kind = 'carry' AND r.id = x.run_id ORDER BY x.run_id, x.document_id;

INSERT INTO runs (kind, id, subject, what, state, at, who)
SELECT 'filing', id, 'ready documents', json_object('batch', batch_id),
  CASE WHEN state = 'undoing' AND NOT EXISTS (SELECT 1 FROM filing_run_documents d WHERE d.run_id = f.id AND d.state = 'filed') THEN 'undone'
    WHEN state = 'undoing' THEN 'undoing'
    WHEN EXISTS (SELECT 1 FROM filing_run_documents d WHERE d.run_id = f.id AND d.state = 'planned') THEN 'applying'
    ELSE 'applied' END, at, who
FROM filing_runs f ORDER BY id;
INSERT INTO run_steps (run, document_id, name, state, what, to_path, message, last_change)
SELECT r.key, d.document_id, d.name,
  CASE d.state WHEN 'filed' THEN 'done' WHEN 'left' THEN 'skipped' WHEN 'back' THEN 'undone' ELSE d.state END, '{}', d.path, d.says,
  d.last_change
FROM filing_run_documents d JOIN runs r ON r.kind = 'filing' AND r.id = d.run_id ORDER BY d.run_id, d.document_id;

INSERT INTO runs (kind, id, subject, what, state, problem, at, who)
SELECT 'refile', id, 'type ' || type_code, json_object('typeCode', type_code, 'version', version),
  CASE state WHEN 'applied' THEN 'applied' WHEN 'undone' THEN 'undone' ELSE 'applying' END,
  (SELECT group_concat(value, ' ') FROM json_each(left_over)), at, who
FROM refile_runs ORDER BY id;

INSERT INTO runs (kind, id, subject, what, state, reached, at, who)
SELECT 'wave', id, 'inventory ' || inventory_id, json_object('inventory', inventory_id, 'reason', reason),
  CASE state WHEN 'running' THEN 'applying' WHEN 'stopped' THEN 'applying' ELSE state END, last_row, applied_at, applied_by
FROM waves ORDER BY id;
-- What each wave has done stays beside it: documents belong to it.
ALTER TABLE waves DROP COLUMN state;
ALTER TABLE waves DROP COLUMN last_row;
ALTER TABLE waves DROP COLUMN reason;
ALTER TABLE waves DROP COLUMN applied_at;
ALTER TABLE waves DROP COLUMN applied_by;

INSERT INTO runs (kind, id, subject, what, state, reached, at, who)
SELECT 'takeover', id, 'takeover', json_object('folder', folder, 'look', json(look), 'batch', batch_id),
  CASE state WHEN 'taking' THEN 'applying' WHEN 'taken' THEN 'applied' WHEN 'returning' THEN 'undoing' ELSE state END, max(reached, 0), at, who
FROM takeovers ORDER BY id;

INSERT INTO runs (kind, id, subject, what, state, reached, looked, at, who)
SELECT 'export', id, 'export ' || plan_id, json_object('plan', plan_id, 'what', json(definition), 'folder', folder),
  iif(state = 'done', 'applied', 'applying'), state IN ('moving', 'done'), documents, at, who
FROM export_runs ORDER BY id;
INSERT INTO run_steps (run, document_id, state, what, message)
SELECT r.key, x.document_id, 'skipped', '{}', x.reason
FROM export_left x JOIN runs r ON r.kind = 'export' AND r.id = x.run_id JOIN documents d ON d.id = x.document_id
ORDER BY x.run_id, x.document_id;
CREATE TABLE files_of_exports (
  run INTEGER NOT NULL REFERENCES runs (key) ON DELETE CASCADE,
  path TEXT NOT NULL,
  document_id INTEGER,
  bytes INTEGER NOT NULL,
  sha256 TEXT NOT NULL,
  PRIMARY KEY (run, path)
) WITHOUT ROWID;
INSERT INTO files_of_exports
SELECT r.key, x.path, x.document_id, x.bytes, x.sha256 FROM export_files x JOIN runs r ON r.kind = 'export' AND r.id = x.run_id;
DROP TABLE export_files;
ALTER TABLE files_of_exports RENAME TO export_files;
CREATE INDEX export_files_by_document ON export_files (run, document_id);

-- Moves belong to a run of the one table.
CREATE TABLE moves_of_runs (
  id INTEGER PRIMARY KEY,
  run INTEGER REFERENCES runs (key),
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
INSERT INTO moves_of_runs
SELECT m.id, r.key, m.document_id, m.state, m.from_folder, m.from_name, m.to_folder, m.to_name, m.naming_before, m.who, m.at
FROM moves m LEFT JOIN runs r ON r.kind = 'refile' AND r.id = m.run_id;
DROP TABLE moves;
ALTER TABLE moves_of_runs RENAME TO moves;
CREATE INDEX moves_by_document ON moves (document_id);
CREATE INDEX moves_by_run ON moves (run) WHERE run IS NOT NULL;
CREATE INDEX moves_begun ON moves (state) WHERE state = 'begun';

DROP TABLE bulk_values;
DROP TABLE bulk_edits;
DROP TABLE reread_values;
DROP TABLE rereadings;
DROP TABLE retypings;
DROP TABLE retype_runs;
DROP TABLE carried;
DROP TABLE carry_runs;
DROP TABLE filing_run_documents;
DROP TABLE filing_runs;
DROP TABLE refile_runs;
DROP TABLE takeovers;
DROP TABLE export_left;
DROP TABLE export_runs;

-- What was under way when the program ended goes on.
UPDATE jobs SET arguments = json_object('run', arguments ->> '$.edit') WHERE state = 'running' AND kind IN ('bulk-look', 'bulk-apply', 'bulk-undo');
UPDATE jobs SET arguments = json_object('run', arguments ->> '$.id')
WHERE state = 'running' AND kind IN ('carry', 'carry-undo', 'refile', 'refile-undo', 'wave', 'wave-undo');
UPDATE jobs SET arguments = json_object('run', arguments ->> '$.takeover')
WHERE state = 'running' AND kind IN ('package look', 'take over', 'give back');
UPDATE jobs SET kind = CASE kind WHEN 'package look' THEN 'takeover-look' WHEN 'take over' THEN 'takeover-apply' WHEN 'give back' THEN
  'takeover-undo' ELSE kind || '-apply' END
WHERE state = 'running' AND kind IN ('carry', 'refile', 'filing', 'wave', 'export', 'package look', 'take over', 'give back');
