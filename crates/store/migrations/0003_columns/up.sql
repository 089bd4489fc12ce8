-- What lists show stands in columns before the document, so that a list reads no document. The table is made anew
-- because columns behind a long text are found only by reading through it. Foreign keys are off while migrating.
CREATE TABLE patches_new (
    id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL,
    name TEXT NOT NULL,
    -- rises with every save; a save must name the one it is based on
    revision INTEGER NOT NULL,
    created_at TEXT NOT NULL,
    changed_at TEXT NOT NULL,
    -- when it went into the bin; NULL while it is in the library
    binned_at TEXT,
    -- JSON list of texts
    tags TEXT NOT NULL DEFAULT '[]',
    note TEXT NOT NULL DEFAULT '',
    strips INTEGER NOT NULL DEFAULT 0,
    -- SHA-256 of the document the columns were read from; empty: not looked at yet
    content TEXT NOT NULL DEFAULT '',
    -- why the document cannot be read; NULL if it can
    damage TEXT,
    -- the patch file, as text
    document TEXT NOT NULL
);
INSERT INTO patches_new (id, name, revision, created_at, changed_at, binned_at, document)
    SELECT id, name, revision, created_at, changed_at, binned_at, document FROM patches;
-- numbers are never given twice, not even those of patches that are gone
DELETE FROM sqlite_sequence WHERE name = 'patches_new';
INSERT INTO sqlite_sequence (name, seq) SELECT 'patches_new', seq FROM sqlite_sequence WHERE name = 'patches';
DROP TABLE patches;
ALTER TABLE patches_new RENAME TO patches;
CREATE INDEX patches_by_change ON patches (changed_at DESC, id DESC);

-- a document changed by something else than this application is looked at again
CREATE TRIGGER patches_unread AFTER UPDATE OF document ON patches
WHEN NEW.content = OLD.content AND NEW.document IS NOT OLD.document
BEGIN
    UPDATE patches SET content = '' WHERE id = NEW.id;
END;

-- which library this is: what a browser keeps for one library must never reach another
CREATE TABLE library (
    id TEXT PRIMARY KEY NOT NULL,
    made_at TEXT NOT NULL
);
INSERT INTO library (id, made_at) VALUES (lower(hex(randomblob(16))), strftime('%Y-%m-%dT%H:%M:%fZ', 'now'));
