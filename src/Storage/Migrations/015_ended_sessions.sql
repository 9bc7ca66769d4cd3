-- Sessions that somebody has signed out of: their cookies are good for nothing from then on, whoever has a copy.
CREATE TABLE ended_sessions (
  id TEXT PRIMARY KEY,
  until TEXT NOT NULL
) WITHOUT ROWID;
