CREATE TABLE shelf (
    id          TEXT PRIMARY KEY NOT NULL,
    kind        TEXT NOT NULL CHECK (kind IN ('site', 'telescope', 'filter', 'camera')),
    name        TEXT NOT NULL,
    -- The thing without its curves, and where its numbers come from.
    document    TEXT NOT NULL CHECK (json_valid(document)),
    sources     TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(sources)),
    revision    INTEGER NOT NULL DEFAULT 1,
    created_at  TEXT NOT NULL,
    changed_at  TEXT NOT NULL,
    archived_at TEXT,
    deleted_at  TEXT
) STRICT;

CREATE INDEX shelf_kind ON shelf (kind, deleted_at, name);

-- Curves are rows, so that they can be asked about.
CREATE TABLE curve_point (
    shelf_id      TEXT NOT NULL REFERENCES shelf (id) ON DELETE CASCADE,
    -- Path of the curve in the document: 'filter.curve', 'sensor.qe', 'sensor.cfa_curves.r'.
    curve         TEXT NOT NULL,
    position      INTEGER NOT NULL,
    wavelength_nm REAL NOT NULL,
    value         REAL NOT NULL,
    PRIMARY KEY (shelf_id, curve, position)
) STRICT, WITHOUT ROWID;

-- What a user says a catalogue object emits.
CREATE TABLE target_emission (
    object     TEXT PRIMARY KEY NOT NULL,
    document   TEXT NOT NULL CHECK (json_valid(document)),
    changed_at TEXT NOT NULL
) STRICT;
