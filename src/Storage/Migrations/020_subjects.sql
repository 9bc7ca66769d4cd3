-- What a line of the ledger is about, beside the words that were signed: by its kind and its key among them. Lines from before are told
-- by what their words can only mean; where that is more than one thing, nothing is said.
DROP TRIGGER ledger_never_changes;
ALTER TABLE ledger ADD COLUMN subject_kind TEXT;
ALTER TABLE ledger ADD COLUMN subject_id TEXT;
-- What others act upon: filed, undoable, signed in; null for most lines.
ALTER TABLE ledger ADD COLUMN event TEXT;
DROP INDEX ledger_by_object;

UPDATE ledger SET subject_kind = 'document', subject_id = substr(object, 10)
WHERE object GLOB 'document [0-9]*' AND substr(object, 10) NOT GLOB '*[^0-9]*';
UPDATE ledger SET subject_kind = 'reader', subject_id = substr(object, 8)
WHERE substr(object, 1, 7) = 'reader ' AND substr(object, 8) IN (SELECT key FROM readers);
UPDATE ledger SET subject_kind = 'type', subject_id = object
WHERE subject_kind IS NULL AND object IN (SELECT code FROM document_types)
  AND object NOT IN (SELECT key FROM vocabularies UNION ALL SELECT key FROM readers UNION ALL SELECT key FROM reference_tables);
UPDATE ledger SET subject_kind = 'vocabulary', subject_id = object
WHERE subject_kind IS NULL AND object IN (SELECT key FROM vocabularies)
  AND object NOT IN (SELECT code FROM document_types UNION ALL SELECT key FROM readers UNION ALL SELECT key FROM reference_tables);
UPDATE ledger SET event = 'filed'
WHERE subject_kind = 'document'
  AND (action IN ('filed', 'put back into the repository') OR substr(action, 1, 14) = 'filed as a lat');
UPDATE ledger SET event = 'signed in' WHERE action = 'signed in';

CREATE INDEX ledger_by_subject ON ledger (subject_kind, subject_id, seq);
CREATE TRIGGER ledger_never_changes BEFORE UPDATE ON ledger
BEGIN SELECT RAISE(ABORT, 'the ledger is append-only'); END;
