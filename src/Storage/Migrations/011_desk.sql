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
