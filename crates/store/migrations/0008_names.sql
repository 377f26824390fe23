-- What names in headers mean: a filter or a camera as the kit calls it, said once and remembered.
CREATE TABLE header_name (
    kind  TEXT NOT NULL CHECK (kind IN ('filter', 'camera')),
    said  TEXT NOT NULL,
    means TEXT NOT NULL,
    PRIMARY KEY (kind, said)
) STRICT;

-- What headers of a session say wrongly, or not at all, and somebody corrected.
CREATE TABLE session_correction (
    session  TEXT PRIMARY KEY NOT NULL REFERENCES log_session (id) ON DELETE CASCADE,
    document TEXT NOT NULL
) STRICT;

-- Root mean square of the guider's errors in a frame, where its table was dropped in.
ALTER TABLE frame ADD COLUMN guiding_arcsec REAL;
