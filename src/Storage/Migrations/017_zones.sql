-- The time zone (IANA) in which a person sees times; empty for that of the installation.
ALTER TABLE people ADD COLUMN zone TEXT NOT NULL DEFAULT '';
