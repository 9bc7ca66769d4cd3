-- What people filed, day by day; what waves filed is not among it.
CREATE INDEX documents_filed_by_hand ON documents (filed_at, batch_id) WHERE state = 'filed' AND wave_id IS NULL;
CREATE INDEX jobs_ended ON jobs (ended_at) WHERE ended_at IS NOT NULL;
