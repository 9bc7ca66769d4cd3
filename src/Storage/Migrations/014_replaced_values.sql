-- A value that somebody has typed over what was read no longer stands where it was read, for all that is known: its place says so from
-- now on.
UPDATE documents SET evidence = (
  SELECT json_group_object(
    e.key,
    json(
      CASE
        WHEN EXISTS (
          SELECT 1 FROM value_history h
          WHERE h.document_id = documents.id AND h.field = e.key
            AND (h.how = 'typed' OR h.how LIKE 'edited%' OR h.how LIKE 'bulk edit %')
        )
        THEN json_set(e.value, '$.replaced', json('true'))
        ELSE e.value
      END
    )
  )
  FROM json_each(documents.evidence) e
)
WHERE id IN (
  SELECT document_id FROM value_history WHERE how = 'typed' OR how LIKE 'edited%' OR how LIKE 'bulk edit %'
);
