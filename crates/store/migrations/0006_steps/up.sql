-- Steps of undo and redo, beside the patch they belong to.
CREATE TABLE steps (
    patch_id INTEGER NOT NULL REFERENCES patches (id) ON DELETE CASCADE,
    -- 'past' or 'future'
    side TEXT NOT NULL,
    -- steps of the past are counted from the first one ever made; of the future the lowest is the next
    place INTEGER NOT NULL,
    -- what it did, in words
    label TEXT NOT NULL,
    -- JSON Patch (RFC 6902) from the state nearer to the present to the one behind this step
    difference TEXT NOT NULL,
    seal TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (patch_id, side, place)
);
