-- Days on which the office is closed, which rules about working days ask for.
CREATE TABLE closed_days (
  day TEXT PRIMARY KEY CHECK (day GLOB '[0-9][0-9][0-9][0-9]-[0-9][0-9]-[0-9][0-9]'),
  name TEXT NOT NULL
) WITHOUT ROWID;
