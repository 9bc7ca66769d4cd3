-- Fields by whose values filed documents are found and sorted; numbered, so that an entry is short.
CREATE TABLE found_fields (
  id INTEGER PRIMARY KEY,
  type_code TEXT NOT NULL,
  field TEXT NOT NULL,
  UNIQUE (type_code, field)
);

-- Each value that occurs in such a field, once, as it is compared (Core/Schemas/SearchKey). The upper part of an id is that of its field
-- (id >> 40), so that the one value of a document in a field is found by a range of ids.
CREATE TABLE found_values (
  id INTEGER PRIMARY KEY,
  field_id INTEGER NOT NULL REFERENCES found_fields (id),
  value NOT NULL
);
CREATE UNIQUE INDEX found_values_in_order ON found_values (field_id, value);

-- Which document has which. Values are taken away only when no document has them, so that they need no foreign key.
CREATE TABLE found_in (
  document_id INTEGER NOT NULL REFERENCES documents (id) ON DELETE CASCADE,
  value_id INTEGER NOT NULL,
  PRIMARY KEY (document_id, value_id)
) WITHOUT ROWID;
CREATE INDEX found_in_by_value ON found_in (value_id, document_id);

-- Texts among the values by their pieces of three characters.
CREATE VIRTUAL TABLE found_pieces USING fts5 (value, content = '', columnsize = 0, detail = none, tokenize = 'trigram');

-- Folders of the repository with how many documents stand right in them, and in them and below.
CREATE TABLE folders (
  path TEXT PRIMARY KEY,
  parent TEXT,
  here INTEGER NOT NULL,
  below INTEGER NOT NULL
) WITHOUT ROWID;
CREATE INDEX folders_by_parent ON folders (parent, path);

-- How many documents of each type are filed.
CREATE TABLE filed_types (
  type_code TEXT PRIMARY KEY,
  filed INTEGER NOT NULL
) WITHOUT ROWID;

INSERT INTO filed_types (type_code, filed) SELECT type_code, count(*) FROM documents WHERE state = 'filed' AND type_code IS NOT NULL GROUP BY type_code;
WITH RECURSIVE
  counted (path, here) AS (SELECT folder, count(*) FROM documents WHERE state = 'filed' GROUP BY folder),
  parts (path, here, below) AS (
    SELECT path, here, here FROM counted
    UNION ALL
    SELECT CASE WHEN instr(path, '/') > 0 THEN rtrim(rtrim(path, replace(path, '/', '')), '/') ELSE '' END, 0, below FROM parts WHERE path <> ''
  )
INSERT INTO folders (path, parent, here, below)
  SELECT path, CASE WHEN instr(path, '/') > 0 THEN rtrim(rtrim(path, replace(path, '/', '')), '/') WHEN path = '' THEN NULL ELSE '' END, sum(here), sum(below) FROM parts GROUP BY path;

CREATE INDEX documents_by_type_and_place ON documents (type_code, folder, name) WHERE state = 'filed';
DROP INDEX batch_files_waiting;
CREATE INDEX batch_files_by_state ON batch_files (state, batch_id);
CREATE INDEX documents_on_desk ON documents (batch_id, source_file) WHERE state = 'desk';
