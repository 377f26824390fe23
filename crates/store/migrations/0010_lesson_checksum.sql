-- What was taken over from nights is sealed like all that is kept.
ALTER TABLE lesson ADD COLUMN checksum INTEGER;
