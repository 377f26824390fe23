-- Figures of site and rig that somebody took over from a night, and took back again.
CREATE TABLE lesson (
    id        TEXT PRIMARY KEY NOT NULL,
    session   TEXT REFERENCES log_session (id) ON DELETE SET NULL,
    document  TEXT NOT NULL,
    taken_at  TEXT NOT NULL,
    undone_at TEXT
) STRICT;
