-- How documents arrive; definition is JSON.
CREATE TABLE ways_in (
  key TEXT PRIMARY KEY,
  definition TEXT NOT NULL
);

-- Which way a batch came, what a person decided about its separation (JSON: what was decided last, and each step before, for undo), and
-- whether it waits to be looked at before documents are made of it.
ALTER TABLE batches ADD COLUMN way_in TEXT;
ALTER TABLE batches ADD COLUMN cutting TEXT;
ALTER TABLE batches ADD COLUMN state TEXT NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'look', 'given up'));
CREATE INDEX batches_to_look_at ON batches (id) WHERE state = 'look';

-- How many pages a file has, once it was opened; its SHA-256; whether documents were made of its pages.
ALTER TABLE batch_files ADD COLUMN pages INTEGER;
ALTER TABLE batch_files ADD COLUMN hash TEXT;
ALTER TABLE batch_files ADD COLUMN separated INTEGER NOT NULL DEFAULT 1;
CREATE INDEX batch_files_to_separate ON batch_files (batch_id) WHERE separated = 0 AND state = 'taken';

-- The pages of a batch as they were read, before and after they became documents. One that vanished has no document.
CREATE TABLE stack_pages (
  file_id INTEGER NOT NULL REFERENCES batch_files (id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  image TEXT NOT NULL,
  page TEXT NOT NULL,
  notice TEXT,
  document_id INTEGER REFERENCES documents (id) ON DELETE SET NULL,
  PRIMARY KEY (file_id, number)
);
CREATE INDEX stack_pages_by_document ON stack_pages (document_id) WHERE document_id IS NOT NULL;

-- Which page of which file a page of a document is; page 0 is the sheet that came before the document. Null for pages read before.
ALTER TABLE pages ADD COLUMN file_id INTEGER REFERENCES batch_files (id);
ALTER TABLE pages ADD COLUMN file_page INTEGER;
CREATE INDEX pages_by_file ON pages (file_id) WHERE file_id IS NOT NULL;

-- What a watched folder gave, so that nothing is taken twice; put_away once it was moved out of the way.
CREATE TABLE taken_files (
  way_in TEXT NOT NULL,
  hash TEXT NOT NULL,
  name TEXT NOT NULL,
  file_id INTEGER NOT NULL REFERENCES batch_files (id),
  taken_at TEXT NOT NULL,
  put_away INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (way_in, hash)
) WITHOUT ROWID;
CREATE INDEX taken_files_by_file ON taken_files (file_id);
CREATE INDEX taken_files_to_put_away ON taken_files (way_in) WHERE put_away = 0;

-- Deliveries to the API by the key that their sender gave them, so that one sent twice is one batch.
CREATE TABLE deliveries (
  sender TEXT NOT NULL,
  key TEXT NOT NULL,
  batch_id INTEGER NOT NULL REFERENCES batches (id),
  PRIMARY KEY (sender, key)
) WITHOUT ROWID;
CREATE INDEX deliveries_by_batch ON deliveries (batch_id);

-- Sheets that were printed here: their layout and values (JSON), known again by the token in their code.
CREATE TABLE sheet_prints (
  token TEXT PRIMARY KEY,
  print TEXT NOT NULL,
  made_by TEXT NOT NULL,
  made_at TEXT NOT NULL
);
