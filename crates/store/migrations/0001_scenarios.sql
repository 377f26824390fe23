CREATE TABLE scenario (
    id         TEXT PRIMARY KEY NOT NULL,
    title      TEXT NOT NULL,
    target     TEXT NOT NULL,
    document   TEXT NOT NULL CHECK (json_valid(document)),
    revision   INTEGER NOT NULL DEFAULT 1,
    created_at TEXT NOT NULL,
    changed_at TEXT NOT NULL,
    deleted_at TEXT
) STRICT;

CREATE INDEX scenario_changed ON scenario (deleted_at, changed_at);
