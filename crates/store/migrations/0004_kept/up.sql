-- what is kept beside patches: phrases, learnt controllers; a kind and a name each
CREATE TABLE kept (
    kind TEXT NOT NULL,
    name TEXT NOT NULL,
    -- JSON
    document TEXT NOT NULL,
    changed_at TEXT NOT NULL,
    PRIMARY KEY (kind, name)
);
