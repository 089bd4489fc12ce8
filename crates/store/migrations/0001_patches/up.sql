CREATE TABLE patches (
    id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
    name TEXT NOT NULL,
    -- the patch file, as text
    document TEXT NOT NULL,
    -- rises with every save; a save must name the one it is based on
    revision INTEGER NOT NULL,
    created_at TEXT NOT NULL,
    changed_at TEXT NOT NULL,
    -- when it went into the bin; NULL while it is in the library
    binned_at TEXT
);
CREATE TABLE versions (
    id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
    patch_id INTEGER NOT NULL REFERENCES patches (id) ON DELETE CASCADE,
    name TEXT NOT NULL,
    document TEXT NOT NULL,
    created_at TEXT NOT NULL
);
CREATE INDEX versions_by_patch ON versions (patch_id);
