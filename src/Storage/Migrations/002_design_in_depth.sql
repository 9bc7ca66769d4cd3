ALTER TABLE people ADD COLUMN language TEXT NOT NULL DEFAULT 'en';

ALTER TABLE vocabularies ADD COLUMN growth TEXT NOT NULL DEFAULT 'Fixed';
ALTER TABLE vocabularies ADD COLUMN language TEXT NOT NULL DEFAULT 'en';

-- Terms get an id of their own, so that a label may change; "more" holds what look-ups do not need.
ALTER TABLE terms RENAME TO terms_before;
CREATE TABLE terms (
  vocabulary_key TEXT NOT NULL REFERENCES vocabularies (key),
  id TEXT NOT NULL,
  position INTEGER NOT NULL,
  label TEXT NOT NULL,
  variants TEXT NOT NULL,
  code TEXT,
  status TEXT NOT NULL CHECK (status IN ('Current', 'Retired', 'Proposed')),
  more TEXT NOT NULL DEFAULT '{}',
  PRIMARY KEY (vocabulary_key, id)
) WITHOUT ROWID;
INSERT INTO terms (vocabulary_key, id, position, label, variants, code, status)
  SELECT vocabulary_key, label, position, label, variants, code, status FROM terms_before;
DROP TABLE terms_before;
CREATE INDEX terms_in_order ON terms (vocabulary_key, position);

-- Terms before each change, and what the change did to documents; undo takes the newest back.
CREATE TABLE vocabulary_history (
  id INTEGER PRIMARY KEY,
  vocabulary_key TEXT NOT NULL REFERENCES vocabularies (key),
  change TEXT NOT NULL,
  before TEXT NOT NULL,
  added TEXT NOT NULL,
  documents TEXT NOT NULL
);
CREATE INDEX vocabulary_history_by_key ON vocabulary_history (vocabulary_key, id);

-- What the steward wrote, next to the whole design with its inherited parts.
ALTER TABLE type_versions ADD COLUMN source TEXT;

CREATE TABLE reference_tables (
  key TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  columns TEXT NOT NULL,
  address TEXT,
  revision INTEGER NOT NULL DEFAULT 1,
  brought_at TEXT
);

CREATE TABLE reference_rows (
  table_key TEXT NOT NULL REFERENCES reference_tables (key),
  key TEXT NOT NULL,
  position INTEGER NOT NULL,
  cells TEXT NOT NULL,
  PRIMARY KEY (table_key, key)
) WITHOUT ROWID;
