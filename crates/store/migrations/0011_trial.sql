-- Trials: what is compared, how it was designed, and the frames that were taken.
CREATE TABLE trial (
    id         TEXT PRIMARY KEY NOT NULL,
    title      TEXT NOT NULL,
    document   TEXT NOT NULL CHECK (json_valid(document)),
    revision   INTEGER NOT NULL DEFAULT 1,
    created_at TEXT NOT NULL,
    changed_at TEXT NOT NULL,
    deleted_at TEXT,
    checksum   INTEGER
) STRICT;
