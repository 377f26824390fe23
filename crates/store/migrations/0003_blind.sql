-- Blind looks: what is compared, in which shuffled order, what was chosen, and what the figures said.
CREATE TABLE blind_look (
    id          TEXT PRIMARY KEY NOT NULL,
    title       TEXT NOT NULL,
    -- Scenario, view, and the hidden order of each round.
    document    TEXT NOT NULL CHECK (json_valid(document)),
    -- The positions of each round from best to worst, as they were chosen.
    choices     TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(choices)),
    -- What was revealed; null until then.
    result      TEXT CHECK (result IS NULL OR json_valid(result)),
    created_at  TEXT NOT NULL,
    revealed_at TEXT
) STRICT;
