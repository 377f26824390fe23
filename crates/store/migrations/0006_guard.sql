-- Whose database this is: the letters SALT. A file that is another program's is told by it.
PRAGMA application_id = 1396788308;

-- A checksum of what a row says, made when it is written and compared when it is read: a page that a
-- disk has altered still parses now and then. Null until the next start, which fills it: so can a row
-- that was mended by hand be trusted again.
ALTER TABLE scenario ADD COLUMN checksum INTEGER;
ALTER TABLE shelf ADD COLUMN checksum INTEGER;
ALTER TABLE campaign ADD COLUMN checksum INTEGER;
ALTER TABLE blind_look ADD COLUMN checksum INTEGER;
ALTER TABLE target_emission ADD COLUMN checksum INTEGER;

-- Who may use it. Never the words themselves: an argon2id hash of the passphrase, and SHA-256 of the
-- random secrets of sessions and tokens.
CREATE TABLE passphrase (
    one        INTEGER PRIMARY KEY CHECK (one = 1),
    hash       TEXT NOT NULL,
    changed_at TEXT NOT NULL
) STRICT;

CREATE TABLE session (
    secret_sha256 TEXT PRIMARY KEY NOT NULL,
    -- By which it is named on screen.
    id            TEXT NOT NULL UNIQUE,
    -- The browser and the address, as they said it.
    told          TEXT NOT NULL,
    created_at    TEXT NOT NULL,
    seen_at       TEXT NOT NULL,
    ends_at       TEXT NOT NULL
) STRICT, WITHOUT ROWID;

CREATE TABLE token (
    secret_sha256 TEXT PRIMARY KEY NOT NULL,
    id            TEXT NOT NULL UNIQUE,
    name          TEXT NOT NULL,
    created_at    TEXT NOT NULL,
    used_at       TEXT,
    ends_at       TEXT NOT NULL
) STRICT, WITHOUT ROWID;
