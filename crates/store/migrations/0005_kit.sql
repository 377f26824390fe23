-- Rigs stand on the shelf too. What is owned, and which rig and which site are the usual ones, is kept with each thing. The list of
-- kinds is part of the table, so the table is made anew; rows keep their order, and curves stay with their things.
CREATE TABLE shelf_next (
    id          TEXT PRIMARY KEY NOT NULL,
    kind        TEXT NOT NULL CHECK (kind IN ('site', 'telescope', 'filter', 'camera', 'rig')),
    name        TEXT NOT NULL,
    -- The thing without its curves, and where its numbers come from.
    document    TEXT NOT NULL CHECK (json_valid(document)),
    sources     TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(sources)),
    revision    INTEGER NOT NULL DEFAULT 1,
    created_at  TEXT NOT NULL,
    changed_at  TEXT NOT NULL,
    archived_at TEXT,
    deleted_at  TEXT,
    -- Owned, and not only on offer.
    mine        INTEGER NOT NULL DEFAULT 0 CHECK (mine IN (0, 1)),
    -- The one of its kind with which everything begins.
    usual       INTEGER NOT NULL DEFAULT 0 CHECK (usual IN (0, 1))
) STRICT;

-- What a user made or changed is the user's, and so is a site from which a campaign is shot.
INSERT INTO shelf_next
SELECT id, kind, name, document, sources, revision, created_at, changed_at, archived_at, deleted_at,
       length(id) = 36 OR revision > 1
       OR id IN (SELECT json_extract(document, '$.site') FROM campaign WHERE deleted_at IS NULL), 0
FROM shelf ORDER BY rowid;

CREATE TABLE curve_point_next (
    shelf_id      TEXT NOT NULL REFERENCES shelf_next (id) ON DELETE CASCADE,
    -- Path of the curve in the document: 'filter.curve', 'sensor.qe', 'sensor.cfa_curves.r'.
    curve         TEXT NOT NULL,
    position      INTEGER NOT NULL,
    wavelength_nm REAL NOT NULL,
    value         REAL NOT NULL,
    PRIMARY KEY (shelf_id, curve, position)
) STRICT, WITHOUT ROWID;

INSERT INTO curve_point_next SELECT * FROM curve_point;
DROP TABLE curve_point;
DROP TABLE shelf;
ALTER TABLE shelf_next RENAME TO shelf;
ALTER TABLE curve_point_next RENAME TO curve_point;
CREATE INDEX shelf_kind ON shelf (kind, deleted_at, name);
CREATE UNIQUE INDEX shelf_usual ON shelf (kind) WHERE usual = 1;

-- A comparison that was begun and not touched yet: in no list, and gone after a day.
ALTER TABLE scenario ADD COLUMN untouched INTEGER NOT NULL DEFAULT 0 CHECK (untouched IN (0, 1));
