-- Counts what was written of a site, whatever it was: an answer that was computed from all of it holds while the count stands.
ALTER TABLE site ADD COLUMN written bigint NOT NULL DEFAULT 0;
