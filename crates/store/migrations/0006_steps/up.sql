-- Steps of undo and redo, beside the patch they belong to.
CREATE TABLE steps (
    patch_id INTEGER NOT NULL REFERENCES patches (id) ON DELETE CASCADE,
    -- 'past' or 'future'
    side TEXT NOT NULL,
    -- steps of the past are counted from the first one ever made; of the future the highest is the next
    place INTEGER NOT NULL,
    -- what it did, in words
    label TEXT NOT NULL,
    -- JSON: lines that give way to others, from the document nearer to the present to the one behind this step
    difference TEXT NOT NULL,
    seal TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (patch_id, side, place)
);
