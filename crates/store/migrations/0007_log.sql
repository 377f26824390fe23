-- The log: nights with a camera, and the frames of each. Pixels stay in their files.
CREATE TABLE log_session (
    id         TEXT PRIMARY KEY NOT NULL,
    night      TEXT NOT NULL,
    camera     TEXT NOT NULL,
    note       TEXT NOT NULL DEFAULT '',
    created_at TEXT NOT NULL,
    UNIQUE (night, camera)
) STRICT;

CREATE TABLE frame (
    id          TEXT PRIMARY KEY NOT NULL,
    session     TEXT NOT NULL REFERENCES log_session (id),
    -- SHA-256 of the file: a frame is in the log once, whatever its file is called.
    content     TEXT NOT NULL UNIQUE,
    -- Where its file lies; null of one that was dropped.
    path        TEXT,
    bytes       INTEGER NOT NULL,
    modified_ms INTEGER NOT NULL,
    -- Whether its file was not there when it was last looked for.
    gone        INTEGER NOT NULL DEFAULT 0,
    start_s     REAL,
    kind        TEXT,
    object      TEXT,
    filter      TEXT,
    exposure_s  REAL,
    gain        REAL,
    -- Level and scatter by which its preview is drawn, those of the first frame like it.
    shown_level REAL NOT NULL,
    shown_sigma REAL NOT NULL,
    -- What somebody said of it: 'kept' or 'aside'; null where the rules decide.
    decision    TEXT CHECK (decision IN ('kept', 'aside')),
    why         TEXT NOT NULL DEFAULT '',
    checksum    INTEGER,
    added_at    TEXT NOT NULL
) STRICT;
CREATE INDEX frame_of_session ON frame (session, start_s);
CREATE INDEX frame_at_path ON frame (path);

-- What was measured, and a small picture: apart, so that lists do not walk over them.
CREATE TABLE frame_measured (
    frame    TEXT PRIMARY KEY NOT NULL REFERENCES frame (id) ON DELETE CASCADE,
    document TEXT NOT NULL,
    preview  BLOB NOT NULL
) STRICT;

-- What happened in a night beside its frames.
CREATE TABLE log_event (
    id      TEXT PRIMARY KEY NOT NULL,
    session TEXT NOT NULL REFERENCES log_session (id) ON DELETE CASCADE,
    at_s    REAL NOT NULL,
    kind    TEXT NOT NULL,
    text    TEXT NOT NULL DEFAULT ''
) STRICT;

-- Folders that are watched, as they were chosen.
CREATE TABLE watched_folder (
    folder TEXT PRIMARY KEY NOT NULL
) STRICT;
