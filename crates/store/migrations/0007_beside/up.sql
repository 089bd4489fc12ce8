-- A state of a patch that could not be saved as a patch, kept as it is beside the good one: one for each patch.
CREATE TABLE beside (
    patch_id INTEGER PRIMARY KEY NOT NULL REFERENCES patches (id) ON DELETE CASCADE,
    -- why it could not be saved, in words
    why TEXT NOT NULL,
    kept_at TEXT NOT NULL,
    document TEXT NOT NULL,
    seal TEXT NOT NULL DEFAULT ''
);
